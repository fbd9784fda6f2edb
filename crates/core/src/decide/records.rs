//! Making, altering and removing records: every kind goes the same way.

use crate::{
    Day, PersonId, Plan, ProjectId, TaskId, TimeEntryId,
    change::{Change, Edit},
    kinds::{Kind, MOST_FOLLOWERS, MOST_LOGGED, Task, TimeEntry},
    mentions::mentions,
    network::{self, Dates, Ground, Mode, Moved},
    plan::LogRow,
    references::counted,
    rules::{self, Refusal, RefusalCode},
    tag::{changed_meanwhile, gone},
    text::{Text, TextOn, TextSlot},
};
use std::{
    collections::{BTreeMap, HashMap},
    sync::Arc,
};

/// Which identities new records have.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Numbers {
    /// They are given some.
    Given,
    /// Those that they have, which were given elsewhere.
    Kept,
}

impl Plan {
    /// What stands of the record that a change is about, texts included.
    pub(crate) fn standing_with(&self, change: &Change, texts: &[Text]) -> Change {
        match change {
            Change::Text(edit) => {
                let now = edit.either().and_then(|text| texts.iter().find(|now| now.id == text.id)).cloned();
                Change::Text(Edit { before: None, after: now })
            }
            _ => self.standing(change),
        }
    }

    /// Changes in which new records have no identity yet.
    pub(super) fn edit(&self, changes: &[Change], today: Day, texts: &[Text]) -> Result<Vec<Change>, Refusal> {
        self.edit_as(changes, Numbers::Given, today, texts)
    }

    /// Each change must have seen what stands, keep to the rules of its record, and refer to what is there.
    pub(super) fn edit_as(
        &self,
        changes: &[Change],
        numbers: Numbers,
        today: Day,
        texts: &[Text],
    ) -> Result<Vec<Change>, Refusal> {
        let mut plan = self.clone();
        let mut made = Vec::with_capacity(changes.len());
        for change in changes {
            let is_numbered = !change.adds() || numbers == Numbers::Kept;
            let change = if is_numbered { change.clone() } else { change.clone().numbered(plan.next_id()) };
            let standing = plan.standing_with(&change, texts);
            if !change.saw(&standing) {
                return Err(meanwhile(&change, standing));
            }
            let change = change.tidy(&plan);
            if change.is_idle() {
                continue;
            }
            if !change.removes() {
                change.lawful(&plan, today)?;
                rules::free_key(&plan, &change)?;
                if let Change::Booking(Edit { before, after: Some(booking) }) = &change {
                    plan.bookable(booking)?;
                    if before.as_ref().is_none_or(|before| before.reference != booking.reference) {
                        rules::free_reference(&plan, booking)?;
                    }
                }
            }
            plan.apply(&change);
            made.push(change);
        }
        for change in &made {
            if let Some((field, kind)) = plan.missing_ref(change) {
                let message = format!("There is no such {} in the plan.", kind.about().words.0);
                return Err(Refusal::value(field, message));
            }
        }
        rules::whole(&plan, &made)?;
        self.redate(&network::followed(&plan, &made, today)?, &mut made)?;
        self.follow(&mut made);
        let orphans = self.orphans(&made);
        if !orphans.is_empty() {
            let removed = made.iter().find(|change| change.removes()).map(Change::name).unwrap_or_default();
            let belong = if orphans.values().sum::<usize>() == 1 { "belongs" } else { "belong" };
            let message =
                format!("{} still {belong} to “{removed}”, so it stays.{}", counted(&orphans), instead(&made));
            return Err(Refusal::whole(RefusalCode::NotNow, message));
        }
        Ok(made)
    }

    /// Gives tasks, and what follows of them, other dates.
    pub(super) fn move_tasks(&self, tasks: &[(Task, Day)], mode: Mode, today: Day) -> Result<Vec<Change>, Refusal> {
        for (seen, _) in tasks {
            match self.tasks.get(&seen.id) {
                None => return Err(gone(Kind::Task)),
                Some(now) if **now == *seen => {}
                Some(now) => return Err(changed_meanwhile(Change::Task(Edit::new((**now).clone())))),
            }
        }
        let wanted: Vec<(TaskId, Day)> = tasks.iter().map(|(task, day)| (task.id, *day)).collect();
        let moved = network::moved(&Ground::new(self, today), &wanted, mode);
        let mut made = Vec::new();
        self.redate(&moved.map_err(|stopped| network::refused(self, &stopped))?, &mut made)?;
        Ok(made)
    }

    /// Adds the new dates of leaves to changes; one that they alter already is not changed twice.
    fn redate(&self, moved: &[Moved], made: &mut Vec<Change>) -> Result<(), Refusal> {
        let mut left: HashMap<TaskId, Dates> = moved.iter().map(|it| (it.task, it.to)).collect();
        for Moved { task, to: (start, finish) } in moved {
            rules::range(Some(*start), Some(*finish)).map_err(|message| {
                let title = self.tasks.get(task).map_or("", |task| task.title.as_str());
                Refusal::value("start", format!("“{title}” {message}."))
            })?;
        }
        for change in made.iter_mut() {
            if let Change::Task(Edit { after: Some(task), .. }) = change
                && let Some((start, finish)) = left.remove(&task.id)
            {
                (task.start, task.finish) = (Some(start), Some(finish));
            }
        }
        for Moved { task, to: (start, finish) } in moved.iter().filter(|it| left.contains_key(&it.task)) {
            if let Some(task) = self.tasks.get(task) {
                let after = Task { start: Some(*start), finish: Some(*finish), ..(**task).clone() };
                made.push(Change::Task(Edit::alter((**task).clone(), after)));
            }
        }
        Ok(())
    }

    /// Whoever a new comment on a task mentions follows that task from then on.
    fn follow(&self, made: &mut Vec<Change>) {
        let mut called: BTreeMap<TaskId, Vec<PersonId>> = BTreeMap::new();
        for change in made.iter() {
            let Change::Text(Edit { before: None, after: Some(text) }) = change else { continue };
            if text.on == TextOn::Task && text.slot == TextSlot::Comment {
                let people = mentions(self, &text.body).into_iter().map(|mention| mention.person);
                called.entry(TaskId(text.subject)).or_default().extend(people);
            }
        }
        for (task, people) in called {
            let Some(before) = self.tasks.get(&task) else { continue };
            let mut after = (**before).clone();
            for person in people {
                if !after.followers.contains(&person) && after.followers.len() < MOST_FOLLOWERS {
                    after.followers.push(person);
                }
            }
            if after != **before {
                made.push(Change::Task(Edit::alter((**before).clone(), after)));
            }
        }
    }

    /// The changes that make a cell of the week sheet hold `minutes`: what is logged there is one entry or, where several were
    /// logged, several of which the last gives way first.
    pub(super) fn log_day(
        &self,
        person: PersonId,
        date: Day,
        on: (Option<ProjectId>, Option<TaskId>),
        seen: i64,
        minutes: i64,
    ) -> Result<Vec<Change>, Refusal> {
        let on = (on.1.and_then(|id| self.tasks.get(&id)).map(|task| task.project).or(on.0), on.1);
        let is_here = |entry: &&Arc<TimeEntry>| LogRow::of(entry).subject(self) == on;
        let there: Vec<&TimeEntry> = self.logged_on(person, date).filter(is_here).map(|entry| &**entry).collect();
        let now: i64 = there.iter().map(|entry| i64::from(entry.minutes)).sum();
        if now != seen {
            let message =
                format!("Somebody else has logged time here since you looked: it holds {now} minutes now, not {seen}.");
            return Err(Refusal::whole(RefusalCode::ChangedMeanwhile, message));
        }
        if !(0..=i64::from(MOST_LOGGED)).contains(&minutes) {
            return Err(Refusal::value("minutes", "A day has 24 hours."));
        }
        let mut more = minutes - now;
        let mut changes = Vec::new();
        // The first entries keep what they have: what is more goes to the last one, what is less comes off the last ones. Corrections
        // stay as they are, and what was taken out by them cannot be taken again.
        for entry in there.iter().rev().filter(|entry| entry.minutes > 0) {
            if more == 0 {
                break;
            }
            let keep = (i64::from(entry.minutes) + more).max(0);
            more += i64::from(entry.minutes) - keep;
            let after = TimeEntry { minutes: i32::try_from(keep).unwrap_or(i32::MAX), ..(*entry).clone() };
            changes.push(Change::TimeEntry(if keep == 0 {
                Edit::remove((*entry).clone())
            } else {
                Edit::alter((*entry).clone(), after)
            }));
        }
        if there.is_empty() && minutes > 0 {
            changes.push(Change::TimeEntry(Edit::new(TimeEntry {
                id: TimeEntryId(0),
                reference: String::new(),
                person,
                date,
                project: on.0,
                task: on.1,
                minutes: i32::try_from(minutes).unwrap_or(0),
                billable: true,
                note: String::new(),
                reason: String::new(),
            })));
        }
        Ok(changes)
    }
}

fn meanwhile(change: &Change, standing: Change) -> Refusal {
    if standing.removes() { gone(change.subject().0) } else { changed_meanwhile(standing) }
}

/// What to do with a record that cannot go.
fn instead(made: &[Change]) -> &'static str {
    match made.iter().find(|change| change.removes()) {
        Some(Change::Task(_)) => " Set its stage to done instead.",
        Some(Change::Project(_)) => " Close it instead.",
        _ => "",
    }
}
