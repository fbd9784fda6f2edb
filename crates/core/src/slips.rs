//! Slips: what stands on somebody's days, task by task, so that the slips of a day pile up to the load of that day.

use crate::{Plan, ProjectId, TaskId, by_day::ByDay, demand::PersonLoad, settings::Envelope};

/// What a slip is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum SlipOf {
    /// A task.
    Task(TaskId),
    /// What is booked on a project and no task fills; `None` for holds.
    Booked(Option<ProjectId>),
}

/// One thing on somebody's days.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Slip {
    /// What it is.
    pub of: SlipOf,
    /// The project that it stands under; `None` for holds.
    pub project: Option<ProjectId>,
    /// Minutes on each day of the load's span.
    pub minutes: ByDay,
    /// A task that should have been finished before today.
    pub late: bool,
}

/// The slips of a load that was computed by project: tasks by project, then by their first day here, then what is booked besides. On
/// each day they add up to the load of that day, whatever the workspace's setting says of bookings and tasks: where tasks do not count
/// beside bookings, they are cut at what is booked, the later ones first.
#[must_use]
pub fn slips(plan: &Plan, load: &PersonLoad) -> Vec<Slip> {
    let held = |of: &ByDay| of.iter().any(|minutes| minutes > 0);
    let mut tasks: Vec<&crate::demand::TaskPart> = load.tasks.iter().filter(|part| held(&part.minutes)).collect();
    let first = |minutes: &ByDay| minutes.iter().position(|minutes| minutes > 0);
    tasks.sort_by_cached_key(|part| (first(&part.minutes), part.project, part.task));
    let mut found: Vec<Slip> = tasks
        .into_iter()
        .map(|part| Slip {
            of: SlipOf::Task(part.task),
            project: Some(part.project),
            minutes: part.minutes.clone(),
            late: part.late,
        })
        .collect();
    let mut rest = load.load.clone();
    let counts = plan.settings.envelope != Envelope::Bookings;
    for slip in &mut found {
        for at in 0..rest.len() {
            let taken = if counts { slip.minutes[at] } else { slip.minutes[at].min(rest[at]) };
            slip.minutes[at] = taken;
            rest[at] -= taken;
        }
    }
    found.retain(|slip| held(&slip.minutes));
    for slot in &load.slots {
        let mut minutes = ByDay::zeros(slot.load.weeks());
        for at in 0..rest.len() {
            let besides = (slot.load[at] - slot.task[at]).clamp(0, rest[at].max(0));
            minutes[at] = besides;
            rest[at] -= besides;
        }
        if held(&minutes) {
            found.push(Slip { of: SlipOf::Booked(slot.project), project: slot.project, minutes, late: false });
        }
    }
    found
}
