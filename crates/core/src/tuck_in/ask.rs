//! What is asked for: which work is placed, until when, and what of it may change.

use crate::{
    Day, PersonId, Plan, ProjectId, TaskId, TeamId,
    craft::{folded, is_same},
    demand::{left_of, planned_of},
    kinds::{Assignees, Person, PersonKind, ProjectStatus, Task},
    network::{Ground, Leaf, leaves},
    rules::LONGEST_DAYS,
    words::words,
};
use std::collections::{BTreeMap, BTreeSet};

/// Which dates may change.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum MayDate {
    /// Only where there are none.
    #[default]
    Empty,
    /// All that are not pinned.
    Unpinned,
}

/// Which people may change.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum MayGive {
    /// None: whoever is named stays, and work of nobody is left out.
    Keep,
    /// Somebody is chosen where nobody is named.
    #[default]
    Empty,
    /// Somebody is chosen for work of nobody and of one.
    Choose,
}

words!(MayDate { Empty = "empty", Unpinned = "unpinned" });
words!(MayGive { Keep = "keep", Empty = "empty", Choose = "choose" });

/// Whose work is placed: what any of the lists names; everything where all are empty.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Scope {
    /// Tasks, with everything inside them.
    pub tasks: Vec<TaskId>,
    /// Projects, with those inside them.
    pub projects: Vec<ProjectId>,
    /// Teams, with those inside them: the work that names them, and what names no team in projects whose work goes to them.
    pub teams: Vec<TeamId>,
}

/// What is asked for (`rules/tuck-in.md`).
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Ask {
    /// Today: nothing starts before.
    pub today: Day,
    /// Nothing finishes after.
    pub until: Day,
    /// What is placed.
    pub scope: Scope,
    /// Which dates may change.
    pub dates: MayDate,
    /// Which people may change.
    pub people: MayGive,
    /// Tasks whose dates and people were ticked to stay.
    pub pinned: BTreeSet<TaskId>,
}

/// How far ahead work is placed where nothing is said, in days.
pub const AHEAD: i32 = 365;

impl Ask {
    /// Whether a day may be the last one: today or later, within ten years.
    #[must_use]
    pub fn may_end(today: Day, until: Day) -> bool {
        (0..=LONGEST_DAYS).contains(&until.since(today))
    }

    /// Everything without dates, within a year, somebody chosen where nobody is named.
    #[must_use]
    pub fn new(today: Day) -> Self {
        Self {
            today,
            until: today + AHEAD,
            scope: Scope::default(),
            dates: MayDate::default(),
            people: MayGive::default(),
            pinned: BTreeSet::new(),
        }
    }
}

/// What takes part, and what waits for its size, each sorted by reference, then identity.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Taking {
    /// Leaves that are given dates.
    pub part: Vec<TaskId>,
    /// Leaves that would take part, had somebody said how much work they are.
    pub sizeless: Vec<TaskId>,
}

/// Which leaves take part.
pub(super) fn taking(plan: &Plan, ground: &Ground<'_>, ask: &Ask) -> Taking {
    let wanted = ask.scope.leaves(plan);
    let mut found = Taking::default();
    for leaf in wanted.into_iter().filter_map(|id| ground.leaf(id)) {
        let task = leaf.task;
        if leaf.done || leaf.holds.fixed || ask.pinned.contains(&task.id) || !may_move(&leaf, ask) {
            continue;
        }
        match left_of(plan, task) {
            Some(1..) => found.part.push(task.id),
            _ if leaf.dates.is_none() && planned_of(plan, task).unwrap_or(0) == 0 && !is_closed(plan, task) => {
                found.sizeless.push(task.id);
            }
            _ => {}
        }
    }
    let key = |id: &TaskId| (plan.tasks.get(id).map(|task| task.reference.clone()), *id);
    found.part.sort_by_cached_key(key);
    found.sizeless.sort_by_cached_key(key);
    found
}

fn may_move(leaf: &Leaf<'_>, ask: &Ask) -> bool {
    leaf.dates.is_none() || ask.dates == MayDate::Unpinned && !leaf.started
}

/// Whether work behind a leaf has to wait until the leaf has dates.
pub(super) fn is_awaited(plan: &Plan, leaf: &Leaf<'_>) -> bool {
    leaf.dates.is_none() && !leaf.done && !is_closed(plan, leaf.task)
}

fn is_closed(plan: &Plan, task: &Task) -> bool {
    plan.records.projects.get(&task.project).is_some_and(|project| project.status == ProjectStatus::Closed)
}

impl Scope {
    /// Whether everything is meant.
    #[must_use]
    pub fn is_all(&self) -> bool {
        self.tasks.is_empty() && self.projects.is_empty() && self.teams.is_empty()
    }

    fn leaves(&self, plan: &Plan) -> BTreeSet<TaskId> {
        if self.is_all() {
            return plan.tasks.keys().copied().filter(|id| plan.children_of(*id).is_empty()).collect();
        }
        let mut found: BTreeSet<TaskId> = self.tasks.iter().flat_map(|id| leaves(plan, *id)).collect();
        let projects: BTreeSet<ProjectId> = self.projects.iter().flat_map(|id| plan.project_and_inner(*id)).collect();
        let teams: BTreeSet<TeamId> = self.teams.iter().flat_map(|id| plan.team_and_inner(*id)).collect();
        let default_team = |task: &Task| plan.records.projects.get(&task.project).and_then(|project| project.team);
        let is_meant = |task: &Task| {
            projects.contains(&task.project)
                || task.team.or_else(|| default_team(task)).is_some_and(|team| teams.contains(&team))
        };
        if !(projects.is_empty() && teams.is_empty()) {
            let tasks = plan.tasks.values().filter(|task| plan.children_of(task.id).is_empty() && is_meant(task));
            found.extend(tasks.map(|task| task.id));
        }
        found
    }
}

/// Among whom somebody may be chosen for which tasks; looked up once for each team and need.
pub(super) struct Pools<'p> {
    plan: &'p Plan,
    known: BTreeMap<(Option<TeamId>, String), Vec<PersonId>>,
}

impl<'p> Pools<'p> {
    pub fn new(plan: &'p Plan) -> Self {
        Self { plan, known: BTreeMap::new() }
    }

    /// Who may do a task, the one who has it now first; everyone named where that is to stay. Empty where nobody can.
    pub fn options(&mut self, task: &Task, people: MayGive) -> Vec<Assignees> {
        let mut named = task.assignees.people();
        let (first, is_many) = (named.next(), named.next().is_some());
        let now = first.map(|_| task.assignees.clone());
        if people == MayGive::Keep || is_many || first.is_some() && people == MayGive::Empty {
            return now.into_iter().collect();
        }
        let others = self.of(task).iter().filter(|person| Some(**person) != first);
        now.into_iter().chain(others.map(|person| Assignees::Even(vec![*person]))).collect()
    }

    /// Whether neither a task, nor what it needs, nor its project says who could do it.
    pub fn is_nowhere(&self, task: &Task) -> bool {
        task.needs.trim().is_empty() && self.team_of(task).is_none()
    }

    /// The team whose members may do a task.
    fn team_of(&self, task: &Task) -> Option<TeamId> {
        match task.team {
            None if task.needs.trim().is_empty() => self.plan.records.projects.get(&task.project)?.team,
            team => team,
        }
    }

    /// Members of the team that the task names, or who has the role or skill it needs, or both; with neither the members of the
    /// project's own team. Equipment is chosen for work only that needs its role or skill: nobody gives drawings to a lift.
    fn of(&mut self, task: &Task) -> &[PersonId] {
        let need = folded(&task.needs);
        let team = self.team_of(task);
        let plan = self.plan;
        self.known.entry((team, need)).or_insert_with_key(|(team, need)| {
            let has = |person: &Person| {
                if need.is_empty() {
                    return person.kind == PersonKind::Person;
                }
                is_same(&person.role, need) || person.skills.iter().any(|skill| is_same(skill, need))
            };
            match team {
                None if need.is_empty() => Vec::new(),
                None => plan.people.values().filter(|it| has(&it.person)).map(|it| it.person.id).collect(),
                Some(team) => {
                    let teams = plan.team_and_inner(*team);
                    let teams = teams.iter().filter_map(|id| plan.records.teams.get(id));
                    let members: BTreeSet<PersonId> = teams.flat_map(|it| &it.members).map(|(id, _)| *id).collect();
                    let can = |id: &PersonId| plan.people.get(id).is_some_and(|entry| has(&entry.person));
                    members.into_iter().filter(can).collect()
                }
            }
        })
    }
}
