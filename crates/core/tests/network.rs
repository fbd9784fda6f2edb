//! The network against its rules read day by day, over random plans.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use proptest::{prelude::*, sample::select};
use snug_core::{
    Day, LinkId, Plan, ProjectId, TaskId,
    change::{Change, Edit},
    kinds::{Link, Record as _, Task},
    network::{Ground, Mode, figures, moved},
};
use std::collections::BTreeMap;
use support::{
    day,
    networks::networks,
    slow_network::{Net, Row},
};

/// A task that something hangs on by a link, or any where there is none.
fn mover(plan: &Plan, at: usize) -> Option<TaskId> {
    let binds = |id: &&TaskId| plan.records.links.values().any(|link| link.from == **id);
    let binding: Vec<TaskId> = plan.tasks.keys().filter(binds).copied().collect();
    let all: Vec<TaskId> = if binding.is_empty() { plan.tasks.keys().copied().collect() } else { binding };
    all.get(at % all.len().max(1)).copied()
}

const TODAY: i32 = 5;

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    #[test]
    fn the_passes_are_those_of_the_rules(plan in networks()) {
        let slow = Net::new(&plan, day(TODAY)).table();
        let row = |it: snug_core::network::Figures| {
            let row = Row {
                length: it.length,
                earliest: it.earliest,
                latest: it.latest,
                total: it.total_float,
                free: it.free_float,
                broken: it.broken,
            };
            (it.task, row)
        };
        let got: BTreeMap<TaskId, Row> = figures(&plan, day(TODAY)).into_iter().map(row).collect();
        prop_assert_eq!(got, slow);
    }

    #[test]
    fn moves_are_those_of_the_rules(
        plan in networks(),
        at in 0..9usize,
        to in -10..50i32,
        mode in select(Mode::ALL),
    ) {
        let Some(id) = mover(&plan, at) else { return Ok(()) };
        let is_parent = plan.tasks.values().any(|task| task.parent == Some(id));
        prop_assume!(!is_parent || matches!(mode, Mode::Push | Mode::Carry));
        let slow = Net::new(&plan, day(TODAY)).moved(id, day(to), mode);
        let got = moved(&Ground::new(&plan, day(TODAY)), &[(id, day(to))], mode);
        let got = got.map(|moved| moved.into_iter().map(|it| (it.task, it.to)).collect::<BTreeMap<_, _>>());
        prop_assert_eq!(got.map_err(|stopped| (stopped.task, stopped.why)), slow);
    }

    /// Taking what a move says and asking for it again changes nothing, and no link that was kept is broken by it.
    #[test]
    fn a_move_leaves_every_link_kept_that_was(plan in networks(), at in 0..9usize, to in -10..50i32) {
        let Some(id) = mover(&plan, at) else { return Ok(()) };
        let Ok(moves) = moved(&Ground::new(&plan, day(TODAY)), &[(id, day(to))], Mode::Push) else { return Ok(()) };
        let change = |it: &snug_core::network::Moved| {
            let before = (*plan.tasks[&it.task]).clone();
            let (start, finish) = (Some(it.to.0), Some(it.to.1));
            Change::Task(Edit::alter(before.clone(), Task { start, finish, ..before }))
        };
        let after = plan.with(&moves.iter().map(change).collect::<Vec<_>>());
        let broken = |plan: &Plan| -> BTreeMap<TaskId, usize> {
            figures(plan, day(TODAY)).into_iter().map(|it| (it.task, it.broken)).collect()
        };
        let before = broken(&plan);
        for (task, count) in broken(&after) {
            prop_assert!(count <= before[&task], "{task:?}: {count}, {} before", before[&task]);
        }
    }
}

#[test]
fn a_chain_is_pushed_as_far_as_it_must_and_no_further() {
    let task = |id: i32, from: i32, to: i32| Task {
        start: Some(day(from)),
        finish: Some(day(to)),
        ..support::task(id, &[], None)
    };
    let link = |id: i32, from: i32, to: i32| {
        let (from, to) = (TaskId(from), TaskId(to));
        Change::Link(Edit::new(Link { id: LinkId(id), from, to, ..Link::blank() }))
    };
    let ground = Plan::empty().with(&[Change::Project(Edit::new(support::project(11)))]);
    let tasks = [task(1, 0, 1), task(2, 2, 3), task(3, 7, 8)].map(|it| Task { project: ProjectId(11), ..it });
    let plan = ground.with(&tasks.map(support::new_task)).with(&[link(91, 1, 2), link(92, 2, 3)]);
    let go = |to: i32| -> Vec<(i32, Day)> {
        let moves = moved(&Ground::new(&plan, day(0)), &[(TaskId(1), day(to))], Mode::Push).unwrap();
        moves.into_iter().map(|it| (it.task.0, it.to.0)).collect()
    };
    assert_eq!(go(1), [(1, day(1)), (2, day(3))], "the third waits already");
    assert_eq!(go(3), [(1, day(3)), (2, day(7)), (3, day(9))]);
}
