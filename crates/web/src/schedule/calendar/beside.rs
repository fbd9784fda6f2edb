//! The live plan beside a draft: where it has what the draft has on other days.

use super::{
    picture::{BAR, Label, lane_y},
    query::CalendarQuery,
};
use crate::{
    grid::{Rect, Shapes},
    schedule::layers::percent,
};
use snug_core::{
    Day, Plan, TaskId,
    agenda::{Agenda, lanes},
    kinds::Task,
};
use std::collections::BTreeSet;

/// What a draft has on other days than the live plan; nothing without a live plan beside.
pub struct Beside<'a> {
    /// As the live plan has it.
    live: Vec<&'a Task>,
    moved: BTreeSet<TaskId>,
    days: i32,
}

impl<'a> Beside<'a> {
    pub fn of(plan: &Plan, query: &'a CalendarQuery, agenda: &Agenda<'_>) -> Self {
        let is_elsewhere = |other: &Plan, task: &Task| {
            other.tasks.get(&task.id).is_none_or(|other| (other.start, other.finish) != (task.start, task.finish))
        };
        let mut found = Self { live: Vec::new(), moved: BTreeSet::new(), days: query.days };
        if let Some(there) = query.live.as_deref() {
            found.live = Agenda::new(there, &query.scope, query.from(), query.to()).tasks;
            found.live.retain(|task| is_elsewhere(plan, task));
            found.moved.extend(agenda.tasks.iter().filter(|task| is_elsewhere(there, task)).map(|task| task.id));
        }
        found
    }

    /// Whether a draft has a task on other days.
    pub fn has_moved(&self, task: &Task) -> bool {
        self.moved.contains(&task.id)
    }

    /// What the live plan has in a row of days, in a few lanes of its own behind those that are taken.
    pub fn laid(&self, from: Day, taken: &mut [usize], most: usize, labels: &mut Vec<Label>) -> Shapes {
        /// There is to be room for what the draft has.
        const LANES: usize = 2;
        let below = most.min(taken.iter().copied().max().unwrap_or(0) + LANES);
        let mut rects = Vec::new();
        for it in lanes(&self.live, from, taken).iter().filter(|it| it.lane < below) {
            let Some(task) = self.live.iter().find(|task| task.id == it.task) else { continue };
            taken[it.from..it.to].iter_mut().for_each(|day| *day = (it.lane + 1).max(*day));
            let top = lane_y(it.lane);
            rects.push(Rect { from: it.from, to: it.to, top, floor: top + BAR });
            labels.push(Label {
                x: percent(it.from, self.days),
                y: top,
                width: percent(it.to - it.from, self.days),
                hue: 13,
                class: "live",
                text: task.title.clone(),
                title: format!("In the live plan: {}", task.title),
                href: String::new(),
            });
        }
        Shapes(rects)
    }
}
