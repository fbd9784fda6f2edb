//! What it really took against what was thought.
//!
//! Of a task: E estimate, A actual, R remaining (typed, else what is left of the estimate); projected = A + R, variance =
//! projected − E. Every other figure is a sum over pieces of work: leaves, and what of a parent is not broken down. What has no
//! estimate, of its own or above it, is told apart as *unestimated*, with what was logged on no task, and makes no variance.

use super::{
    filter::{Counts, Filter},
    pieces::{Cut, Log, Part, Piece, all_pieces, each_piece},
    rows::Rows,
    sum::Minutes,
};
use crate::{Day, PersonId, Plan, ProjectId, TaskId, TeamId, cells::WHOLE, kinds::Task, words::words};
use std::collections::{BTreeMap, BTreeSet};

/// Estimate, actual and remaining of whatever is looked at. Sums are exact; a figure is rounded half up as it is shown.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Actuals {
    estimate: Minutes,
    actual: Minutes,
    remaining: Minutes,
    unestimated: Minutes,
    /// Tasks inside that say no estimate, leaves only.
    pub without_estimate: usize,
    /// Whether anything in it has an estimate.
    pub estimated: bool,
}

impl Actuals {
    /// The figures of something that has an estimate.
    #[must_use]
    pub fn whole(estimate: i64, actual: i64, remaining: i64) -> Self {
        let [estimate, actual, remaining] = [estimate, actual, remaining].map(Minutes::whole);
        Self { estimate, actual, remaining, estimated: true, ..Self::default() }
    }

    /// E in minutes; of everyone, where each has the full effort.
    #[must_use]
    pub fn estimate(&self) -> i64 {
        self.estimate.rounded()
    }

    /// A in minutes.
    #[must_use]
    pub fn actual(&self) -> i64 {
        self.actual.rounded()
    }

    /// R in minutes.
    #[must_use]
    pub fn remaining(&self) -> i64 {
        self.remaining.rounded()
    }

    /// A + R in minutes: what it will have taken.
    #[must_use]
    pub fn projected(&self) -> i64 {
        (self.actual + self.remaining).rounded()
    }

    /// A and R in minutes of what has no estimate, of its own or above it, and A on no task.
    #[must_use]
    pub fn unestimated(&self) -> i64 {
        self.unestimated.rounded()
    }

    fn beyond(&self) -> Minutes {
        self.actual + self.remaining - self.unestimated - self.estimate
    }

    /// Projected − unestimated − E in minutes, above zero when more is needed than was thought; `None` where nothing has an
    /// estimate.
    #[must_use]
    pub fn variance(&self) -> Option<i64> {
        self.estimated.then(|| self.beyond().rounded())
    }

    /// The variance in tenths of a percent of E; `None` where E is 0 or missing.
    #[must_use]
    pub fn variance_per_mille(&self) -> Option<i64> {
        if self.estimated { self.beyond().per_mille_of(self.estimate) } else { None }
    }

    /// Takes other figures in.
    pub fn add(&mut self, other: &Self) {
        self.estimate += other.estimate;
        self.actual += other.actual;
        self.remaining += other.remaining;
        self.unestimated += other.unestimated;
        self.without_estimate += other.without_estimate;
        self.estimated |= other.estimated;
    }

    /// What a piece adds wherever it counts as a whole.
    pub(super) fn of_piece(piece: &Piece<'_>) -> Self {
        let (estimate, remaining) = (piece.estimate.unwrap_or(0), piece.remaining);
        let part = Part { estimate, actual: piece.actual(), remaining, is_assigned: true };
        Self::of_part(piece, &part, WHOLE)
    }

    /// What a share, in hundredths of a percent, of somebody's part adds.
    pub(super) fn of_part(piece: &Piece<'_>, part: &Part, share: i64) -> Self {
        let minutes = |minutes| Minutes::share(minutes, share);
        let unestimated = if piece.is_covered { 0 } else { part.actual + part.remaining };
        Self {
            estimate: minutes(part.estimate),
            actual: minutes(part.actual),
            remaining: minutes(part.remaining),
            unestimated: minutes(unestimated),
            without_estimate: usize::from(part.is_assigned && piece.is_leaf && piece.estimate.is_none()),
            estimated: part.is_assigned && piece.estimate.is_some(),
        }
    }

    /// What a share of minutes adds that were logged on no task.
    pub(super) fn apart(minutes: i64, share: i64) -> Self {
        let minutes = Minutes::share(minutes, share);
        Self { actual: minutes, unestimated: minutes, ..Self::default() }
    }
}

/// By what work is told apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum By {
    /// A row a task, a parent with all that is inside it.
    Task,
    /// A row a project, with those inside it.
    Project,
    /// A row a person: their parts of E and R, and what they logged.
    Person,
    /// A row a team, with those inside it: all of tasks that name it, of other work what its people have × share.
    Team,
    /// A row a role of people.
    Role,
    /// A row a kind of work.
    Kind,
    /// A row a tag; what has several tags counts in each.
    Tag,
    /// A row a level of the portfolio, by how deep the project lies.
    Level,
}

words!(By {
    Task = "task",
    Project = "project",
    Person = "person",
    Team = "team",
    Role = "role",
    Kind = "kind",
    Tag = "tag",
    Level = "level",
});

/// What a row is about; `None`, and an empty word, for what belongs to none.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Key {
    /// A task; for time on no task `None`.
    Task(Option<TaskId>),
    /// A project.
    Project(Option<ProjectId>),
    /// A person.
    Person(Option<PersonId>),
    /// A team.
    Team(Option<TeamId>),
    /// A role, as [`Plan::spellings`] show it.
    Role(String),
    /// A kind of work.
    Kind(String),
    /// A tag.
    Tag(String),
    /// How deep in the portfolio, from 0.
    Level(Option<usize>),
}

impl Key {
    /// The key under which the row stands in tables; `None` for a task that has no reference.
    #[must_use]
    pub fn text(&self, plan: &Plan) -> Option<String> {
        let found = match self {
            Self::Task(None) => "(no task)",
            Self::Task(Some(id)) => {
                plan.tasks.get(id).map(|task| task.reference.as_str()).filter(|reference| !reference.is_empty())?
            }
            Self::Project(id) => {
                id.and_then(|id| plan.records.projects.get(&id)).map_or("(no project)", |project| &project.code)
            }
            Self::Person(id) => id.and_then(|id| plan.people.get(&id)).map_or("(nobody)", |entry| &entry.person.email),
            Self::Team(id) => id.and_then(|id| plan.records.teams.get(&id)).map_or("(no team)", |team| &team.code),
            Self::Role(word) if word.is_empty() => "(no role)",
            Self::Kind(word) if word.is_empty() => "(no kind)",
            Self::Tag(word) if word.is_empty() => "(no tag)",
            Self::Role(word) | Self::Kind(word) | Self::Tag(word) => word,
            Self::Level(None) => "(no project)",
            Self::Level(Some(depth)) => plan.settings.level(*depth),
        };
        Some(found.to_owned())
    }
}

/// What is asked for besides the rows.
#[derive(Clone, Copy, Debug, Default)]
pub struct Asked {
    /// Whose entries count, by day.
    pub cut: Cut,
    /// Only work of this project and of those inside it.
    pub project: Option<ProjectId>,
}

impl Asked {
    /// Tells whether work of a project is asked for, or work of none.
    pub(crate) fn projects(self, plan: &Plan) -> impl Fn(Option<ProjectId>) -> bool {
        let within: Option<BTreeSet<ProjectId>> = self.project.map(|id| plan.project_and_inner(id));
        move |project| match &within {
            None => true,
            Some(within) => project.is_some_and(|id| within.contains(&id)),
        }
    }
}

/// The rows of the figures, in the order of their keys: a row for each key with a task or a counted entry.
#[must_use]
pub fn table(plan: &Plan, by: By, asked: Asked) -> BTreeMap<Key, Actuals> {
    filtered(plan, by, asked.cut, &Filter { project: asked.project, ..Filter::default() })
}

/// The same of work that a filter takes. Of a person, or of a team that a task does not name, their parts of it count.
#[must_use]
pub fn filtered(plan: &Plan, by: By, cut: Cut, filter: &Filter) -> BTreeMap<Key, Actuals> {
    let (log, counts) = (Log::of(plan, cut), Counts::of(plan, filter));
    let mut rows = Rows::new(plan, by, &counts);
    all_pieces(plan, &log, &mut |piece| rows.take_piece(piece));
    for (project, person, minutes) in log.apart() {
        if counts.take(None, project, std::iter::once(person)) {
            rows.take_apart(project, person, minutes);
        }
    }
    // A project is part of what it is in, which was not asked for.
    rows.found.retain(|key, _| !matches!(key, Key::Project(id) if !counts.of_project(*id)));
    rows.found
}

/// The figures of a task with everything inside it.
#[must_use]
pub fn of_task(plan: &Plan, task: &Task) -> Actuals {
    let mut sum = Actuals::default();
    let log = Log::All(plan);
    each_piece(plan, &log, task, is_covered_above(plan, task), &mut |piece| sum.add(&Actuals::of_piece(piece)));
    sum
}

/// The figures of one project, with those inside it.
#[must_use]
pub fn of_project(plan: &Plan, project: ProjectId) -> Actuals {
    let asked = Asked { project: Some(project), ..Asked::default() };
    table(plan, By::Project, asked).remove(&Key::Project(Some(project))).unwrap_or_default()
}

/// The figures of one person: their parts of the tasks they are assigned to, and everything they logged.
#[must_use]
pub fn of_person(plan: &Plan, person: PersonId) -> Actuals {
    let rows = plan.log_of(person, Day::MIN, Day::MAX);
    let assigned = plan.people.get(&person).into_iter().flat_map(|entry| entry.tasks.iter().copied());
    let tasks: BTreeSet<TaskId> = assigned.chain(rows.iter().filter_map(|row| row.task)).collect();
    let mut sum = Actuals::default();
    let log = Log::All(plan);
    for task in tasks.iter().filter_map(|id| plan.tasks.get(id)) {
        each_piece(plan, &log, task, is_covered_above(plan, task), &mut |piece| {
            if piece.task.id == task.id {
                let parts = piece.parts(plan);
                let own = parts.iter().filter(|(who, _)| *who == Some(person));
                own.for_each(|(_, part)| sum.add(&Actuals::of_part(piece, part, WHOLE)));
            }
        });
    }
    let apart = rows.iter().filter(|row| row.task.is_none());
    sum.add(&Actuals::apart(apart.map(|row| i64::from(row.minutes)).sum(), WHOLE));
    sum
}

/// Whether anything that a task is in has an estimate.
fn is_covered_above(plan: &Plan, task: &Task) -> bool {
    let above = std::iter::successors(task.parent, |id| plan.tasks.get(id)?.parent);
    above.filter_map(|id| plan.tasks.get(&id)).any(|task| task.estimate.is_some())
}
