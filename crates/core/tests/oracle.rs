//! The load table against a slow reading of the rules that shares nothing with it but the records: every unit, pattern, setting, grain
//! and group on random small plans.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{collection::btree_set, prelude::*, sample::select};
use snug_core::{
    Day, PersonId, Plan, ProjectId, TeamId,
    cells::{Bucket, Cell, Grain, WHOLE},
    change::{Change, Edit},
    craft::is_same,
    demand::{Window, effort_of},
    kinds::{Kind, Unit},
    load::{Group, Groups, Measure, Query, Row, RowKey, table},
    plan::Entry,
    spread::round_half_up,
};
use support::{
    any::{plan, somebody},
    booking, day, project,
    slow::{Rows, Slow},
};

/// All rows of a group; what has no row has nothing.
fn rows(plan: &Plan, window: Window, grain: Grain, group: Group) -> (Vec<Bucket>, Vec<Row>) {
    let table = table(plan, &Query { window, grain, group, measure: Measure::Minutes });
    (table.buckets, table.rows)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    #[test]
    fn every_row_is_what_its_days_say(
        plan in plan(),
        (from, length, today) in (-3..10i32, 0..45i32, -8..16i32),
        grain in select(Grain::ALL),
    ) {
        let window = Window::new(day(from), day(from + length), day(today));
        let slow = Rows::new(&plan, grain, window.today, window.to + 6);
        let check = |group: Group, expected: &dyn Fn(&str, Bucket) -> Cell| {
            let (buckets, rows) = rows(&plan, window, grain, group);
            for row in rows {
                for (bucket, cell) in buckets.iter().zip(&row.band_cells) {
                    prop_assert_eq!(cell, &expected(&row.key, *bucket), "{} {} {:?} {:?}", grain, row.key, bucket, plan.settings.envelope);
                }
            }
            Ok(())
        };
        let person = |id: PersonId| &plan.people[&id].person;
        check(Group::Person, &|key, bucket| slow.of_person(plan.person_by_email(key).unwrap().person.id, bucket))?;
        check(Group::Team, &|key, bucket| slow.of_team(plan.find(Kind::Team, key).map(TeamId), bucket))?;
        check(Group::Project, &|key, bucket| slow.of_project(plan.find(Kind::Project, key).map(ProjectId), bucket))?;
        check(Group::Role, &|key, bucket| {
            let word = if key == "(no role)" { "" } else { key };
            slow.of_words(|id| is_same(&person(id).role, word), |seat| is_same(seat, word), bucket)
        })?;
        check(Group::Skill, &|key, bucket| {
            let own = |id| person(id).skills.iter().filter(|skill| !skill.trim().is_empty()).collect::<Vec<_>>();
            let has = |id| if key == "(no skill)" { own(id).is_empty() } else { own(id).iter().any(|skill| is_same(skill, key)) };
            slow.of_words(has, |seat| is_same(seat, key), bucket)
        })?;
    }

    /// The picture of a group adds up to the figures of its row: loads in every bucket, limits in those that are whole weeks.
    #[test]
    fn pictures_of_groups_add_up_to_their_figures(plan in plan(), (from, length, today) in (-3..10i32, 0..45i32, -8..16i32), grain in select(Grain::ALL)) {
        let window = Window::new(day(from), day(from + length), day(today));
        let words = |word: fn(&Plan, &Entry) -> Vec<String>| plan.people.values().flat_map(|entry| word(&plan, entry)).collect::<Vec<_>>();
        let teams = plan.records.teams.keys().map(|id| RowKey::Team(Some(*id))).chain([RowKey::Team(None)]);
        let projects = plan.records.projects.keys().map(|id| RowKey::Project(Some(*id))).chain([RowKey::Project(None)]);
        let roles = words(|plan, it| vec![plan.spellings().role(&it.person.role)]).into_iter().map(RowKey::Role);
        let skills = words(|plan, it| plan.spellings().skills(&it.person.skills)).into_iter().map(RowKey::Skill);
        for (group, keys) in [
            (Group::Team, teams.collect::<Vec<_>>()), (Group::Project, projects.collect()), (Group::Role, roles.collect()), (Group::Skill, skills.collect()),
        ] {
            let groups = Groups::new(&plan, Query { window, grain, group, measure: Measure::Minutes });
            for key in keys {
                let drawn = groups.days(&key);
                for (bucket, cell) in groups.buckets().iter().zip(groups.row(&key)) {
                    let index = |day: Day| usize::try_from(day.since(window.from)).unwrap();
                    let sum = |days: &Vec<i64>| days[index(bucket.from)..=index(bucket.to)].iter().sum::<i64>();
                    let load: i64 = drawn.projects.values().map(sum).sum();
                    prop_assert_eq!(round_half_up(load, WHOLE), cell.load, "{:?} {:?}", key, bucket);
                    prop_assert_eq!(drawn.limit.is_some(), cell.limit.is_some());
                    if let (Some(days), Some(limit), true) = (&drawn.limit, cell.limit, bucket.from.weekday() == 0 && bucket.to == bucket.from + 6) {
                        // A typed capacity is rounded a day.
                        prop_assert!((sum(days) - limit * WHOLE).abs() <= WHOLE / 2 + 7, "{:?} {:?}: {} for {}", key, bucket, sum(days), limit);
                    }
                }
            }
        }
    }

    /// What remains of every task, and of each who does it: leaves and parents, typed and not, whatever was logged.
    #[test]
    fn what_remains_is_cut_as_the_rule_says(plan in plan()) {
        let slow = Slow { plan: &plan, today: day(0) };
        for task in plan.tasks.values() {
            let got = effort_of(&plan, task).map(|effort| (effort.minutes, effort.parts.iter().map(|(_, part)| *part).collect()));
            prop_assert_eq!(&got, &slow.remaining(task), "{}", task.id);
            if let Some((left, parts)) = got {
                let sum: i64 = parts.iter().sum();
                prop_assert!(parts.is_empty() || sum == left, "no minute of {} is lost: {:?}", left, parts);
            }
        }
    }

    /// Shares of the rim never add up to more than the rim.
    #[test]
    fn shares_of_the_rim_never_spill(people in somebody(1), cuts in btree_set(1..10_000i32, 0..6), grain in select(Grain::ALL)) {
        let mut cuts: Vec<i32> = cuts.into_iter().collect();
        cuts.push(10_000);
        let mut before = 0;
        let mut plan = Plan::empty().with(&people).with(&[Change::Project(Edit::new(project(11)))]);
        for (id, cut) in (100..).zip(cuts) {
            plan = plan.with(&[Change::Booking(Edit::new(booking(id, 1, 0, 27, cut - before, Unit::Percent)))]);
            before = cut;
        }
        let (_, rows) = rows(&plan, Window::new(day(0), day(27), day(0)), grain, Group::Person);
        for cell in &rows[0].band_cells {
            prop_assert_eq!((cell.spill, cell.peak), (0, 0));
        }
    }
}
