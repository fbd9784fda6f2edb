//! Estimate against actual, bias, money and earned value on random plans, against sums as plain as can be.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{collection::vec, prelude::*};
use snug_core::{
    PersonId, Plan, ProjectId, TeamId, TimeEntryId,
    change::{Change, Edit},
    hours::{Actuals, Asked, By, Cut, Key, entries_of, of_person, of_project, of_task, table},
    kinds::{Task, TimeEntry},
};
use std::collections::BTreeMap;
use support::{any, day, entry, slow::Slow};

/// Tasks with kinds and tags, and time on no task, some of it taken out again.
fn worked() -> impl Strategy<Value = Plan> {
    let log = vec((1..=3i32, 10..=14i32, -5..20i32, 1..600i32, prop::bool::weighted(0.2)), 0..6);
    (any::plan(), log, vec((0..3usize, 0..4usize), 8)).prop_map(|(plan, log, words)| {
        let mut changes = Vec::new();
        for (task, (kind, tags)) in plan.tasks.values().zip(words) {
            let tags = [&["a"][..], &["a", "b"], &["b", "b"], &[]][tags].iter().map(|it| (*it).to_owned()).collect();
            let after = Task { kind: ["", "build", "paint"][kind].into(), tags, ..(**task).clone() };
            changes.push(Change::Task(Edit::alter((**task).clone(), after)));
        }
        for (id, (who, on, date, minutes, is_corrected)) in (900..).step_by(2).zip(log) {
            let project = (on > 10).then_some(ProjectId(on));
            let made = TimeEntry { project, date: day(date), ..entry(id, who, None, minutes) };
            if is_corrected {
                let less =
                    TimeEntry { id: TimeEntryId(id + 1), minutes: -minutes, reason: "no".into(), ..made.clone() };
                changes.push(Change::TimeEntry(Edit::new(less)));
            }
            changes.push(Change::TimeEntry(Edit::new(made)));
        }
        plan.with(&changes)
    })
}

fn sum<'a>(rows: impl Iterator<Item = &'a Actuals>) -> Actuals {
    let mut sum = rows.fold(Actuals::default(), |mut sum, row| {
        sum.add(row);
        sum
    });
    sum.without_estimate = 0;
    sum
}

fn figures(it: &Actuals) -> [i64; 5] {
    [it.estimate(), it.actual(), it.remaining(), it.unestimated(), it.variance().unwrap_or(i64::MIN)]
}

/// What a plan comes to in all, added up task by task.
fn plain(plan: &Plan, cut: Cut) -> [i64; 5] {
    let slow = Slow { plan, today: day(0) };
    let takes = |day| cut.from.is_none_or(|from| from <= day) && cut.to.is_none_or(|to| day <= to);
    let log = |of: &dyn Fn(&TimeEntry) -> bool| -> i64 {
        let entries = plan.time_entries.values().filter(|entry| takes(entry.date) && of(entry));
        entries.map(|entry| i64::from(entry.minutes)).sum()
    };
    let mut found = [0, log(&|_| true), 0, log(&|entry| entry.task.is_none()), 0];
    let mut any = false;
    for task in plan.tasks.values() {
        let mut line = std::iter::successors(Some(&**task), |task| plan.tasks.get(&task.parent?).map(|it| &**it));
        let covered = line.any(|task| task.estimate.is_some());
        let left = slow.remaining(task).map_or(0, |(left, _)| left);
        found[0] += slow.estimate(task).unwrap_or(0);
        found[2] += left;
        found[3] += if covered { 0 } else { left + log(&|entry| entry.task == Some(task.id)) };
        any |= task.estimate.is_some();
    }
    found[4] = if any { found[1] + found[2] - found[3] - found[0] } else { i64::MIN };
    found
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    /// Whoever looks, by task, project, person, role, kind or level: together it is the same, and the same as a plain sum.
    #[test]
    fn sums_by_whatever_are_one(plan in worked(), cut in prop_oneof![Just(Cut::ALL), (0..5i32, 5..15i32)
        .prop_map(|(from, to)| Cut { from: Some(day(from)), to: Some(day(to)) })])
    {
        let asked = Asked { cut, project: None };
        let whole = plain(&plan, cut);
        let rows = |by| table(&plan, by, asked);
        for by in [By::Person, By::Role, By::Kind, By::Level] {
            prop_assert_eq!(figures(&sum(rows(by).values())), whole, "by {}", by);
        }
        let is_top = |key: &Key| match key {
            Key::Task(id) => id.is_none_or(|id| plan.tasks[&id].parent.is_none()),
            Key::Project(id) => id.is_none_or(|id| plan.records.projects[&id].parent.is_none()),
            // Team 62 lies in 61, and 63 in that.
            Key::Team(id) => id.is_none_or(|id| id == TeamId(61)),
            _ => true,
        };
        for by in [By::Task, By::Project] {
            let rows = rows(by);
            prop_assert_eq!(figures(&sum(rows.iter().filter(|(key, _)| is_top(key)).map(|it| it.1))), whole, "by {}", by);
        }
        // A team has the whole of what names it, and a person's shares come to their whole: nothing is lost between the rows.
        let teams = rows(By::Team);
        prop_assert_eq!(figures(&sum(teams.iter().filter(|(key, _)| is_top(key)).map(|it| it.1))), whole, "by team");
    }

    /// The figures of one task, project or person are those of their row.
    #[test]
    fn one_alone_has_the_figures_of_its_row(plan in worked()) {
        let rows = |by| table(&plan, by, Asked::default());
        for (key, figures) in rows(By::Person) {
            let Key::Person(Some(id)) = key else { continue };
            prop_assert_eq!(of_person(&plan, id), figures);
        }
        for (key, figures) in rows(By::Project) {
            let Key::Project(Some(id)) = key else { continue };
            prop_assert_eq!(of_project(&plan, id), figures);
        }
        for (key, figures) in rows(By::Task) {
            let Key::Task(Some(id)) = key else { continue };
            prop_assert_eq!(of_task(&plan, &plan.tasks[&id]), figures);
        }
    }

    /// What was logged stands with who logged it, and what is left with whom it is left.
    #[test]
    fn a_person_has_their_log_and_their_rest(plan in worked()) {
        let slow = Slow { plan: &plan, today: day(0) };
        let rows = table(&plan, By::Person, Asked::default());
        for id in (1..=3).map(PersonId) {
            let figures = rows.get(&Key::Person(Some(id))).copied().unwrap_or_default();
            let log: i64 = plan.time_entries.values().filter(|it| it.person == id).map(|it| i64::from(it.minutes)).sum();
            prop_assert_eq!(figures.actual(), log);
            let rest = |task: &Task| {
                let at = task.assignees.people().position(|who| who == id)?;
                slow.remaining(task)?.1.get(at).copied()
            };
            prop_assert_eq!(figures.remaining(), plan.tasks.values().filter_map(|task| rest(task)).sum::<i64>());
        }
    }

    /// A row opens down to the entries that it is made of, all of them and no others.
    #[test]
    fn a_row_is_made_of_its_entries(plan in worked(), project in prop::option::of(11..=14i32)) {
        let asked = Asked { cut: Cut { from: Some(day(-3)), to: Some(day(12)) }, project: project.map(ProjectId) };
        for by in By::ALL.iter().filter(|by| **by != By::Team) {
            for (key, figures) in table(&plan, *by, asked) {
                let sum: i64 = entries_of(&plan, &key, asked).iter().map(|entry| i64::from(entry.minutes)).sum();
                // Above the project that is asked for, a task has what is inside it there alone.
                prop_assert_eq!(sum, figures.actual(), "{:?}", key);
            }
        }
        // A team has a share of some of its entries.
        for (key, figures) in table(&plan, By::Team, asked) {
            let sum: i64 = entries_of(&plan, &key, asked).iter().map(|entry| i64::from(entry.minutes)).sum();
            prop_assert!(sum >= figures.actual(), "{:?}", key);
        }
    }

    /// A tag has all that carries it, once, however often it is written.
    #[test]
    fn a_tag_has_all_that_carries_it(plan in worked()) {
        let rows = table(&plan, By::Tag, Asked::default());
        let mut expected: BTreeMap<&str, i64> = BTreeMap::new();
        for logged in plan.time_entries.values() {
            let task = logged.task.and_then(|id| plan.tasks.get(&id));
            let mut tags: Vec<&str> = task.iter().flat_map(|task| &task.tags).map(String::as_str).collect();
            tags.dedup();
            if tags.is_empty() {
                tags.push("");
            }
            for tag in tags {
                *expected.entry(tag).or_default() += i64::from(logged.minutes);
            }
        }
        for (tag, minutes) in expected {
            prop_assert_eq!(rows[&Key::Tag(tag.to_owned())].actual(), minutes);
        }
    }
}
