//! Work with no person: bookings of teams and open seats, and tasks that name nobody or a team only.

use super::{
    Window,
    effort::effort_of,
    person::{Ground, Lanes, Slot},
    tasks::lay,
};
use crate::{
    Day,
    availability::Days,
    plan::{BookingRow, Plan},
    work::{Booking, Certainty, Who},
};

/// The load of one team or role that no person carries, by project.
#[derive(Clone, Debug)]
pub struct SeatLoad {
    /// The team or role.
    pub who: Who,
    /// The load by project, over the span of the window.
    pub slots: Vec<Slot>,
}

/// All work with no person, spread over the workspace's pattern.
#[must_use]
pub fn seat_loads(plan: &Plan, window: &Window) -> Vec<SeatLoad> {
    let days_over = |first: Day, last: Day| Days::of_workspace(&plan.settings, first, last);
    let (first, last) = window.span();
    let days = days_over(first, last);
    let ground = Ground::new(plan, &days, &days_over);
    let mut found: Vec<(Who, Lanes)> = Vec::new();
    let counts = |booking: &Booking| {
        booking.start <= last && booking.end >= first && window.counted.takes(booking.certainty, booking.project)
    };
    for booking in plan.seats.values().filter(|booking| counts(booking)) {
        let lane = lanes_of(&mut found, &booking.who, days.len()).of(booking.project);
        let side = if booking.certainty == Certainty::Firm { &mut lane.firm } else { &mut lane.pencilled };
        side.land(&BookingRow::of(booking), &ground);
    }
    for (_, lanes) in &mut found {
        lanes.settle(&days);
    }
    for id in &plan.nameless_tasks {
        let Some((task, team)) = plan.tasks.get(id).and_then(|task| Some((task, task.team?))) else { continue };
        let Some(effort) = effort_of(plan, task) else { continue };
        let Some(part) = lay(task, effort.minutes, window, days_over) else { continue };
        let lane = lanes_of(&mut found, &Who::Team(team), days.len()).of(Some(task.project));
        for (index, minutes) in part.minutes.iter().enumerate() {
            lane.task(index, *minutes);
        }
    }
    let envelope = plan.settings.envelope;
    let together = |lanes: Lanes| lanes.list.into_iter().map(|lane| lane.together(envelope, days.len())).collect();
    found.into_iter().map(|(who, lanes)| SeatLoad { who, slots: together(lanes) }).collect()
}

fn lanes_of<'a>(found: &'a mut Vec<(Who, Lanes)>, who: &Who, length: usize) -> &'a mut Lanes {
    let at = found.iter().position(|(known, _)| known == who).unwrap_or_else(|| {
        found.push((who.clone(), Lanes { length, list: Vec::new() }));
        found.len() - 1
    });
    &mut found[at].1
}
