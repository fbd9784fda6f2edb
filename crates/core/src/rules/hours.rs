//! What holds between logged work, the weeks it lies in, and the budgets it counts on.

use super::Refusal;
use crate::{
    Day, PersonId, Plan, ProjectId,
    change::Change,
    kinds::{BudgetLine, BudgetLineId, MOST_LOGGED, TimeEntry, WeekState},
};

/// The entries of logged work that changes touch, as they were and as they are.
fn entries(changes: &[Change]) -> impl Iterator<Item = &TimeEntry> {
    let touched = changes.iter().filter_map(|change| match change {
        Change::TimeEntry(edit) => Some(edit.before.iter().chain(&edit.after)),
        _ => None,
    });
    touched.flatten()
}

/// The first day touched by these changes on which somebody has logged more than 24 hours. `plan` has the changes in it already.
pub fn overfull_day(plan: &Plan, changes: &[Change]) -> Option<(PersonId, Day, i64)> {
    entries(changes)
        .map(|entry| {
            let sum = plan.logged_on(entry.person, entry.date).map(|other| i64::from(other.minutes)).sum();
            (entry.person, entry.date, sum)
        })
        .find(|(_, _, sum)| *sum > i64::from(MOST_LOGGED))
}

/// The first cell (person, day, project, task) touched by these changes whose sum would lie below 0, by an entry of it. `plan` has the
/// changes in it already.
pub fn overdrawn_cell<'a>(plan: &Plan, changes: &'a [Change]) -> Option<(&'a TimeEntry, i64)> {
    let sum = |entry: &TimeEntry| -> i64 {
        let beside = plan.logged_on(entry.person, entry.date).filter(|other| other.cell() == entry.cell());
        beside.map(|other| i64::from(other.minutes)).sum()
    };
    entries(changes).map(|entry| (entry, sum(entry))).find(|(_, sum)| *sum < 0)
}

/// The first entry touched by these changes that lies in a week which is handed in or approved, and how far that is. Corrections, which
/// say their reason, come in all the same.
pub fn shut_week<'a>(plan: &Plan, changes: &'a [Change]) -> Option<(&'a TimeEntry, WeekState)> {
    let plain = entries(changes).filter(|entry| entry.reason.is_empty());
    let mut stands = plain.filter_map(|entry| Some((entry, plan.week_sheet_of(entry.person, entry.date)?.state)));
    stands.find(|(_, state)| state.is_shut())
}

/// The sentence for an entry in a week that is shut.
pub fn says_shut(plan: &Plan, entry: &TimeEntry, state: WeekState) -> String {
    let name = plan.people.get(&entry.person).map_or("Somebody", |it| it.person.name.as_str());
    let monday = entry.date.monday();
    match state {
        WeekState::Approved => {
            format!("{name}’s week of {monday} is approved and locked; a correction of it says its reason.")
        }
        _ => format!("{name}’s week of {monday} is handed in; take it back to change it."),
    }
}

/// What holds for logged work once these changes are made. `plan` has them in it already.
///
/// # Errors
/// A day with more than 24 hours, a cell below 0, a week that is shut.
pub(super) fn log_may_stand(plan: &Plan, changes: &[Change]) -> Result<(), Refusal> {
    let name = |person: PersonId| plan.people.get(&person).map_or("Somebody", |entry| entry.person.name.as_str());
    if let Some((entry, state)) = shut_week(plan, changes) {
        return Err(Refusal::value("date", says_shut(plan, entry, state)));
    }
    if let Some((person, date, minutes)) = overfull_day(plan, changes) {
        let hours = format!("{}:{:02}", minutes / 60, minutes % 60);
        let message = format!("{} would have {hours} hours on {date}; a day has 24.", name(person));
        return Err(Refusal::value("hours", message));
    }
    if let Some((entry, minutes)) = overdrawn_cell(plan, changes) {
        let hours = format!("−{}:{:02}", -minutes / 60, -minutes % 60);
        let who = name(entry.person);
        let message =
            format!("{who} would have {hours} hours there on {}; take out no more than was logged.", entry.date);
        return Err(Refusal::value("hours", message));
    }
    Ok(())
}

impl Plan {
    /// The line of a budget that a name means for work of a project: that of the project, or of the nearest above it with such a line.
    #[must_use]
    pub fn line_named(&self, project: ProjectId, name: &str) -> Option<BudgetLineId> {
        let mut line = self.project_line(project);
        line.find_map(|project| {
            let mut lines = self.records.budget_lines.values().filter(|line| line.project == project.id);
            lines.find(|line| line.line == name).map(|line| line.id)
        })
    }
}

/// The line of a budget that a change names, and for work of which project; `None` where it names none.
pub fn named_line(change: &Change) -> Option<(Option<ProjectId>, &str)> {
    let (project, line) = match change {
        Change::Task(edit) => edit.after.as_ref().map(|task| (Some(task.project), &task.line)),
        Change::Booking(edit) => edit.after.as_ref().map(|booking| (booking.project, &booking.line)),
        Change::Expense(edit) => edit.after.as_ref().map(|expense| (Some(expense.project), &expense.line)),
        _ => None,
    }?;
    (!line.is_empty()).then_some((project, line.as_str()))
}

/// The first of these changes that names a line which its project does not have, and that name. `plan` has the changes in it already.
pub fn missing_line<'a>(plan: &Plan, changes: impl IntoIterator<Item = &'a Change>) -> Option<(&'a Change, &'a str)> {
    let mut named = changes.into_iter().filter_map(|change| Some((change, named_line(change)?)));
    let missing = named.find(|(_, (project, line))| line_stands(plan, *project, line).is_err());
    missing.map(|(change, (_, line))| (change, line))
}

/// The line that work of a project names is there; nothing is named by an empty one.
///
/// # Errors
/// It is not.
pub fn line_stands(plan: &Plan, project: Option<ProjectId>, line: &str) -> Result<(), Refusal> {
    if line.is_empty() || project.is_some_and(|project| plan.line_named(project, line).is_some()) {
        return Ok(());
    }
    let message = format!("There is no budget line “{line}” in this project, nor in what it is inside.");
    Err(Refusal::value("line", message))
}

/// A line that goes, or has another name, while something still names it: the line, and how much does. `plan` has the changes in it
/// already.
fn orphaned_line<'a>(plan: &Plan, changes: &'a [Change]) -> Option<(&'a BudgetLine, usize)> {
    let gone = changes.iter().filter_map(|change| match change {
        Change::BudgetLine(edit) => edit.before.as_ref(),
        _ => None,
    });
    let uses = |line: &BudgetLine| {
        let is_lost = |project: Option<ProjectId>, name: &str| {
            name == line.line && project.is_some_and(|project| plan.line_named(project, name).is_none())
        };
        let tasks = plan.tasks.values().filter(|task| is_lost(Some(task.project), &task.line)).count();
        let expenses = plan.records.expenses.values().filter(|it| is_lost(Some(it.project), &it.line)).count();
        tasks + expenses + plan.bookings().filter(|booking| is_lost(booking.project, &booking.line)).count()
    };
    gone.map(|line| (line, uses(line))).find(|(_, uses)| *uses > 0)
}

/// Who names a line of a budget finds it, and no line goes that is still named. `plan` has the changes in it already.
///
/// # Errors
/// What would be named and not be there.
pub(super) fn lines_stand(plan: &Plan, changes: &[Change]) -> Result<(), Refusal> {
    for (project, line) in changes.iter().filter_map(named_line) {
        line_stands(plan, project, line)?;
    }
    if let Some((line, uses)) = orphaned_line(plan, changes) {
        let what = if uses == 1 { "1 record still names".to_owned() } else { format!("{uses} records still name") };
        let message = format!("{what} “{}”; put such tasks, bookings and expenses on another line first.", line.line);
        return Err(Refusal::value("line", message));
    }
    Ok(())
}
