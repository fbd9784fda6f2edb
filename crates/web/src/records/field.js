// The input for the values of a column: a list where one chooses, a date, a box to tick, or a line with offers.

export function fieldFor({ input, choices, kind, column, value }) {
  const field = document.createElement(choices.length ? "select" : "input");
  for (const [raw, label] of choices) field.append(new Option(label, raw));
  field.value = value;
  if (field.value !== value) field.append(new Option(value, value, true, true));
  if (input === "date") field.type = "date";
  if (input === "number") field.inputMode = "decimal";
  if (input === "yes") {
    field.type = "checkbox";
    field.checked = value === "yes";
    field.value = "yes";
  }
  if (["person", "people", "task", "milestones", "projects", "used"].includes(input)) {
    Object.assign(field.dataset, { suggest: input, kind, column });
    field.autocomplete = "off";
  }
  return field;
}
