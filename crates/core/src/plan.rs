//! The plan: one immutable value with shared structure. A snapshot is a clone, and a change copies what it touches only.

mod apply;
mod batch;
mod homes;
mod log;
mod numbers;

pub(crate) use apply::put;
pub use batch::{Batch, BatchBooking};
pub use log::{LogRow, Logged};
pub use numbers::{BookingRow, Brick, Choice, Marks, Numbers, Off};

use crate::{
    BookingId, Day, LinkId, PersonId, ProjectId, TaskId, TeamId, TimeEntryId,
    change::Change,
    craft::Spellings,
    fields::FieldOf,
    kinds::{
        Absence, Booking, Field, Holiday, Kind, Meeting, Person, Project, Records, Task, Team, TimeEntry, WeekSheetId,
        Who,
    },
    settings::Settings,
};
use imbl::{OrdMap, OrdSet};
use std::{
    collections::{BTreeSet, HashMap},
    sync::{Arc, OnceLock},
};

/// What stands inside a task that others are in, in minutes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Inside {
    /// Σ P of the tasks directly inside it, done ones too.
    pub planned: i64,
    /// What is logged on everything inside it, at any depth.
    pub logged: i64,
}

/// Everything the rules read.
#[derive(Clone, Debug, Default)]
pub struct Plan {
    /// The number of the last ledger entry that is in here.
    pub revision: i64,
    /// How often all of it was read anew: a revision may come again with other content, where entries of the ledger were lost.
    pub reading: u32,
    /// Which plan it is: a draft's number, 0 for the live plan.
    pub draft: i32,
    /// The workspace's settings.
    pub settings: Arc<Settings>,
    /// People and equipment, each with what hangs on them.
    pub people: OrdMap<PersonId, Entry>,
    /// The kinds of record that stand for themselves.
    pub records: Records,
    /// Tasks.
    pub tasks: OrdMap<TaskId, Arc<Task>>,
    /// Logged work.
    pub time_entries: OrdMap<TimeEntryId, Arc<TimeEntry>>,
    /// Holiday calendars by name.
    pub calendars: OrdMap<String, Arc<Calendar>>,
    /// Bookings of teams and open seats.
    pub seats: OrdMap<BookingId, Arc<Booking>>,
    /// The tasks inside a task.
    pub children: OrdMap<TaskId, Arc<Vec<TaskId>>>,
    /// The links out of a task itself.
    pub links_from: OrdMap<TaskId, Arc<Vec<LinkId>>>,
    /// The links into a task itself.
    pub links_to: OrdMap<TaskId, Arc<Vec<LinkId>>>,
    /// What is logged on a task, by person.
    pub logged: OrdMap<TaskId, Arc<Vec<Logged>>>,
    /// What is logged on no task, by project and person.
    pub logged_apart: OrdMap<(Option<ProjectId>, PersonId), Logged>,
    /// Tasks that name nobody.
    pub nameless_tasks: OrdSet<TaskId>,
    /// Where each week of somebody's hours stands, by its Monday.
    pub(crate) sheets: OrdMap<(PersonId, Day), WeekSheetId>,
    homes: homes::Homes,
    keys: OrdMap<(Kind, String), i32>,
    /// What everybody logged, by day.
    days_logged: OrdMap<PersonId, Arc<Vec<LogRow>>>,
    /// The sums inside tasks, added up once for this plan when somebody first asks; other tasks or another log have their own.
    pub(crate) inside: Arc<OnceLock<HashMap<TaskId, Inside>>>,
    /// How roles and skills are shown, likewise; other people or open seats have their own.
    spellings: Arc<OnceLock<Spellings>>,
    next_id: i32,
}

/// A person with everything that decides their load, so that one person's change copies one person.
#[derive(Clone, Debug)]
pub struct Entry {
    /// The person.
    pub person: Arc<Person>,
    /// Time off.
    pub absences: Arc<Vec<Absence>>,
    /// Meetings of projects that this person comes to.
    pub meetings: Arc<Vec<Arc<Meeting>>>,
    /// What the computation reads, bookings among it.
    pub numbers: Arc<Numbers>,
    /// Tasks this person is assigned to.
    pub tasks: Arc<Vec<TaskId>>,
}

/// The holidays of one calendar.
#[derive(Clone, Debug, Default)]
pub struct Calendar {
    /// In the order of their days.
    pub holidays: Vec<Holiday>,
    /// The same as day and fraction in millionths.
    pub days: Vec<(Day, i32)>,
}

impl Entry {
    /// The person's bookings, in the order of their identities.
    pub fn bookings(&self) -> impl ExactSizeIterator<Item = BookingRow<'_>> {
        self.numbers.bookings()
    }
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

    /// The record that a change is about, as it stands now: the `after` of what is returned. Text is not in the plan.
    #[must_use]
    pub fn standing(&self, change: &Change) -> Change {
        change.standing_in(self)
    }

    /// The identity of the record that has this key: a person's e-mail address, the code of a team or project, the reference of a
    /// task, the name of a field after what it is of (`task Wood`).
    #[must_use]
    pub fn find(&self, kind: Kind, key: &str) -> Option<i32> {
        self.keys.get(&(kind, key.to_owned())).copied()
    }

    /// The fields that a kind of record has, by name.
    #[must_use]
    pub fn fields_of(&self, of: FieldOf) -> Vec<&Arc<Field>> {
        let mut fields: Vec<&Arc<Field>> = self.records.fields.values().filter(|field| field.of == of).collect();
        fields.sort_by_key(|field| field.name.clone());
        fields
    }

    /// A booking by its identity.
    #[must_use]
    pub fn booking(&self, id: BookingId) -> Option<Booking> {
        if let Some(booking) = self.seats.get(&id) {
            return Some((**booking).clone());
        }
        let person = self.homes.get(id)?;
        let numbers = &self.people.get(&person)?.numbers;
        let row = numbers.bookings().nth(numbers.place(id).ok()?)?;
        Some(row.booking(Who::Person(person)))
    }

    /// Every booking, those of people first, person by person.
    pub fn bookings(&self) -> impl Iterator<Item = Booking> + '_ {
        let of_people = self.people.iter().flat_map(|(id, entry)| {
            let who = Who::Person(*id);
            entry.bookings().map(move |row| row.booking(who.clone()))
        });
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
        self.people.get(&PersonId(self.find(Kind::Person, &email.to_lowercase())?))
    }

    /// The tasks directly inside one.
    #[must_use]
    pub fn children_of(&self, id: TaskId) -> &[TaskId] {
        self.children.get(&id).map_or(&[], |children| children.as_slice())
    }

    /// The project, then the one it is in, up to the top.
    pub fn project_line(&self, id: ProjectId) -> impl Iterator<Item = &Arc<Project>> {
        std::iter::successors(self.records.projects.get(&id), |project| self.records.projects.get(&project.parent?))
    }

    /// A project and every project inside it.
    #[must_use]
    pub fn project_and_inner(&self, id: ProjectId) -> BTreeSet<ProjectId> {
        let inside = |one: &ProjectId| self.project_line(*one).any(|above| above.id == id);
        self.records.projects.keys().copied().filter(inside).collect()
    }

    /// A team and every team it is in, from the inner one outwards.
    pub fn team_line(&self, id: TeamId) -> impl Iterator<Item = &Arc<Team>> {
        std::iter::successors(self.records.teams.get(&id), |team| self.records.teams.get(&team.parent?))
    }

    /// A team and every team inside it.
    #[must_use]
    pub fn team_and_inner(&self, id: TeamId) -> Vec<TeamId> {
        let mut found = vec![id];
        let mut next = 0;
        while let Some(team) = found.get(next).copied() {
            found.extend(self.records.teams.values().filter(|inner| inner.parent == Some(team)).map(|inner| inner.id));
            next += 1;
        }
        found
    }

    /// Everybody with what hangs on them, in the order of their identities.
    pub(crate) fn everybody(&self) -> Vec<&Entry> {
        self.people.values().collect()
    }

    /// How roles and skills are shown.
    #[must_use]
    pub fn spellings(&self) -> &Spellings {
        self.spellings.get_or_init(|| Spellings::of(self))
    }

    /// Holidays of a person's calendar as days and fractions.
    #[must_use]
    pub fn holidays_of(&self, person: &Person) -> &[(Day, i32)] {
        self.calendars.get(&person.calendar).map_or(&[], |calendar| &calendar.days)
    }
}
