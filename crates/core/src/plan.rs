//! The plan: one immutable value with shared structure. A snapshot is a clone, and a change copies what it touches only.

use crate::{
    BookingId, Day, FieldId, LinkId, MilestoneId, PersonId, ProjectId, TaskId, TeamId, TimeEntryId,
    change::{Change, Edit},
    fields::{Field, FieldOf},
    people::{Absence, Holiday, Person},
    settings::Settings,
    work::{Amount, Booking, Certainty, Link, Milestone, Project, Task, Team, TimeEntry, Who},
};
use imbl::{OrdMap, OrdSet};
use std::sync::Arc;

/// Everything the rules read.
#[derive(Clone, Debug, Default)]
pub struct Plan {
    /// The number of the last ledger entry that is in here.
    pub revision: i64,
    /// The workspace's settings.
    pub settings: Arc<Settings>,
    /// People and equipment, each with what hangs on them.
    pub people: OrdMap<PersonId, Entry>,
    /// Teams.
    pub teams: OrdMap<TeamId, Arc<Team>>,
    /// Projects.
    pub projects: OrdMap<ProjectId, Arc<Project>>,
    /// Tasks.
    pub tasks: OrdMap<TaskId, Arc<Task>>,
    /// Links.
    pub links: OrdMap<LinkId, Arc<Link>>,
    /// Milestones.
    pub milestones: OrdMap<MilestoneId, Arc<Milestone>>,
    /// Logged work.
    pub time_entries: OrdMap<TimeEntryId, Arc<TimeEntry>>,
    /// Holiday calendars by name.
    pub calendars: OrdMap<String, Arc<Calendar>>,
    /// Bookings of teams and open seats.
    pub seats: OrdMap<BookingId, Arc<Booking>>,
    /// The tasks inside a task.
    pub children: OrdMap<TaskId, Arc<Vec<TaskId>>>,
    /// Minutes logged on a task, by person.
    pub logged: OrdMap<TaskId, Arc<Vec<(PersonId, i64)>>>,
    /// Fields of the workspace's own.
    pub fields: OrdMap<FieldId, Arc<Field>>,
    /// Tasks that name nobody.
    pub nameless_tasks: OrdSet<TaskId>,
    homes: OrdMap<BookingId, PersonId>,
    keys: OrdMap<(&'static str, String), i32>,
    days_logged: OrdMap<(PersonId, Day), Arc<Vec<TimeEntryId>>>,
    next_id: i32,
}

/// A person with everything that decides their load, so that one person's change copies one person.
#[derive(Clone, Debug)]
pub struct Entry {
    /// The person.
    pub person: Arc<Person>,
    /// Time off.
    pub absences: Arc<Vec<Absence>>,
    /// Bookings, as compact rows.
    pub bookings: Arc<Vec<BookingRow>>,
    /// Tasks this person is assigned to.
    pub tasks: Arc<Vec<TaskId>>,
}

/// A person's booking as the computation reads it: 40 bytes in a row with the person's others, words apart.
#[derive(Clone, Debug, PartialEq)]
pub struct BookingRow {
    /// Identity.
    pub id: BookingId,
    /// For which project; `None` is a hold.
    pub project: Option<ProjectId>,
    /// First day.
    pub start: Day,
    /// Last day.
    pub end: Day,
    /// How much, with its unit.
    pub amount: Amount,
    /// Agreed or tentative.
    pub certainty: Certainty,
    /// Counts on days off too.
    pub days_off: bool,
    /// Reference and note, where there is one.
    words: Option<Arc<(String, String)>>,
}

impl BookingRow {
    pub(crate) fn of(booking: &Booking) -> Self {
        let worded = !booking.reference.is_empty() || !booking.note.is_empty();
        Self {
            id: booking.id,
            project: booking.project,
            start: booking.start,
            end: booking.end,
            amount: booking.amount,
            certainty: booking.certainty,
            days_off: booking.days_off,
            words: worded.then(|| Arc::new((booking.reference.clone(), booking.note.clone()))),
        }
    }

    /// The whole booking, as it stands for this person.
    #[must_use]
    pub fn booking(&self, person: PersonId) -> Booking {
        let (reference, note) = self.words.as_deref().cloned().unwrap_or_default();
        Booking {
            id: self.id,
            reference,
            who: Who::Person(person),
            project: self.project,
            start: self.start,
            end: self.end,
            amount: self.amount,
            certainty: self.certainty,
            days_off: self.days_off,
            note,
        }
    }
}

/// The holidays of one calendar.
#[derive(Clone, Debug, Default)]
pub struct Calendar {
    /// In the order of their days.
    pub holidays: Vec<Holiday>,
    /// The same as day and fraction in millionths.
    pub days: Vec<(Day, i32)>,
}

impl Plan {
    /// A plan with nothing in it.
    #[must_use]
    pub fn empty() -> Self {
        Self { next_id: 1, ..Self::default() }
    }

    /// The first identity that was never used.
    #[must_use]
    pub fn next_id(&self) -> i32 {
        self.next_id.max(1)
    }

    /// Says that identities below `next` were used, also by records that are gone.
    pub fn reserve_ids(&mut self, next: i32) {
        self.next_id = self.next_id.max(next);
    }

    /// The plan after these changes.
    #[must_use]
    pub fn with(&self, changes: &[Change]) -> Self {
        let mut next = self.clone();
        for change in changes {
            next.apply(change);
        }
        next
    }

    /// Makes one change. A change is made by a decision on this very plan, so nothing is checked here.
    pub fn apply(&mut self, change: &Change) {
        self.reserve_ids(change.subject().1 + 1);
        match change {
            Change::Settings(edit) => self.settings = Arc::new(edit.after.clone().unwrap_or_default()),
            Change::Person(edit) => self.apply_person(edit),
            Change::Holiday(edit) => self.apply_holiday(edit),
            Change::Absence(edit) => self.apply_absence(edit),
            Change::Field(edit) => {
                self.rekey_by(edit, "field", |field| (format!("{} {}", field.of, field.name), field.id.0));
                put(&mut self.fields, edit, |field| field.id);
            }
            Change::Team(edit) => {
                self.rekey_by(edit, "team", |team| (team.code.clone(), team.id.0));
                put(&mut self.teams, edit, |team| team.id);
            }
            Change::Project(edit) => {
                self.rekey_by(edit, "project", |project| (project.code.clone(), project.id.0));
                put(&mut self.projects, edit, |project| project.id);
            }
            // No rule reads it: it stays in the database.
            Change::Text(_) => {}
            Change::Task(edit) => self.apply_task(edit),
            Change::Link(edit) => put(&mut self.links, edit, |link| link.id),
            Change::Booking(edit) => self.apply_booking(edit),
            Change::TimeEntry(edit) => self.apply_time_entry(edit),
            Change::Milestone(edit) => put(&mut self.milestones, edit, |milestone| milestone.id),
        }
    }

    /// The record that a change is about, as it stands now: the `after` of what is returned. Text is not in the plan.
    #[must_use]
    pub fn standing(&self, change: &Change) -> Change {
        fn now<K: Ord + Clone, T: Clone>(map: &OrdMap<K, Arc<T>>, edit: &Edit<T>, id: impl Fn(&T) -> K) -> Edit<T> {
            Edit {
                before: None,
                after: edit.either().and_then(|record| map.get(&id(record))).map(|now| (**now).clone()),
            }
        }
        fn found<T>(after: Option<T>) -> Edit<T> {
            Edit { before: None, after }
        }
        match change {
            Change::Settings(_) => Change::Settings(found(Some((*self.settings).clone()))),
            Change::Field(edit) => Change::Field(now(&self.fields, edit, |r| r.id)),
            Change::Person(edit) => {
                let entry = edit.either().and_then(|person| self.people.get(&person.id));
                Change::Person(found(entry.map(|entry| (*entry.person).clone())))
            }
            Change::Holiday(edit) => {
                let of = |holiday: &Holiday| {
                    self.calendars.get(&holiday.calendar)?.holidays.iter().find(|h| h.id == holiday.id).cloned()
                };
                // A holiday may have moved to another calendar.
                Change::Holiday(found(edit.before.as_ref().and_then(of).or_else(|| edit.after.as_ref().and_then(of))))
            }
            Change::Absence(edit) => {
                let of = |absence: &Absence| {
                    self.people.get(&absence.person)?.absences.iter().find(|a| a.id == absence.id).cloned()
                };
                Change::Absence(found(edit.before.as_ref().and_then(of).or_else(|| edit.after.as_ref().and_then(of))))
            }
            Change::Team(edit) => Change::Team(now(&self.teams, edit, |r| r.id)),
            Change::Project(edit) => Change::Project(now(&self.projects, edit, |r| r.id)),
            Change::Task(edit) => Change::Task(now(&self.tasks, edit, |r| r.id)),
            Change::Link(edit) => Change::Link(now(&self.links, edit, |r| r.id)),
            Change::Booking(edit) => Change::Booking(found(edit.either().and_then(|booking| self.booking(booking.id)))),
            Change::TimeEntry(edit) => Change::TimeEntry(now(&self.time_entries, edit, |r| r.id)),
            Change::Milestone(edit) => Change::Milestone(now(&self.milestones, edit, |r| r.id)),
            Change::Text(_) => Change::Text(found(None)),
        }
    }

    /// The identity of the record that has this key: a person's e-mail address, the code of a team or project, the reference of a
    /// task, the name of a field after what it is of (`task Wood`).
    #[must_use]
    pub fn find(&self, kind: &'static str, key: &str) -> Option<i32> {
        self.keys.get(&(kind, key.to_owned())).copied()
    }

    /// Everything logged by a person on a day.
    pub fn logged_on(&self, person: PersonId, day: Day) -> impl Iterator<Item = &Arc<TimeEntry>> {
        let ids = self.days_logged.get(&(person, day));
        ids.into_iter().flat_map(|ids| ids.iter()).filter_map(|id| self.time_entries.get(id))
    }

    /// Everything logged by a person, day by day.
    pub fn logged_by(&self, person: PersonId) -> impl Iterator<Item = &Arc<TimeEntry>> {
        let days = self.days_logged.range((person, Day::MIN)..=(person, Day::MAX));
        days.flat_map(|(_, ids)| ids.iter()).filter_map(|id| self.time_entries.get(id))
    }

    /// The fields that a kind of record has, by name.
    #[must_use]
    pub fn fields_of(&self, of: FieldOf) -> Vec<&Arc<Field>> {
        let mut fields: Vec<&Arc<Field>> = self.fields.values().filter(|field| field.of == of).collect();
        fields.sort_by_key(|field| field.name.clone());
        fields
    }

    fn rekey_by<T>(&mut self, edit: &Edit<T>, kind: &'static str, key: impl Fn(&T) -> (String, i32)) {
        self.rekey(kind, edit.before.as_ref().map(&key), edit.after.as_ref().map(&key));
    }

    fn rekey(&mut self, kind: &'static str, before: Option<(String, i32)>, after: Option<(String, i32)>) {
        // Where two records swap their keys, the first may have taken over the second's already.
        if let Some((key, id)) = before
            && self.keys.get(&(kind, key.clone())) == Some(&id)
        {
            self.keys.remove(&(kind, key));
        }
        if let Some((key, id)) = after.filter(|(key, _)| !key.is_empty()) {
            self.keys.insert((kind, key), id);
        }
    }

    /// A booking by its identity.
    #[must_use]
    pub fn booking(&self, id: BookingId) -> Option<Booking> {
        if let Some(booking) = self.seats.get(&id) {
            return Some((**booking).clone());
        }
        let person = *self.homes.get(&id)?;
        let row = self.people.get(&person)?.bookings.iter().find(|row| row.id == id)?;
        Some(row.booking(person))
    }

    /// Every booking, those of people first, person by person.
    pub fn bookings(&self) -> impl Iterator<Item = Booking> + '_ {
        let of_people = self.people.iter().flat_map(|(id, entry)| entry.bookings.iter().map(|row| row.booking(*id)));
        of_people.chain(self.seats.values().map(|booking| (**booking).clone()))
    }

    /// The number of bookings.
    #[must_use]
    pub fn booking_count(&self) -> usize {
        self.seats.len() + self.homes.len()
    }

    /// A person by e-mail address.
    #[must_use]
    pub fn person_by_email(&self, email: &str) -> Option<&Entry> {
        self.people.get(&PersonId(self.find("person", &email.to_lowercase())?))
    }

    /// The project, then the one it is in, up to the top.
    pub fn project_line(&self, id: ProjectId) -> impl Iterator<Item = &Arc<Project>> {
        std::iter::successors(self.projects.get(&id), |project| self.projects.get(&project.parent?))
    }

    /// A team and every team inside it.
    #[must_use]
    pub fn team_and_inner(&self, id: TeamId) -> Vec<TeamId> {
        let mut found = vec![id];
        let mut next = 0;
        while let Some(team) = found.get(next).copied() {
            found.extend(self.teams.values().filter(|inner| inner.parent == Some(team)).map(|inner| inner.id));
            next += 1;
        }
        found
    }

    /// Holidays of a person's calendar as days and fractions.
    #[must_use]
    pub fn holidays_of(&self, person: &Person) -> &[(Day, i32)] {
        self.calendars.get(&person.calendar).map_or(&[], |calendar| &calendar.days)
    }

    fn apply_person(&mut self, edit: &Edit<Person>) {
        self.rekey_by(edit, "person", |person| (person.email.to_lowercase(), person.id.0));
        match (&edit.before, &edit.after) {
            (_, Some(after)) => {
                let person = Arc::new(after.clone());
                if let Some(entry) = self.people.get_mut(&after.id) {
                    entry.person = person;
                } else {
                    let entry =
                        Entry { person, absences: Arc::default(), bookings: Arc::default(), tasks: Arc::default() };
                    self.people.insert(after.id, entry);
                }
            }
            (Some(before), None) => drop(self.people.remove(&before.id)),
            (None, None) => {}
        }
    }

    fn apply_holiday(&mut self, edit: &Edit<Holiday>) {
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

    fn apply_absence(&mut self, edit: &Edit<Absence>) {
        if let Some(entry) = edit.before.as_ref().and_then(|absence| self.people.get_mut(&absence.person)) {
            Arc::make_mut(&mut entry.absences)
                .retain(|other| edit.before.as_ref().is_none_or(|gone| other.id != gone.id));
        }
        if let Some(absence) = &edit.after
            && let Some(entry) = self.people.get_mut(&absence.person)
        {
            let absences = Arc::make_mut(&mut entry.absences);
            let at = absences.partition_point(|other| other.id < absence.id);
            absences.insert(at, absence.clone());
        }
    }

    fn apply_task(&mut self, edit: &Edit<Task>) {
        self.rekey_by(edit, "task", |task| (task.reference.clone(), task.id.0));
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
                insert_sorted(Arc::make_mut(self.children.entry(parent).or_default()), after.id);
            }
            if after.assignees.is_empty() {
                self.nameless_tasks.insert(after.id);
            }
            self.tasks.insert(after.id, Arc::new(after.clone()));
        }
    }

    fn apply_booking(&mut self, edit: &Edit<Booking>) {
        let id = edit.either().map(|booking| booking.id);
        let home = |record: &Option<Booking>| match record.as_ref().map(|booking| &booking.who) {
            Some(Who::Person(person)) => Some(*person),
            _ => None,
        };
        let (old, new) = (home(&edit.before), home(&edit.after));
        let Some(id) = id else { return };
        if old.is_none() && edit.before.is_some() {
            self.seats.remove(&id);
        }
        if let Some(entry) = old.and_then(|person| self.people.get_mut(&person)) {
            let rows = Arc::make_mut(&mut entry.bookings);
            match (&edit.after, rows.iter().position(|row| row.id == id)) {
                (Some(after), Some(at)) if new == old => rows[at] = BookingRow::of(after),
                (_, Some(at)) => drop(rows.remove(at)),
                (_, None) => {}
            }
        }
        match (&edit.after, new) {
            (Some(after), Some(person)) => {
                if new != old
                    && let Some(entry) = self.people.get_mut(&person)
                {
                    let rows = Arc::make_mut(&mut entry.bookings);
                    let at = rows.partition_point(|row| row.id < id);
                    rows.insert(at, BookingRow::of(after));
                }
                self.homes.insert(id, person);
            }
            (Some(after), None) => {
                self.homes.remove(&id);
                self.seats.insert(id, Arc::new(after.clone()));
            }
            (None, _) => drop(self.homes.remove(&id)),
        }
    }

    fn apply_time_entry(&mut self, edit: &Edit<TimeEntry>) {
        if let Some(before) = &edit.before
            && let Some(day) = self.days_logged.get_mut(&(before.person, before.date))
        {
            Arc::make_mut(day).retain(|id| *id != before.id);
        }
        if let Some(after) = &edit.after {
            Arc::make_mut(self.days_logged.entry((after.person, after.date)).or_default()).push(after.id);
        }
        for (record, sign) in [(&edit.before, -1), (&edit.after, 1)] {
            let Some((entry, task)) = record.as_ref().and_then(|entry| Some((entry, entry.task?))) else { continue };
            let log = Arc::make_mut(self.logged.entry(task).or_default());
            let minutes = i64::from(entry.minutes) * sign;
            match log.iter_mut().find(|(person, _)| *person == entry.person) {
                Some((_, sum)) => *sum += minutes,
                None => log.push((entry.person, minutes)),
            }
        }
        put(&mut self.time_entries, edit, |entry| entry.id);
    }
}

fn put<K: Ord + Clone, T: Clone>(map: &mut OrdMap<K, Arc<T>>, edit: &Edit<T>, id: impl Fn(&T) -> K) {
    match (&edit.before, &edit.after) {
        (_, Some(after)) => drop(map.insert(id(after), Arc::new(after.clone()))),
        (Some(before), None) => drop(map.remove(&id(before))),
        (None, None) => {}
    }
}

fn insert_sorted(list: &mut Vec<TaskId>, id: TaskId) {
    if let Err(at) = list.binary_search(&id) {
        list.insert(at, id);
    }
}
