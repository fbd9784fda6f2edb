//! From a command to changes, or a refusal. Pure: the plan, the command and today are all it reads.

use crate::{
    BookingId, Day, Plan,
    change::{Change, Edit, inverse_of},
    command::Command,
    import::preview,
    rules::{self, Refusal, RefusalCode},
    work::{Booking, ProjectStatus, Who},
};
use std::collections::HashSet;

impl Plan {
    /// Decides what a command changes. Today is there for rules that speak of the past; none of the commands so far needs it.
    pub fn decide(&self, command: &Command, _today: Day) -> Result<Vec<Change>, Refusal> {
        match command {
            Command::PlaceBooking { booking } => {
                let booking = Booking { id: BookingId(self.next_id()), ..tidy(booking) };
                self.bookable(&booking)?;
                Ok(vec![Change::Booking(Edit::new(booking))])
            }
            Command::ChangeBooking { seen, to } => {
                let now = self.seen(seen)?;
                let to = Booking { id: now.id, reference: now.reference.clone(), ..tidy(to) };
                self.bookable(&to)?;
                Ok(if to == now { Vec::new() } else { vec![Change::Booking(Edit::alter(now, to))] })
            }
            Command::RemoveBooking { seen } => Ok(vec![Change::Booking(Edit::remove(self.seen(seen)?))]),
            Command::Import { data, .. } => {
                let preview = preview(self, data);
                match preview.problems.first() {
                    None => Ok(preview.changes),
                    Some(first) => {
                        let count = preview.problems.len();
                        let message = format!("{count} rows cannot be taken, so nothing was: {first}");
                        Err(Refusal::whole(RefusalCode::BadValue, message))
                    }
                }
            }
            Command::ChangeSettings { seen, to } => {
                if *seen != *self.settings {
                    let message = "Somebody else has changed the settings since you opened them.";
                    return Err(Refusal::whole(RefusalCode::ChangedMeanwhile, message));
                }
                if to.name.trim().is_empty() {
                    return Err(Refusal::value("name", "Give the workspace a name."));
                }
                Ok(vec![Change::Settings(Edit::alter(seen.clone(), to.clone()))])
            }
            Command::Undo { revision, changes } => self.take_back(*revision, changes),
        }
    }

    /// The booking as it stands, if it is still what its author saw.
    fn seen(&self, seen: &Booking) -> Result<Booking, Refusal> {
        let Some(now) = self.booking(seen.id) else {
            let message = "This booking is no longer in the plan; somebody has taken it off.";
            return Err(Refusal::whole(RefusalCode::NotFound, message));
        };
        if now == *seen {
            return Ok(now);
        }
        let message = "Somebody else has changed this booking since you saw it.";
        Err(Refusal { standing: Some(Box::new(now)), ..Refusal::whole(RefusalCode::ChangedMeanwhile, message) })
    }

    fn bookable(&self, booking: &Booking) -> Result<(), Refusal> {
        rules::booking(booking)?;
        let known = match &booking.who {
            Who::Person(id) => self.people.contains_key(id),
            Who::Team(id) => self.teams.contains_key(id),
            Who::Role(role) => !role.trim().is_empty(),
        };
        if !known {
            return Err(Refusal::value("who", "Say whose time this is: nobody by that name is in the plan."));
        }
        let Some(id) = booking.project else { return Ok(()) };
        let Some(project) = self.projects.get(&id) else {
            return Err(Refusal::value("project", "There is no such project in the plan."));
        };
        if project.status == ProjectStatus::Closed {
            let message = format!("{} is closed; open it again before booking on it.", project.name);
            return Err(Refusal::value("project", message));
        }
        Ok(())
    }

    /// Everything must stand as the entry left it, and nothing that came later may hang on what would go.
    fn take_back(&self, revision: i64, changes: &[Change]) -> Result<Vec<Change>, Refusal> {
        if changes.iter().any(|change| !self.still_stands(change)) {
            let message =
                format!("Entry {revision} cannot be taken back: what it changed has been changed again since.");
            return Err(Refusal::whole(RefusalCode::NotNow, message));
        }
        let back = inverse_of(changes);
        if self.leaves_orphans(&back) {
            let message = format!("Entry {revision} cannot be taken back: later entries build on what it brought in.");
            return Err(Refusal::whole(RefusalCode::NotNow, message));
        }
        Ok(back)
    }

    /// Whether these changes remove a record to which one that stays refers.
    fn leaves_orphans(&self, changes: &[Change]) -> bool {
        let gone: HashSet<(&str, i32)> =
            changes.iter().filter(|change| change.removes()).map(Change::subject).collect();
        if gone.is_empty() {
            return false;
        }
        let after = self.with(changes);
        let is_gone = |kind: &'static str, id: i32| gone.contains(&(kind, id));
        let booking_left = self.bookings().any(|booking| {
            let lost_project = booking.project.is_some_and(|id| is_gone("project", id.0));
            let lost_who = match booking.who {
                Who::Person(id) => is_gone("person", id.0),
                Who::Team(id) => is_gone("team", id.0),
                Who::Role(_) => false,
            };
            (lost_project || lost_who) && !is_gone("booking", booking.id.0)
        });
        let absent = self.people.values().filter(|entry| is_gone("person", entry.person.id.0));
        let absence_left =
            absent.flat_map(|entry| entry.absences.iter()).any(|absence| !is_gone("absence", absence.id.0));
        let task_left = after.tasks.values().any(|task| {
            let people = task.assignees.people().any(|id| !after.people.contains_key(&id));
            let parent = task.parent.is_some_and(|id| !after.tasks.contains_key(&id));
            let team = task.team.is_some_and(|id| !after.teams.contains_key(&id));
            people || parent || team || !after.projects.contains_key(&task.project)
        });
        let team_left = after.teams.values().any(|team| {
            let people = team.members.iter().map(|(id, _)| *id).chain(team.owner);
            let parent = team.parent.is_some_and(|id| !after.teams.contains_key(&id));
            parent || people.into_iter().any(|id| !after.people.contains_key(&id))
        });
        let project_left = after.projects.values().any(|project| {
            project.parent.is_some_and(|id| !after.projects.contains_key(&id))
                || project.lead.is_some_and(|id| !after.people.contains_key(&id))
                || project.team.is_some_and(|id| !after.teams.contains_key(&id))
        });
        let time_left = after.time_entries.values().any(|entry| {
            !after.people.contains_key(&entry.person)
                || entry.project.is_some_and(|id| !after.projects.contains_key(&id))
                || entry.task.is_some_and(|id| !after.tasks.contains_key(&id))
        });
        let missing_task = |id| !after.tasks.contains_key(&id);
        let link_left = after.links.values().any(|link| missing_task(link.from) || missing_task(link.to));
        let milestones = || after.milestones.values().flat_map(|milestone| &milestone.projects);
        let milestone_left = milestones().any(|id| !after.projects.contains_key(id));
        booking_left
            || absence_left
            || task_left
            || team_left
            || project_left
            || time_left
            || link_left
            || milestone_left
    }
}

/// Words without blanks around them, as files hold them.
fn tidy(booking: &Booking) -> Booking {
    let mut booking = booking.clone();
    booking.note = booking.note.trim().to_owned();
    if let Who::Role(role) = &mut booking.who {
        *role = role.trim().to_owned();
    }
    booking
}
