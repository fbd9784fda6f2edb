//! Any plan with links between its tasks.

use super::{any, day, slow_network::Net};
use proptest::{collection::vec, option, prelude::*, sample::select};
use snug_core::{
    LinkId, MilestoneId, Plan, TaskId,
    change::{Change, Edit},
    kinds::{Constraint, Link, LinkKind, Milestone, Record as _, Task},
};

/// What the network reads of a task beside what any plan has.
type More = (Option<(Constraint, i32)>, Option<i32>, bool, bool);

fn more() -> impl Strategy<Value = Vec<More>> {
    let constraint = option::weighted(0.35, (select(Constraint::ALL), -5..40i32));
    vec((constraint, option::weighted(0.2, 5..50i32), prop::bool::weighted(0.15), prop::bool::weighted(0.1)), 9)
}

fn links() -> impl Strategy<Value = Vec<(usize, usize, LinkKind, i32)>> {
    vec((0..9usize, 0..9usize, select(LinkKind::ALL), -4..6i32), 0..16)
}

/// Any plan with links that may stand.
pub fn networks() -> impl Strategy<Value = Plan> {
    (any::plan(), more(), links(), 0..40i32).prop_map(|(plan, more, links, open)| {
        let date = day(open);
        let milestone = Milestone { id: MilestoneId(800), reference: "M".into(), date, ..Milestone::blank() };
        let mut plan = plan.with(&[Change::Milestone(Edit::new(milestone))]);
        let tasks: Vec<Task> = plan.tasks.values().map(|task| (**task).clone()).collect();
        for (before, (constraint, due, begun, for_milestone)) in tasks.into_iter().zip(more) {
            let after = Task {
                constraint: constraint.map(|(constraint, _)| constraint),
                constraint_date: constraint.map(|(_, at)| day(at)),
                due: due.map(day),
                progress: begun.then(|| 20.into()),
                milestones: for_milestone.then_some(MilestoneId(800)).into_iter().collect(),
                ..before.clone()
            };
            plan.apply(&Change::Task(Edit::alter(before, after)));
        }
        let ids: Vec<TaskId> = plan.tasks.keys().copied().collect();
        for (id, (from, to, kind, lag_days)) in (900..).zip(links) {
            let (Some(from), Some(to)) = (ids.get(from).copied(), ids.get(to).copied()) else { continue };
            let link = Link { id: LinkId(id), from, to, kind, lag_days, note: String::new() };
            let next = plan.with(&[Change::Link(Edit::new(link.clone()))]);
            if may_stand(&plan, &link) && Net::new(&next, day(0)).ordered().is_some() {
                plan = next;
            }
        }
        plan
    })
}

fn may_stand(plan: &Plan, link: &Link) -> bool {
    let is_parent = |id: TaskId| plan.tasks.values().any(|task| task.parent == Some(id));
    let above = |id: TaskId| std::iter::successors(Some(id), |id| plan.tasks[id].parent).collect::<Vec<_>>();
    let from_whole = !matches!(link.kind, LinkKind::StartStart | LinkKind::StartFinish);
    let to_whole = !matches!(link.kind, LinkKind::FinishFinish | LinkKind::StartFinish);
    let apart = !above(link.from).contains(&link.to) && !above(link.to).contains(&link.from);
    apart && (from_whole || !is_parent(link.from)) && (to_whole || !is_parent(link.to))
}
