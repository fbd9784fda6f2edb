//! Forms of records: what is typed is read like a row of a file, so a form and a file are refused by the same rules in the same words.

use super::{Column, choices, columns, input_of};
use crate::words;
use snug_core::{
    Eyes, Plan, Role,
    change::Change,
    import::{Dataset, record},
    kinds::{AboutPart, Input, Kind, OWN, parts_of},
};
use snug_exchange::csv::row_of;

/// What was sent, in order.
pub type Pairs = Vec<(String, String)>;

/// What was sent under a name; nothing where there is no such field.
pub fn sent<'a>(pairs: &'a Pairs, name: &str) -> &'a str {
    pairs.iter().find(|(known, _)| known == name).map_or("", |(_, value)| value)
}

/// Columns that were sent value by value, as rows.
pub fn rows_of(pairs: &Pairs, columns: impl Iterator<Item = String>) -> Vec<Vec<String>> {
    let column = |name: String| pairs.iter().filter(move |(known, _)| *known == name).map(|(_, value)| value.trim());
    let columns: Vec<Vec<&str>> = columns.map(|name| column(name).collect()).collect();
    let length = columns.iter().map(Vec::len).max().unwrap_or(0);
    let row = |at: usize| columns.iter().map(|column| column.get(at).copied().unwrap_or_default().to_owned()).collect();
    (0..length).map(row).collect()
}

/// One field of a form.
pub struct Field {
    /// The column's name.
    pub name: String,
    /// What it is called.
    pub label: String,
    /// How it is typed.
    pub input: &'static str,
    /// What stands in it.
    pub value: String,
    /// What a form says of it.
    pub hint: String,
    /// What is wrong with it.
    pub problem: Option<String>,
    /// What somebody else has put there meanwhile.
    pub theirs: Option<String>,
    /// Value, label, and whether it is chosen.
    pub choices: Vec<(String, String, bool)>,
}

/// Rows that belong to a record: later patterns, rates, members.
pub struct Extra {
    /// The name under which its columns are sent.
    pub name: &'static str,
    /// What it is called.
    pub title: &'static str,
    /// What it is for.
    pub says: &'static str,
    /// Name, label and input of each column.
    pub columns: Vec<(&'static str, &'static str, &'static str)>,
    /// The rows, some blank ones last.
    pub rows: Vec<Vec<String>>,
    /// What is wrong with it.
    pub problem: Option<String>,
}

/// What is wrong, by column.
pub type Problems = Vec<(String, String)>;

/// The rows of an extra as they were sent, without blank ones.
fn sent_rows(pairs: &Pairs, name: &str, columns: &[&str]) -> Vec<Vec<String>> {
    let mut rows = rows_of(pairs, columns.iter().map(|column| format!("{name}.{column}")));
    rows.retain(|row| row.iter().any(|value| !value.is_empty()));
    rows
}

/// The record that a form describes.
///
/// # Errors
/// What is wrong, by column.
pub fn read(plan: &Plan, kind: Kind, pairs: &Pairs, id: i32) -> Result<Change, Problems> {
    // Who may change a record of a kind sees all of it.
    let columns = columns(plan, kind, Role::Administrator);
    // A line that came with a line break in it was pasted; files would take it for two.
    let line = |value: &str| value.replace(['\r', '\n'], " ");
    let cells: Pairs = columns.iter().map(|column| (column.name.clone(), line(sent(pairs, &column.name)))).collect();
    let mut data =
        Dataset::of_row(kind.about().file, cells.iter().map(|(name, value)| (name.as_str(), value.as_str())));
    add_extras(&mut data, kind, pairs, &cells);
    let told = data.problems.iter().filter(|problem| problem.file != kind.about().file);
    let told: Problems = told
        .map(|problem| {
            (problem.file.trim_end_matches(".csv").to_owned(), format!("{}: {}", problem.column, problem.reason))
        })
        .collect();
    if !told.is_empty() {
        return Err(told);
    }
    record(plan, kind, &data, id)
}

/// A record with some of its cells said otherwise.
///
/// # Errors
/// What is wrong, by column.
pub fn altered(eyes: &Eyes<'_>, record: &Change, cells: &[(&str, &str)]) -> Result<Change, Problems> {
    let mut pairs = values(eyes, record);
    for (column, value) in cells {
        match pairs.iter_mut().find(|(name, _)| name == column) {
            Some((_, stands)) => (*value).clone_into(stands),
            None => pairs.push(((*column).to_owned(), (*value).to_owned())),
        }
    }
    let (kind, id) = record.subject();
    read(eyes.plan, kind, &pairs, id)
}

fn add_extras(data: &mut Dataset, kind: Kind, pairs: &Pairs, cells: &Pairs) {
    for part in kind.parts() {
        let columns: Vec<&str> = part.columns.iter().map(|spec| spec.name).collect();
        let key = sent(cells, kind.about().key_column);
        for row in sent_rows(pairs, part.name, &columns[1..]) {
            data.add_row(
                part.file,
                2,
                columns.iter().copied().zip(std::iter::once(key).chain(row.iter().map(String::as_str))),
            );
        }
    }
}

/// The fields of a form that shows a record, or what was sent and what is wrong with it.
/// What a record is called by comes first.
pub fn fields(
    plan: &Plan,
    kind: Kind,
    columns: &[Column],
    values: &Pairs,
    problems: &Problems,
    theirs: &Pairs,
) -> Vec<Field> {
    let of = |list: &Pairs, name: &str| list.iter().find(|(known, _)| known == name).map(|(_, value)| value.clone());
    let field = |column: &Column| {
        let value = of(values, &column.name).unwrap_or_default();
        let chosen = |(raw, label): (String, String)| {
            let on = raw == value;
            (raw, label, on)
        };
        let mut choices: Vec<(String, String, bool)> = choices(plan, column).into_iter().map(chosen).collect();
        if !choices.is_empty() && !value.is_empty() && !choices.iter().any(|(_, _, on)| *on) {
            choices.push((value.clone(), value.clone(), true));
        }
        Field {
            label: match column.input {
                Input::Hours => format!("{} (h)", column.label),
                _ => column.label.clone(),
            },
            input: input_of(column),
            hint: column.hint.to_owned(),
            problem: of(problems, &column.name).map(|reason| words::capital(&reason)),
            theirs: of(theirs, &column.name)
                .filter(|now| *now != value)
                .map(|now| if now.is_empty() { "nothing".to_owned() } else { super::shown(plan, column, &now) }),
            choices,
            name: column.name.clone(),
            value,
        }
    };
    let (first, rest): (Vec<&Column>, Vec<&Column>) =
        columns.iter().partition(|column| column.name == kind.about().title);
    first.into_iter().chain(rest).map(field).collect()
}

/// The fields of a form in the groups of their kind: those in none first, the workspace's own in the last one.
pub fn grouped(kind: Kind, fields: Vec<Field>) -> Vec<(&'static str, Vec<Field>)> {
    let groups = kind.about().groups;
    let mut found: Vec<(&'static str, Vec<Field>)> = vec![("", Vec::new())];
    found.extend(groups.iter().map(|(heading, _)| (*heading, Vec::new())));
    for field in fields {
        let own = field.name.starts_with(OWN).then_some(groups.len());
        let at = groups.iter().position(|(_, names)| names.contains(&field.name.as_str()));
        let at = at.map_or(own.unwrap_or(0), |at| at + 1);
        found[at].1.push(field);
    }
    // In the order in which the group names them.
    for ((_, fields), (_, names)) in found[1..].iter_mut().zip(groups) {
        fields.sort_by_key(|field| names.iter().position(|name| *name == field.name).unwrap_or(names.len()));
    }
    found.retain(|(_, fields)| !fields.is_empty());
    found
}

/// What a record holds, column by column, with its extras in the same form in which they are sent.
pub fn values(eyes: &Eyes<'_>, record: &Change) -> Pairs {
    let mut pairs = row_of(eyes, record).unwrap_or_default();
    for (part, rows) in record.subject().0.parts().iter().zip(parts_of(eyes.plan, record)) {
        for row in rows.1 {
            let cells = part.columns[1..].iter().zip(row);
            pairs.extend(cells.map(|(spec, value)| (format!("{}.{}", part.name, spec.name), value)));
        }
    }
    pairs
}

/// The extras of a kind with what was sent or stands, and blank rows for more.
pub fn extras(kind: Kind, pairs: &Pairs, problems: &Problems, role: Role) -> Vec<Extra> {
    let extra = |part: AboutPart| {
        let typed = |input: Input| match input {
            Input::Date => "date",
            Input::Number => "number",
            Input::One(Kind::Person) => "person",
            _ => "line",
        };
        let columns =
            part.columns[1..].iter().map(|spec| (spec.name, spec.label, typed(spec.input))).collect::<Vec<_>>();
        let keys: Vec<&str> = columns.iter().map(|(key, _, _)| *key).collect();
        let mut rows = sent_rows(pairs, part.name, &keys);
        rows.extend(std::iter::repeat_n(vec![String::new(); keys.len()], 2));
        let problem = problems.iter().find(|(column, _)| column == part.name).map(|(_, reason)| words::capital(reason));
        Extra { name: part.name, title: part.title, says: part.says, columns, rows, problem }
    };
    kind.parts().into_iter().filter(|part| part.is_for(role)).map(extra).collect()
}
