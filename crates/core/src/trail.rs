//! How trails are written: with every change, what it leaves each task it touches at the end of the day.

use crate::{
    Day, Plan,
    change::{Change, Edit},
    kinds::{ListId, Task, TaskId, Trail, TrailDay, TrailId},
    rules::MOST_LEVELS,
};
use rust_decimal::Decimal;
use std::collections::{BTreeMap, BTreeSet};

/// The edits of trails that follow from changes made on a day; `plan` has the changes in it. They are no decision of anybody, so no entry
/// of the ledger holds them: whoever has the same plan, changes and day has the same trails.
#[must_use]
pub fn edits(plan: &Plan, changes: &[Change], today: Day) -> Vec<Change> {
    let touched = touched(plan, changes);
    let lists = lists_of(plan, &touched);
    let tasks = touched.iter().filter_map(|id| plan.tasks.get(id));
    let on = |task: &Task| lists.get(&task.id).map(Vec::as_slice).unwrap_or_default();
    tasks.filter_map(|task| edit(plan, task, today, on(task))).map(Change::Trail).collect()
}

/// The lists that tasks are on, with their ranks there.
#[must_use]
pub fn lists_of(plan: &Plan, tasks: &BTreeSet<TaskId>) -> BTreeMap<TaskId, Vec<(ListId, Decimal)>> {
    let mut found: BTreeMap<TaskId, Vec<(ListId, Decimal)>> = BTreeMap::new();
    if tasks.is_empty() {
        return found;
    }
    for item in plan.records.items.values().filter(|item| tasks.contains(&item.task)) {
        found.entry(item.task).or_default().push((item.list, item.rank));
    }
    for lists in found.values_mut() {
        lists.sort_unstable();
    }
    found
}

/// The tasks whose trail a change can reach: its own, those above it, whose remainder it breaks or fills, and those on lists.
fn touched(plan: &Plan, changes: &[Change]) -> BTreeSet<TaskId> {
    let mut found = BTreeSet::new();
    for change in changes {
        match change {
            Change::Task(edit) => {
                let both = || edit.before.iter().chain(&edit.after);
                found.extend(both().map(|task| task.id));
                both().filter_map(|task| task.parent).for_each(|id| upwards(plan, id, &mut found));
            }
            Change::TimeEntry(edit) => {
                let both = edit.before.iter().chain(&edit.after);
                both.filter_map(|entry| entry.task).for_each(|id| upwards(plan, id, &mut found));
            }
            Change::Item(edit) => found.extend(edit.before.iter().chain(&edit.after).map(|item| item.task)),
            // Work of a closed project has nothing left.
            Change::Project(edit)
                if edit.before.as_ref().map(|it| it.status) != edit.after.as_ref().map(|it| it.status) =>
            {
                let of = edit.either().map(|project| project.id);
                found.extend(plan.tasks.values().filter(|task| Some(task.project) == of).map(|task| task.id));
            }
            _ => {}
        }
    }
    found
}

/// A task and all that it is in.
fn upwards(plan: &Plan, id: TaskId, found: &mut BTreeSet<TaskId>) {
    let line = std::iter::successors(Some(id), |id| plan.tasks.get(id)?.parent);
    found.extend(line.take(MOST_LEVELS + 1));
}

/// Today's row of a task, if it differs from the day before, and none if it does not.
fn edit(plan: &Plan, task: &Task, today: Day, lists: &[(ListId, Decimal)]) -> Option<Edit<Trail>> {
    let id = TrailId(task.id.0);
    let before = plan.records.trails.get(&id).map(|trail| (**trail).clone());
    let mut after = before.clone().unwrap_or(Trail { id, days: Vec::new() });
    let last = after.on(today - 1).cloned();
    let now = TrailDay::of(plan, task, today, lists, last.as_ref());
    if last.is_some_and(|last| last.is_like(&now)) {
        after.days.retain(|row| row.date != today);
    } else {
        after.put_day(now);
    }
    (before.as_ref() != Some(&after)).then_some(Edit { before, after: Some(after) })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kinds::{Project, ProjectId, Record as _, TimeEntry, TimeEntryId};

    fn day(at: i32) -> Day {
        Day::from_number(20_000) + at
    }

    /// A plan after a change on a day, with the trails that it leaves.
    fn after(plan: &Plan, change: Change, today: Day) -> Plan {
        let plan = plan.with([&change]);
        let trails = edits(&plan, &[change], today);
        plan.with(&trails)
    }

    fn rows(plan: &Plan, task: i32) -> Vec<(Day, String, Option<i64>)> {
        let trail = plan.records.trails.get(&TrailId(task));
        let days = trail.map(|trail| trail.days.clone()).unwrap_or_default();
        days.into_iter().map(|row| (row.date, row.stage.to_string(), row.remaining)).collect()
    }

    /// A task that changes by itself, and has something logged in the same breath, reaches what it is in.
    #[test]
    fn what_a_task_is_in_is_reached_however_it_is_touched() {
        let task =
            |id, parent| Task { id: TaskId(id), parent, estimate: Some(600), title: "T".into(), ..Task::blank() };
        let plan =
            Plan::empty().with(&[2, 3].map(|id| Change::Task(Edit::new(task(id, (id == 3).then_some(TaskId(2)))))));
        let renamed = Task { title: "U".into(), ..task(3, Some(TaskId(2))) };
        let entry = TimeEntry { id: TimeEntryId(4), task: Some(TaskId(3)), minutes: 60, ..TimeEntry::blank() };
        let changes = [
            Change::Task(Edit::alter(task(3, Some(TaskId(2))), Task { parent: None, ..renamed.clone() })),
            Change::Task(Edit::alter(Task { parent: None, ..renamed.clone() }, renamed)),
            Change::TimeEntry(Edit::new(entry)),
        ];
        for order in [[0, 1, 2], [2, 0, 1]] {
            let changes = order.map(|at: usize| changes[at].clone());
            let reached = touched(&plan.with(&changes), &changes);
            assert_eq!(reached, BTreeSet::from([TaskId(2), TaskId(3)]));
        }
    }

    #[test]
    fn a_trail_has_a_row_for_each_day_on_which_something_changed() {
        let project = Project { id: ProjectId(1), code: "p".into(), name: "P".into(), ..Project::blank() };
        let task = Task { id: TaskId(2), project: project.id, title: "T".into(), estimate: Some(600), ..Task::blank() };
        let parent = Task { id: TaskId(3), estimate: Some(900), ..task.clone() };
        let plan = Plan::empty().with([&Change::Project(Edit::new(project))]);
        let plan = after(&plan, Change::Task(Edit::new(parent)), day(0));
        let inside = Task { parent: Some(TaskId(3)), ..task };
        let plan = after(&plan, Change::Task(Edit::new(inside.clone())), day(1));
        assert_eq!(rows(&plan, 2), [(day(1), "to do".to_owned(), Some(600))]);
        // What is put into a task breaks its remainder.
        assert_eq!(rows(&plan, 3), [(day(0), "to do".to_owned(), Some(900)), (day(1), "to do".to_owned(), Some(300))]);
        // What is logged lowers what remains; twice on a day is one row.
        let entry = |id, minutes| TimeEntry {
            id: TimeEntryId(id),
            task: Some(TaskId(2)),
            date: day(2),
            minutes,
            ..TimeEntry::blank()
        };
        let plan = after(&plan, Change::TimeEntry(Edit::new(entry(4, 60))), day(2));
        let plan = after(&plan, Change::TimeEntry(Edit::new(entry(5, 30))), day(2));
        assert_eq!(rows(&plan, 2)[1..], [(day(2), "to do".to_owned(), Some(510))]);
        // Taken back on the same day, the day is like the one before: it has no row.
        let plan = after(&plan, Change::TimeEntry(Edit::remove(entry(5, 30))), day(2));
        let plan = after(&plan, Change::TimeEntry(Edit::remove(entry(4, 60))), day(2));
        assert_eq!(rows(&plan, 2).len(), 1);
        // Done, nothing remains; taken back on a later day, the past stays as it was.
        let done = Task { stage: "done".into(), ..inside.clone() };
        let plan = after(&plan, Change::Task(Edit::alter(inside.clone(), done.clone())), day(5));
        let plan = after(&plan, Change::Task(Edit::alter(done, inside)), day(8));
        let stages: Vec<String> = rows(&plan, 2).into_iter().map(|(_, stage, _)| stage).collect();
        assert_eq!(stages, ["to do", "done", "to do"]);
        let trail = &plan.records.trails[&TrailId(2)];
        assert_eq!(trail.on(day(0)), None, "it was not there yet");
        assert_eq!(trail.on(day(4)).unwrap().remaining, Some(600));
        assert_eq!(trail.on(day(7)).unwrap().remaining, Some(0));
    }
}
