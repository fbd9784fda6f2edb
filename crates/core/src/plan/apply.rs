//! What a change does to a plan: it copies what it touches only.

use super::{Entry, Numbers, Plan};
use crate::{
    PersonId, TaskId,
    change::{Change, Edit},
    kinds::{Absence, Booking, Holiday, Link, Meeting, Person, Record, Task, TimeEntry, WeekSheet, Who},
};
use imbl::OrdMap;
use std::{
    collections::BTreeSet,
    sync::{Arc, LazyLock, OnceLock},
};

/// Who has no tasks yet shares one empty list, which is always near.
static NO_TASKS: LazyLock<Arc<Vec<TaskId>>> = LazyLock::new(Arc::default);

/// So does who comes to no meeting.
static NO_MEETINGS: LazyLock<Arc<Vec<Arc<Meeting>>>> = LazyLock::new(Arc::default);

impl Plan {
    /// The plan after these changes.
    #[must_use]
    pub fn with<'a>(&self, changes: impl IntoIterator<Item = &'a Change>) -> Self {
        let mut next = self.clone();
        for change in changes {
            next.apply(change);
        }
        next
    }

    /// Makes one change. A change is made by a decision on this very plan, so nothing is checked here.
    pub fn apply(&mut self, change: &Change) {
        self.reserve_ids(change.subject().1 + 1);
        change.apply_to(self);
    }

    /// What names a record by its key finds it after an edit.
    pub(crate) fn rekey<R: Record>(&mut self, edit: &Edit<R>) {
        if !R::ABOUT.named() {
            return;
        }
        let key = |record: &R| (record.key(), record.number());
        let (before, after) = (edit.before.as_ref().map(key), edit.after.as_ref().map(key));
        // Where two records swap their keys, the first may have taken over the second's already.
        if let Some((key, id)) = before
            && self.keys.get(&(R::KIND, key.clone())) == Some(&id)
        {
            self.keys.remove(&(R::KIND, key));
        }
        if let Some((key, id)) = after.filter(|(key, _)| !key.is_empty()) {
            self.keys.insert((R::KIND, key), id);
        }
    }

    pub(crate) fn put_person(&mut self, edit: &Edit<Person>) {
        let words = [&edit.before, &edit.after].map(|it| it.as_ref().map(|person| (&person.role, &person.skills)));
        if words[0] != words[1] {
            forget(&mut self.spellings);
        }
        self.rekey(edit);
        match (&edit.before, &edit.after) {
            (_, Some(after)) => {
                let person = Arc::new(after.clone());
                if let Some(entry) = self.people.get_mut(&after.id) {
                    Arc::make_mut(&mut entry.numbers).take_person(after);
                    entry.person = person;
                } else {
                    let numbers = Arc::new(Numbers::of(after, &[]));
                    let (absences, meetings) = (Arc::default(), NO_MEETINGS.clone());
                    let entry = Entry { person, absences, meetings, numbers, tasks: NO_TASKS.clone() };
                    self.people.insert(after.id, entry);
                }
            }
            (Some(before), None) => drop(self.people.remove(&before.id)),
            (None, None) => {}
        }
    }

    pub(crate) fn put_holiday(&mut self, edit: &Edit<Holiday>) {
        for (record, there) in [(&edit.before, false), (&edit.after, true)] {
            let Some(holiday) = record else { continue };
            let calendar = Arc::make_mut(self.calendars.entry(holiday.calendar.clone()).or_default());
            calendar.holidays.retain(|other| other.id != holiday.id);
            if there {
                let at = calendar.holidays.partition_point(|other| (other.date, other.id) < (holiday.date, holiday.id));
                calendar.holidays.insert(at, holiday.clone());
            }
            calendar.days = calendar.holidays.iter().map(|h| (h.date, h.fraction)).collect();
        }
    }

    pub(crate) fn put_absence(&mut self, edit: &Edit<Absence>) {
        if let Some(gone) = &edit.before
            && let Some(entry) = self.people.get_mut(&gone.person)
        {
            Arc::make_mut(&mut entry.absences).retain(|other| other.id != gone.id);
            Arc::make_mut(&mut entry.numbers).take_off(&entry.absences, &entry.meetings);
        }
        if let Some(absence) = &edit.after
            && let Some(entry) = self.people.get_mut(&absence.person)
        {
            let absences = Arc::make_mut(&mut entry.absences);
            let at = absences.partition_point(|other| other.id < absence.id);
            absences.insert(at, absence.clone());
            Arc::make_mut(&mut entry.numbers).take_off(absences, &entry.meetings);
        }
    }

    pub(crate) fn put_meeting(&mut self, edit: &Edit<Meeting>) {
        self.rekey(edit);
        put(&mut self.records.meetings, edit);
        let touched: BTreeSet<PersonId> =
            edit.before.iter().chain(&edit.after).flat_map(|meeting| &meeting.people).copied().collect();
        for person in touched {
            let Some(entry) = self.people.get_mut(&person) else { continue };
            let meetings = Arc::make_mut(&mut entry.meetings);
            if let Some(gone) = &edit.before {
                meetings.retain(|other| other.id != gone.id);
            }
            if let Some(meeting) = edit.after.as_ref().filter(|meeting| meeting.people.contains(&person)) {
                let at = meetings.partition_point(|other| other.id < meeting.id);
                meetings.insert(at, Arc::new(meeting.clone()));
            }
            Arc::make_mut(&mut entry.numbers).take_off(&entry.absences, &entry.meetings);
        }
    }

    pub(crate) fn put_task(&mut self, edit: &Edit<Task>) {
        forget(&mut self.inside);
        self.rekey(edit);
        if let Some(before) = &edit.before {
            for person in before.assignees.people() {
                if let Some(entry) = self.people.get_mut(&person) {
                    Arc::make_mut(&mut entry.tasks).retain(|task| *task != before.id);
                }
            }
            if let Some(inner) = before.parent.and_then(|parent| self.children.get_mut(&parent)) {
                Arc::make_mut(inner).retain(|task| *task != before.id);
            }
            self.nameless_tasks.remove(&before.id);
            self.tasks.remove(&before.id);
        }
        if let Some(after) = &edit.after {
            for person in after.assignees.people() {
                if let Some(entry) = self.people.get_mut(&person) {
                    insert_sorted(Arc::make_mut(&mut entry.tasks), after.id);
                }
            }
            if let Some(parent) = after.parent {
                let inner = Arc::make_mut(self.children.entry(parent).or_default());
                let at =
                    inner.partition_point(|id| self.tasks.get(id).is_none_or(|beside| beside.order() < after.order()));
                inner.insert(at, after.id);
            }
            if after.assignees.is_empty() {
                self.nameless_tasks.insert(after.id);
            }
            self.tasks.insert(after.id, Arc::new(after.clone()));
        }
    }

    pub(crate) fn put_link(&mut self, edit: &Edit<Link>) {
        for (record, there) in [(&edit.before, false), (&edit.after, true)] {
            let Some(link) = record else { continue };
            for (ends, task) in [(&mut self.links_from, link.from), (&mut self.links_to, link.to)] {
                let links = Arc::make_mut(ends.entry(task).or_default());
                links.retain(|other| *other != link.id);
                if there {
                    insert_sorted(links, link.id);
                }
            }
        }
        put(&mut self.records.links, edit);
    }

    pub(crate) fn put_booking(&mut self, edit: &Edit<Booking>) {
        let id = edit.either().map(|booking| booking.id);
        let home = |record: &Option<Booking>| match record.as_ref().map(|booking| &booking.who) {
            Some(Who::Person(person)) => Some(*person),
            _ => None,
        };
        let (old, new) = (home(&edit.before), home(&edit.after));
        let Some(id) = id else { return };
        if old.is_none() && edit.before.is_some() {
            forget(&mut self.spellings);
            self.seats.remove(&id);
        }
        if new != old
            && let Some(entry) = old.and_then(|person| self.people.get_mut(&person))
        {
            Arc::make_mut(&mut entry.numbers).remove(id);
        }
        match (&edit.after, new) {
            (Some(after), Some(person)) => {
                if let Some(entry) = self.people.get_mut(&person) {
                    Arc::make_mut(&mut entry.numbers).put(after);
                }
                self.homes.insert(id, person);
            }
            (Some(after), None) => {
                forget(&mut self.spellings);
                self.homes.remove(id);
                self.seats.insert(id, Arc::new(after.clone()));
            }
            (None, _) => self.homes.remove(id),
        }
    }

    pub(crate) fn put_week_sheet(&mut self, edit: &Edit<WeekSheet>) {
        if let Some(before) = &edit.before
            && self.sheets.get(&(before.person, before.week)) == Some(&before.id)
        {
            self.sheets.remove(&(before.person, before.week));
        }
        if let Some(after) = &edit.after {
            self.sheets.insert((after.person, after.week), after.id);
        }
        put(&mut self.records.week_sheets, edit);
    }

    pub(crate) fn put_time_entry(&mut self, edit: &Edit<TimeEntry>) {
        forget(&mut self.inside);
        for (entry, is_in) in
            edit.before.iter().map(|entry| (entry, false)).chain(edit.after.iter().map(|it| (it, true)))
        {
            self.put_row(entry, is_in);
            self.put_log(entry, is_in);
        }
        put(&mut self.time_entries, edit);
    }
}

/// What was worked out from records that change holds no longer; other plans that share it keep theirs.
fn forget<T>(kept: &mut Arc<OnceLock<T>>) {
    match Arc::get_mut(kept) {
        Some(own) => drop(own.take()),
        None => *kept = Arc::default(),
    }
}

/// Makes an edit in the map of its kind.
pub(crate) fn put<R: Record>(map: &mut OrdMap<R::Id, Arc<R>>, edit: &Edit<R>) {
    match (&edit.before, &edit.after) {
        (_, Some(after)) => drop(map.insert(after.id(), Arc::new(after.clone()))),
        (Some(before), None) => drop(map.remove(&before.id())),
        (None, None) => {}
    }
}

fn insert_sorted<T: Ord>(list: &mut Vec<T>, id: T) {
    if let Err(at) = list.binary_search(&id) {
        list.insert(at, id);
    }
}
