//! Rows of several people, and of projects: what stands in them, and their minutes.

use super::{
    Group, PersonCells, Query,
    counts::Counts,
    teams::{NO_TEAM, Teams},
};
use crate::{
    PersonId, Plan, ProjectId, TeamId,
    availability::Days,
    cells::{Bucket, Cell, Sum, WHOLE},
    craft::is_same,
    demand::{SeatLoad, Slot, seat_loads},
    kinds::{Person, Task, Who},
    plan::{BookingRow, Entry},
};
use std::{
    collections::{BTreeMap, BTreeSet},
    sync::OnceLock,
};

/// A row that adds up several people, or a project.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum RowKey {
    /// A team; `None` for what is left of people's time besides their teams.
    Team(Option<TeamId>),
    /// Everyone with this role, as [`Plan::spellings`] show it; empty for those without one.
    Role(String),
    /// Everyone with this skill, as [`Plan::spellings`] show it; empty for those without any.
    Skill(String),
    /// A project; `None` for holds.
    Project(Option<ProjectId>),
}

impl RowKey {
    /// The key under which the row stands in the load table.
    #[must_use]
    pub fn text(&self, plan: &Plan) -> String {
        match self {
            Self::Team(id) => {
                id.and_then(|id| plan.records.teams.get(&id)).map_or(NO_TEAM, |team| &team.code).to_owned()
            }
            Self::Role(role) => role_key(role),
            Self::Skill(skill) => skill_key(skill),
            Self::Project(id) => project_key(plan, *id),
        }
    }
}

/// Rows while they are summed.
pub(super) struct Rows {
    buckets: usize,
    list: BTreeMap<String, Vec<Sum>>,
}

impl Rows {
    /// The row of a key, made where it is missing.
    pub fn of(&mut self, key: &str, limited: bool) -> &mut Vec<Sum> {
        if !self.list.contains_key(key) {
            let blank = if limited { Sum::default() } else { Sum::unlimited() };
            self.list.insert(key.to_owned(), vec![blank; self.buckets]);
        }
        self.list.entry(key.to_owned()).or_default()
    }
}

/// Everything that rows of groups have in common, computed once for all of them.
pub struct Groups<'a> {
    pub(super) plan: &'a Plan,
    pub(crate) query: Query,
    pub(super) buckets: Vec<Bucket>,
    teams: OnceLock<Teams<'a>>,
    seats: OnceLock<Vec<SeatLoad>>,
    on_projects: OnceLock<BTreeMap<Option<ProjectId>, BTreeSet<PersonId>>>,
    /// One row is asked for, not many: who is on its project is looked up without looking up everybody's.
    one: bool,
}

impl<'a> Groups<'a> {
    /// Begins; nothing is computed until a row asks for it.
    #[must_use]
    pub fn new(plan: &'a Plan, query: Query) -> Self {
        let buckets = query.grain.buckets(query.window.from, query.window.to, &plan.settings);
        Self {
            plan,
            query,
            buckets,
            teams: OnceLock::new(),
            seats: OnceLock::new(),
            on_projects: OnceLock::new(),
            one: false,
        }
    }

    /// The same for a single row.
    #[must_use]
    pub fn for_one(plan: &'a Plan, query: Query) -> Self {
        Self { one: true, ..Self::new(plan, query) }
    }

    /// The buckets of every row.
    #[must_use]
    pub fn buckets(&self) -> &[Bucket] {
        &self.buckets
    }

    /// Work with no person in the window: of teams, and of open seats.
    pub fn seats(&self) -> &[SeatLoad] {
        self.seats.get_or_init(|| seat_loads(self.plan, &self.query.window))
    }

    pub(super) fn teams(&self) -> &Teams<'a> {
        self.teams.get_or_init(|| Teams::new(self.plan))
    }

    /// The row of one group: the same as in the whole table, computed from the people whose load it holds.
    #[must_use]
    pub fn row(&self, key: &RowKey) -> Vec<Cell> {
        let group = match key {
            RowKey::Team(_) => Group::Team,
            RowKey::Role(_) => Group::Role,
            RowKey::Skill(_) => Group::Skill,
            RowKey::Project(_) => Group::Project,
        };
        let (text, people) = (key.text(self.plan), self.held(key));
        let mut rows = self.rows(group, people.into_iter(), Some(&text));
        rows.remove(&text).unwrap_or_else(|| vec![Cell::default(); self.buckets.len()])
    }

    /// All rows of a group.
    pub(super) fn all(&self, group: Group) -> BTreeMap<String, Vec<Cell>> {
        self.rows(group, self.plan.people.values(), None)
    }

    /// The people of a group as one lists them under its head: members, holders, whoever is booked or has tasks.
    #[must_use]
    pub fn people(&self, key: &RowKey) -> Vec<&'a Entry> {
        let with = |fits: &dyn Fn(&Person) -> bool| -> Vec<&'a Entry> {
            self.plan.people.values().filter(|entry| fits(&entry.person)).collect()
        };
        match key {
            RowKey::Team(None) => {
                let teams = self.teams();
                with(&|person| teams.misses(person.id))
            }
            RowKey::Team(Some(id)) => {
                let members = self.plan.records.teams.get(id).map(|team| team.members.as_slice()).unwrap_or_default();
                members.iter().filter_map(|(id, _)| self.plan.people.get(id)).collect()
            }
            RowKey::Role(role) => with(&|person| is_same(&person.role, role)),
            RowKey::Skill(skill) if skill.is_empty() => {
                with(&|person| self.plan.spellings().skills(&person.skills).is_empty())
            }
            RowKey::Skill(skill) => with(&|person| person.skills.iter().any(|own| is_same(own, skill))),
            RowKey::Project(id) if self.one => self.on_project(*id),
            RowKey::Project(id) => {
                let people = self.on_projects().get(id);
                people.into_iter().flatten().filter_map(|id| self.plan.people.get(id)).collect()
            }
        }
    }

    /// The people whose load a row holds, which for a team are also those of inner teams and those with tasks that name it.
    #[must_use]
    pub fn held(&self, key: &RowKey) -> Vec<&'a Entry> {
        match key {
            // What is left of everybody's time stands in the row of those without a team.
            RowKey::Team(None) => self.plan.people.values().collect(),
            RowKey::Team(Some(id)) => {
                let inside = self.plan.team_and_inner(*id);
                let teams = inside.iter().filter_map(|id| self.plan.records.teams.get(id));
                let members = teams.flat_map(|team| &team.members).map(|(id, _)| *id);
                let named = self.plan.tasks.values().filter(|task| task.team.is_some_and(|id| inside.contains(&id)));
                let held: BTreeSet<PersonId> = members.chain(named.flat_map(|task| task.assignees.people())).collect();
                held.iter().filter_map(|id| self.plan.people.get(id)).collect()
            }
            key => self.people(key),
        }
    }

    /// The part of a person's time that a row has, in hundredths of a percent; all of it where the row is no team's.
    #[must_use]
    pub fn share_of(&self, key: &RowKey, id: PersonId) -> i64 {
        match key {
            RowKey::Team(team) => self.teams().share_of(id, *team),
            _ => WHOLE,
        }
    }

    /// Tasks that are placed and not done: tasks are gone through in their own order, as finding them one by one takes longer.
    fn placed(&self) -> impl Iterator<Item = &'a Task> {
        let last = self.query.window.span().1;
        let is_placed = move |task: &&Task| {
            task.finish.is_some() && task.start.is_some_and(|start| start <= last) && !task.is_done()
        };
        self.plan.tasks.values().map(|task| &**task).filter(is_placed)
    }

    /// Who is booked on a project in the window, or has placed tasks there.
    fn on_project(&self, id: Option<ProjectId>) -> Vec<&'a Entry> {
        let (first, last) = self.query.window.span();
        let of_it = self.placed().filter(|task| Some(task.project) == id);
        let with_tasks: BTreeSet<PersonId> = of_it.flat_map(|task| task.assignees.people()).collect();
        let is_on = |entry: &&Entry| {
            let booked = |row: BookingRow<'_>| row.project == id && row.brick.touches(first, last);
            entry.bookings().any(booked) || with_tasks.contains(&entry.person.id)
        };
        self.plan.people.values().filter(is_on).collect()
    }

    /// Who is on which project in the window.
    fn on_projects(&self) -> &BTreeMap<Option<ProjectId>, BTreeSet<PersonId>> {
        self.on_projects.get_or_init(|| {
            let (first, last) = self.query.window.span();
            let mut found: BTreeMap<Option<ProjectId>, BTreeSet<PersonId>> = BTreeMap::new();
            for (id, entry) in &self.plan.people {
                for row in entry.bookings().filter(|row| row.brick.touches(first, last)) {
                    found.entry(row.project).or_default().insert(*id);
                }
            }
            for task in self.placed() {
                for id in task.assignees.people() {
                    found.entry(Some(task.project)).or_default().insert(id);
                }
            }
            found
        })
    }

    /// The rows in which a person counts wholly.
    pub(super) fn keys_of(&self, group: Group, person: &Person) -> Vec<String> {
        match group {
            Group::Person => vec![person.email.clone()],
            Group::Role => vec![role_key(&self.plan.spellings().role(&person.role))],
            Group::Skill => match self.plan.spellings().skills(&person.skills) {
                none if none.is_empty() => vec![skill_key("")],
                skills => skills,
            },
            Group::Team | Group::Project => Vec::new(),
        }
    }

    fn rows(
        &self,
        group: Group,
        people: impl Iterator<Item = &'a Entry>,
        wanted: Option<&str>,
    ) -> BTreeMap<String, Vec<Cell>> {
        if self.query.measure.counts_minutes() {
            self.minutes(group, people, wanted)
        } else {
            Counts::of(self).rows(group, people, wanted)
        }
    }

    fn minutes(
        &self,
        group: Group,
        people: impl Iterator<Item = &'a Entry>,
        wanted: Option<&str>,
    ) -> BTreeMap<String, Vec<Cell>> {
        let (plan, query, buckets) = (self.plan, &self.query, self.buckets.as_slice());
        let is_wanted = |key: &str| wanted.is_none_or(|wanted| wanted == key);
        let mut rows = Rows { buckets: buckets.len(), list: BTreeMap::new() };
        // Projects and teams have a row whether or not anything stands in it.
        let codes: Vec<&str> = match (wanted, group) {
            (Some(key), _) => vec![key],
            (None, Group::Project) => plan.records.projects.values().map(|project| project.code.as_str()).collect(),
            (None, Group::Team) => plan.records.teams.values().map(|team| team.code.as_str()).collect(),
            (None, _) => Vec::new(),
        };
        for code in codes {
            rows.of(code, group != Group::Project);
        }
        for entry in people {
            let cells = PersonCells::of(plan, entry, &query.window, query.grain, group == Group::Project);
            match group {
                Group::Team => self.teams().add(&mut rows, buckets, &cells, wanted),
                Group::Project => {
                    add_slots(plan, &mut rows, &cells.load.slots, &cells.load.days, buckets, &is_wanted);
                }
                _ => {
                    for key in self.keys_of(group, &entry.person).iter().filter(|key| is_wanted(key)) {
                        for (sum, bucket) in rows.of(key, true).iter_mut().zip(buckets) {
                            cells.add_to(sum, *bucket);
                        }
                    }
                }
            }
        }
        self.add_seats(group, &mut rows, &is_wanted);
        let typed = match group {
            Group::Team => self.teams().typed_capacities(&query.window, buckets),
            _ => BTreeMap::new(),
        };
        let cells = |(key, row): (String, Vec<Sum>)| {
            let typed = typed.get(&key);
            let cells =
                row.iter().enumerate().map(|(at, sum)| sum.cell(typed.and_then(|limits| limits.get(at)))).collect();
            (key, cells)
        };
        rows.list.into_iter().map(cells).collect()
    }

    /// Adds the work with no person to its rows. A team's seats stand in the row of every team it is in, too; an open seat for
    /// something that people have as a skill stands in that skill's row.
    fn add_seats(&self, group: Group, rows: &mut Rows, is_wanted: &dyn Fn(&str) -> bool) {
        if group == Group::Person {
            return;
        }
        let (first, last) = self.query.window.span();
        let days = Days::of_workspace(&self.plan.settings, first, last);
        let seats = self.seats();
        let mut add = |key: &str, seats: &mut dyn Iterator<Item = &SeatLoad>| {
            if !is_wanted(key) {
                return;
            }
            for seat in seats {
                for (cell, bucket) in rows.of(key, true).iter_mut().zip(&self.buckets) {
                    let range = days.indexes(bucket.from, bucket.to);
                    let sums = seat.slots.iter().map(|slot| slot_sum(slot, range.clone()));
                    let (firm, load) = sums.fold((0, 0), |a, b| (a.0 + b.0, a.1 + b.1));
                    cell.add_seats(firm, load);
                }
            }
        };
        match group {
            Group::Person => {}
            Group::Role => {
                for seat in seats {
                    if let Who::Role(role) = &seat.who {
                        add(&role_key(&self.plan.spellings().role(role)), &mut std::iter::once(seat));
                    }
                }
            }
            Group::Skill => {
                for seat in seats {
                    if let Who::Role(skill) = &seat.who
                        && self.plan.spellings().is_skill(skill)
                    {
                        add(&skill_key(&self.plan.spellings().skill(skill)), &mut std::iter::once(seat));
                    }
                }
            }
            Group::Team => {
                for team in self.plan.records.teams.values().filter(|team| is_wanted(&team.code)) {
                    let key = RowKey::Team(Some(team.id));
                    let is_here = key.seats(self.plan);
                    add(&team.code, &mut seats.iter().filter(|seat| is_here(&seat.who)));
                }
            }
            Group::Project => {
                for seat in seats {
                    add_slots(self.plan, rows, &seat.slots, &days, &self.buckets, is_wanted);
                }
            }
        }
    }
}

fn role_key(role: &str) -> String {
    if role.is_empty() { "(no role)".to_owned() } else { role.to_owned() }
}

fn skill_key(skill: &str) -> String {
    if skill.is_empty() { "(no skill)".to_owned() } else { skill.to_owned() }
}

pub(super) fn project_key(plan: &Plan, id: Option<ProjectId>) -> String {
    id.and_then(|id| plan.records.projects.get(&id)).map_or("(hold)", |project| &project.code).to_owned()
}

fn add_slots(
    plan: &Plan,
    rows: &mut Rows,
    slots: &[Slot],
    days: &Days,
    buckets: &[Bucket],
    is_wanted: &dyn Fn(&str) -> bool,
) {
    for slot in slots {
        let key = project_key(plan, slot.project);
        if !is_wanted(&key) {
            continue;
        }
        for (cell, bucket) in rows.of(&key, false).iter_mut().zip(buckets) {
            let (firm, load) = slot_sum(slot, days.indexes(bucket.from, bucket.to));
            cell.add_seats(firm, load);
        }
    }
}

fn slot_sum(slot: &Slot, range: std::ops::Range<usize>) -> (i64, i64) {
    (slot.firm.sum(range.clone()), slot.load.sum(range))
}
