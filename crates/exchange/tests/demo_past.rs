//! The demo has a past: sprints, walk-ins and trails over twelve weeks, with figures worked out by hand.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use rust_decimal::Decimal;
use snug_core::{
    Day, Plan,
    import::preview,
    kinds::{Kind, Sprint, SprintId, SprintState, TrailDay, TrailId},
    trail::lists_of,
};
use std::path::Path;

fn demo() -> Plan {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let found = preview(&Plan::empty(), &snug_exchange::csv::read_folder(&folder).unwrap());
    assert_eq!(found.problems, []);
    Plan::empty().with(&found.changes)
}

fn sprint<'a>(plan: &'a Plan, code: &str) -> &'a Sprint {
    &plan.records.sprints[&SprintId(plan.find(Kind::Sprint, code).unwrap())]
}

/// Points of what was done, and in the sprint, at the end of its last day.
fn finished_points(plan: &Plan, sprint: &Sprint) -> Decimal {
    let rows = plan.records.trails.values().filter_map(|trail| trail.on(sprint.finish));
    rows.filter(|row| row.sprint == Some(sprint.id) && &*row.stage == "done").filter_map(|row| row.points).sum()
}

/// Minutes that members of the workshop logged on walk-ins in the sprint's days; each of them is in no other team.
fn walk_in_minutes(plan: &Plan, sprint: &Sprint) -> i32 {
    let members = &plan.records.teams[&sprint.team].members;
    let entries = plan.time_entries.values().filter(|entry| members.iter().any(|(person, _)| *person == entry.person));
    let on_walk_ins = entries.filter(|entry| entry.task.is_some_and(|task| plan.tasks[&task].walk_in));
    on_walk_ins.filter(|it| (sprint.start..=sprint.finish).contains(&it.date)).map(|entry| entry.minutes).sum()
}

#[test]
fn three_finished_sprints_have_the_points_and_walk_ins_that_were_worked_out_by_hand() {
    let plan = demo();
    // Stems 5, stones 3, feet 2; table 5, packing 2, old drawers 1; fronts 8, hood 3, model 2.
    let by_hand = [("bench-1", 10, 150), ("bench-2", 8, 300), ("bench-3", 13, 120)];
    for (code, points, walk_ins) in by_hand {
        let sprint = sprint(&plan, code);
        assert_eq!(sprint.state, SprintState::Finished);
        assert_eq!(
            (finished_points(&plan, sprint), walk_in_minutes(&plan, sprint)),
            (points.into(), walk_ins),
            "{code}"
        );
    }
    let velocity = by_hand.iter().map(|(code, ..)| finished_points(&plan, sprint(&plan, code))).sum::<Decimal>()
        / Decimal::from(3);
    assert_eq!(velocity.round_dp(2), "10.33".parse().unwrap());
    assert_eq!(sprint(&plan, "bench-4").state, SprintState::Running);
    assert_eq!(finished_points(&plan, sprint(&plan, "bench-4")), Decimal::ZERO);
}

#[test]
fn trails_go_back_twelve_weeks_and_end_in_what_each_task_is() {
    let plan = demo();
    let today: Day = "2026-03-11".parse().unwrap();
    let first = plan.records.trails.values().map(|trail| trail.days[0].date).min().unwrap();
    assert!(today.since(first) >= 84, "{first}");
    let lists = lists_of(&plan, &plan.tasks.keys().copied().collect());
    for task in plan.tasks.values() {
        let on = lists.get(&task.id).map(Vec::as_slice).unwrap_or_default();
        let trail = plan.records.trails.get(&TrailId(task.id.0)).unwrap_or_else(|| panic!("{}", task.reference));
        let last = trail.days.last().unwrap();
        let now = TrailDay::of(&plan, task, today, on, Some(last));
        assert!(now.is_like(last), "{}: {last:?} is not {now:?}", task.reference);
        assert!(
            trail.days.windows(2).all(|two| two[0].date < two[1].date && !two[0].is_like(&two[1])),
            "{}",
            task.reference
        );
    }
}
