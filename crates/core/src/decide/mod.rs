//! From a command to changes, or a refusal. Pure: the plan, the command and today are all it reads.

mod records;

use records::Numbers;

use crate::{
    BookingId, Day, Plan,
    change::{Change, Edit, inverse_of},
    command::Command,
    import::preview_beside,
    kinds::{Booking, Kind, ProjectStatus, Who},
    references::counted,
    rules::{self, Refusal, RefusalCode},
    tag::{changed_meanwhile, gone},
    text::Text,
    tuck_in::tucked_in,
};

impl Plan {
    /// Decides what a command changes, where no text is concerned.
    ///
    /// # Errors
    /// What the rules say against it: a sentence, the field it is about, and what stands where somebody was quicker.
    pub fn decide(&self, command: &Command, today: Day) -> Result<Vec<Change>, Refusal> {
        self.decide_with(command, today, &[])
    }

    /// Decides what a command changes. `texts` are those that the command speaks of, as they stand; the plan does not hold them.
    ///
    /// # Errors
    /// As [`Plan::decide`].
    pub fn decide_with(&self, command: &Command, today: Day, texts: &[Text]) -> Result<Vec<Change>, Refusal> {
        let changes = self.decided(command, today, texts)?;
        rules::bounded(self, &changes)?;
        Ok(changes)
    }

    fn decided(&self, command: &Command, today: Day, texts: &[Text]) -> Result<Vec<Change>, Refusal> {
        match command {
            Command::PlaceBooking { booking } => self.rearranged(&[Edit::new(booking.clone())]),
            Command::ChangeBooking { seen, to } => self.rearranged(&[Edit::alter(seen.clone(), to.clone())]),
            Command::RemoveBooking { seen } => self.rearranged(&[Edit::remove(seen.clone())]),
            Command::Rearrange { edits, .. } => self.rearranged(edits),
            Command::Import { data, .. } => {
                let preview = preview_beside(self, data, texts, today);
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
                to.check()?;
                let change = Change::Settings(Edit::alter(seen.clone(), to.clone()));
                Ok(if change.is_idle() { Vec::new() } else { vec![change] })
            }
            Command::Edit { changes } | Command::ReadCalendar { changes, .. } | Command::EvenOut { changes, .. } => {
                self.edit(changes, today, texts)
            }
            Command::LogDay { person, date, project, task, seen, minutes } => {
                let changes = self.log_day(*person, *date, (*project, *task), *seen, *minutes)?;
                self.edit(&changes, today, texts)
            }
            Command::FillWeek { person, week, with, cells } => {
                self.edit(&self.filled(*person, week.monday(), *with, *cells, today)?, today, texts)
            }
            Command::WalkIn { task, entry } => self.edit(&self.walked_in(task, entry), today, texts),
            Command::Freeze { project, name } => self.edit(&self.frozen(*project, name, today)?, today, texts),
            Command::SaveTemplate { project, name } => self.edit(&self.templated(*project, name)?, today, texts),
            Command::StartProject { template, project, stands } => {
                self.edit(&self.started(*template, project, stands)?, today, texts)
            }
            Command::WriteDown { project, parent, text } => {
                self.edit(&self.written_down((*project, *parent), text)?, today, texts)
            }
            Command::MoveTasks { tasks, mode } => self.move_tasks(tasks, *mode, today),
            Command::TuckIn { tasks } => self.edit(&tucked_in(self, today, tasks)?, today, texts),
            Command::Merge { changes, .. } => self.edit_as(changes, Numbers::Kept, today, texts),
            Command::Undo { revision, changes } => self.take_back(*revision, changes, texts),
        }
    }

    /// Bookings made, altered and taken off; what stays as it is is left out.
    fn rearranged(&self, edits: &[Edit<Booking>]) -> Result<Vec<Change>, Refusal> {
        let mut changes = Vec::with_capacity(edits.len());
        let mut next = self.next_id();
        for edit in edits {
            let now = edit.before.as_ref().map(|seen| self.seen(seen)).transpose()?;
            let after = match (&now, &edit.after) {
                (_, None) => None,
                (Some(now), Some(to)) => Some(Booking { id: now.id, reference: now.reference.clone(), ..tidy(to) }),
                (None, Some(new)) => {
                    next += 1;
                    Some(Booking { id: BookingId(next - 1), ..tidy(new) })
                }
            };
            if let Some(after) = &after {
                self.bookable(after)?;
            }
            if now != after {
                changes.push(Change::Booking(Edit { before: now, after }));
            }
        }
        Ok(changes)
    }

    /// The booking as it stands, if it is still what its author saw.
    fn seen(&self, seen: &Booking) -> Result<Booking, Refusal> {
        match self.booking(seen.id) {
            None => Err(gone(Kind::Booking)),
            Some(now) if now == *seen => Ok(now),
            Some(now) => Err(changed_meanwhile(Change::Booking(Edit::new(now)))),
        }
    }

    /// Whether a booking may stand: by its own rules, for whom it is, and on a project that is not closed.
    fn bookable(&self, booking: &Booking) -> Result<(), Refusal> {
        rules::booking(booking)?;
        let known = match &booking.who {
            Who::Person(id) => self.people.contains_key(id),
            Who::Team(id) => self.records.teams.contains_key(id),
            Who::Role(role) => !role.trim().is_empty(),
        };
        if !known {
            return Err(Refusal::value("who", "Say whose time this is: nobody by that name is in the plan."));
        }
        let Some(id) = booking.project else { return rules::line_stands(self, None, &booking.line) };
        let Some(project) = self.records.projects.get(&id) else {
            return Err(Refusal::value("project", "There is no such project in the plan."));
        };
        if project.status == ProjectStatus::Closed {
            let message = format!("{} is closed; open it again before booking on it.", project.name);
            return Err(Refusal::value("project", message));
        }
        rules::line_stands(self, booking.project, &booking.line)
    }

    /// Everything must stand as the entry left it, and nothing that came later may hang on what would go.
    fn take_back(&self, revision: i64, changes: &[Change], texts: &[Text]) -> Result<Vec<Change>, Refusal> {
        // What was is not taken back: a trail goes only as long as nothing has been added to it.
        let stands = |change: &Change| change.left(&self.standing_with(change, texts));
        let goes = |change: &&Change| change.subject().0 != Kind::Trail || stands(change);
        let changes: Vec<Change> = changes.iter().filter(goes).cloned().collect();
        if !changes.iter().all(stands) {
            let message =
                format!("Entry {revision} cannot be taken back: what it changed has been changed again since.");
            return Err(Refusal::whole(RefusalCode::NotNow, message));
        }
        let back = inverse_of(&changes);
        let orphans = self.orphans(&back);
        if !orphans.is_empty() {
            let message =
                format!("Entry {revision} cannot be taken back: {} build on what it brought in.", counted(&orphans));
            return Err(Refusal::whole(RefusalCode::NotNow, message));
        }
        // What comes back may belong to what has gone since, or carry a key that has been given again.
        let mut after = self.clone();
        let mut free = Ok(());
        for change in &back {
            free = free.and_then(|()| rules::free_key(&after, change));
            after.apply(change);
        }
        if back.iter().any(|change| after.missing_ref(change).is_some()) {
            let message = format!("Entry {revision} cannot be taken back: something it refers to is gone.");
            return Err(Refusal::whole(RefusalCode::NotNow, message));
        }
        free.and_then(|()| rules::whole(&after, &back)).map_err(|refusal| {
            let message = format!("Entry {revision} cannot be taken back: {}", refusal.message);
            Refusal::whole(RefusalCode::NotNow, message)
        })?;
        Ok(back)
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
