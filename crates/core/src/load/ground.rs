//! What rows of groups have in common: who is in which, and what has no person yet.

use super::{Query, RowKey, teams::Teams};
use crate::{
    PersonId, Plan, ProjectId, TeamId,
    cells::{Bucket, WHOLE},
    craft::is_same,
    demand::{SeatLoad, Window, seat_loads},
    kinds::{Person, Task},
    plan::{BookingRow, Entry},
};
use std::{
    collections::{BTreeMap, BTreeSet},
    sync::OnceLock,
};

/// Everything that rows of groups have in common, computed once for all of them.
pub struct Groups<'a> {
    pub(super) plan: &'a Plan,
    pub(crate) query: Query,
    pub(super) buckets: Vec<Bucket>,
    teams: OnceLock<Teams<'a>>,
    seats: OnceLock<Vec<SeatLoad>>,
    on_projects: OnceLock<BTreeMap<Option<ProjectId>, BTreeSet<PersonId>>>,
    with_named: OnceLock<BTreeMap<TeamId, BTreeSet<PersonId>>>,
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
            with_named: OnceLock::new(),
            one: false,
        }
    }

    /// The same for a single row.
    #[must_use]
    pub fn for_one(plan: &'a Plan, query: Query) -> Self {
        Self { one: true, ..Self::new(plan, query) }
    }

    /// The plan that rows are of.
    #[must_use]
    pub fn plan(&self) -> &'a Plan {
        self.plan
    }

    /// The days that are asked for.
    #[must_use]
    pub fn window(&self) -> &Window {
        &self.query.window
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
                let named = inside.iter().filter_map(|id| self.with_named().get(id)).flatten().copied();
                let held: BTreeSet<PersonId> = members.chain(named).collect();
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

    /// Who has tasks that name which team.
    fn with_named(&self) -> &BTreeMap<TeamId, BTreeSet<PersonId>> {
        self.with_named.get_or_init(|| {
            let mut found: BTreeMap<TeamId, BTreeSet<PersonId>> = BTreeMap::new();
            for task in self.plan.tasks.values() {
                if let Some(team) = task.team {
                    found.entry(team).or_default().extend(task.assignees.people());
                }
            }
            found
        })
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
}
