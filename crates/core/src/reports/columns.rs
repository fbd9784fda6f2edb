//! The columns of reports.

use super::{Ask, By, Figures, Item, Subject, Value};
use crate::{Day, Plan};

/// How a value is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shape {
    /// Words.
    Text,
    /// A day.
    Day,
    /// Hours.
    Hours,
    /// Money.
    Money,
    /// A whole number.
    Count,
    /// Percent.
    Percent,
}

/// A column of a report.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Column {
    /// Its name in files and addresses.
    pub name: &'static str,
    /// What stands above it.
    pub label: &'static str,
    /// How its values are written.
    pub shape: Shape,
    /// Whether its values have a sum.
    pub adds_up: bool,
    /// Whether it is for those alone who see money.
    pub is_money: bool,
    /// Which figure it shows; of what is no figure it does not matter.
    pub(super) slot: Slot,
}

/// A figure that things have and groups add up.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Slot {
    /// How many things there are.
    Number,
    /// Minutes: what was logged, or is estimated.
    First,
    /// Minutes: what of it is billable, is left, or was worked.
    Second,
    /// How many of the things are so: on time, late.
    Good,
    /// How many are not.
    Bad,
    /// What work cost.
    Cost,
    /// What is billed.
    Billed,
    /// What was spent besides work.
    Spent,
    /// Billed less cost and what was spent.
    Margin,
}

const fn text(name: &'static str, label: &'static str) -> Column {
    Column { name, label, shape: Shape::Text, adds_up: false, is_money: false, slot: Slot::Number }
}

const fn date(name: &'static str, label: &'static str) -> Column {
    Column { shape: Shape::Day, ..text(name, label) }
}

const fn figure(name: &'static str, label: &'static str, shape: Shape, slot: Slot) -> Column {
    Column { name, label, shape, adds_up: true, is_money: matches!(shape, Shape::Money), slot }
}

const PROJECT: Column = text("project", "Project");
const PERSON: Column = text("person", "Person");
const ASSIGNEES: Column = text("person", "Who");
const TASK: Column = text("task", "Task");
const KIND: Column = text("kind", "Kind");
const STAGE: Column = text("stage", "Stage");
const DATE: Column = date("date", "Date");
const HOURS: Column = figure("hours", "Hours", Shape::Hours, Slot::First);
const BILLABLE: Column = figure("billable_hours", "Billable", Shape::Hours, Slot::Second);
const COST: Column = figure("cost", "Cost", Shape::Money, Slot::Cost);
const BILLED: Column = figure("billed", "Billed", Shape::Money, Slot::Billed);
const SPENT: Column = figure("expenses", "Expenses", Shape::Money, Slot::Spent);
const MARGIN: Column = figure("margin", "Margin", Shape::Money, Slot::Margin);
const ESTIMATE: Column = figure("estimate", "Estimate", Shape::Hours, Slot::First);
const REMAINING: Column = figure("remaining", "Remaining", Shape::Hours, Slot::Second);
const ACTUAL: Column = figure("actual", "Worked", Shape::Hours, Slot::Second);

/// The columns of a report without groups.
#[must_use]
pub fn columns_of(subject: Subject) -> Vec<Column> {
    match subject {
        Subject::Time => vec![DATE, PERSON, PROJECT, TASK, KIND, text("note", "Note"), HOURS, BILLABLE, COST, BILLED],
        Subject::Tasks => vec![
            TASK,
            PROJECT,
            KIND,
            STAGE,
            ASSIGNEES,
            date("start", "Start"),
            date("finish", "Finish"),
            date("due", "Due"),
            ESTIMATE,
            REMAINING,
        ],
        Subject::Completion => {
            vec![TASK, PROJECT, KIND, ASSIGNEES, date("due", "Due"), date("done", "Finished"), ESTIMATE, ACTUAL]
        }
        Subject::Due => vec![
            TASK,
            PROJECT,
            KIND,
            STAGE,
            ASSIGNEES,
            date("due", "Due"),
            Column { shape: Shape::Count, ..text("days_left", "Days left") },
            REMAINING,
        ],
        Subject::Money => vec![DATE, PERSON, PROJECT, text("what", "What"), COST, SPENT, BILLED, MARGIN],
        Subject::Estimates => Vec::new(),
    }
}

/// The columns of a report by groups: what they are told apart by, how many things are in each, and the figures.
pub(super) fn grouped_columns(ask: &Ask) -> Vec<Column> {
    let count = |label| figure("number", label, Shape::Count, Slot::Number);
    let keys = ask.by.iter().map(|by| key_of(*by));
    let figures = match ask.subject {
        Subject::Time => vec![count("Entries"), HOURS, BILLABLE, COST, BILLED],
        Subject::Tasks => vec![count("Tasks"), ESTIMATE, REMAINING],
        Subject::Completion => vec![
            count("Finished"),
            figure("on_time", "On time", Shape::Count, Slot::Good),
            figure("late", "Late", Shape::Count, Slot::Bad),
            ESTIMATE,
            ACTUAL,
        ],
        Subject::Due => vec![count("Tasks"), figure("overdue", "Overdue", Shape::Count, Slot::Bad), REMAINING],
        Subject::Money => vec![COST, SPENT, BILLED, MARGIN],
        Subject::Estimates => Vec::new(),
    };
    keys.chain(figures).collect()
}

/// The column of what rows are put together by.
pub(super) fn key_of(by: By) -> Column {
    match by {
        By::Task => TASK,
        By::Project => PROJECT,
        By::Person => PERSON,
        By::Role => text("role", "Role"),
        By::Team => text("team", "Team"),
        By::Kind => KIND,
        By::Stage => STAGE,
        By::Day => DATE,
        By::Week => date("week", "Week from"),
        By::Month => date("month", "Month from"),
    }
}

/// What stands in a column of one thing.
pub(super) fn value_of<'p>(
    plan: &'p Plan,
    column: &Column,
    item: &Item<'p>,
    figures: &Figures,
    today: Day,
) -> Value<'p> {
    if column.adds_up {
        return figures.value(column.slot);
    }
    let day = |day: Option<Day>| day.map_or(Value::Nothing, Value::Day);
    let task = item.task(plan);
    let due = || item.promised(plan);
    match column.name {
        "date" => day(item.day()),
        "start" => day(task.and_then(|task| task.start)),
        "finish" => day(task.and_then(|task| task.finish)),
        "due" => day(due()),
        "done" => day(item.done()),
        "days_left" => due().map_or(Value::Nothing, |due| Value::Count(i64::from(due.since(today)))),
        "task" => item.mark(plan, By::Task).value(plan),
        "project" => item.mark(plan, By::Project).value(plan),
        "person" => item.mark(plan, By::Person).value(plan),
        "kind" => item.mark(plan, By::Kind).value(plan),
        "stage" => item.mark(plan, By::Stage).value(plan),
        _ => item.words(plan),
    }
}
