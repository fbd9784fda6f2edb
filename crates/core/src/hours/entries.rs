//! The entries of logged work that a row of estimate against actual is made of.

use super::{
    actuals::{Asked, Key},
    heaps::Heap,
};
use crate::{
    PersonId, Plan, ProjectId, TaskId, TeamId,
    kinds::{Task, TimeEntry},
    load::team_shares,
    plan::{Entry, LogRow},
    rules::given,
};
use std::{
    collections::{BTreeSet, HashSet},
    sync::Arc,
};

/// What counts in a row, worked out once for all entries.
enum Counts<'p> {
    /// What is logged on a task, or inside it; `None` on no task.
    Task(Option<HashSet<TaskId>>),
    /// On a project, or inside it; `None` on none.
    Project(Option<BTreeSet<ProjectId>>),
    /// By one of these.
    People(HashSet<PersonId>),
    /// On a task that names one of these teams, or by one of these people where no team is named.
    Team(HashSet<TeamId>, HashSet<PersonId>),
    /// Of a kind.
    Kind(&'p str),
    /// With a tag.
    Tag(&'p str),
    /// At a level.
    Level(Option<usize>),
}

/// The entries that count in a row, the latest first; in the row of a team also those of which it has a share only.
#[must_use]
pub fn entries_of<'p>(plan: &'p Plan, key: &Key, asked: Asked) -> Vec<&'p Arc<TimeEntry>> {
    let counts = Counts::of(plan, key);
    let is_asked = asked.projects(plan);
    let (from, to) = asked.cut.days();
    let rows_of = |person: PersonId, rows: &'p [LogRow]| {
        let takes = |row: &&LogRow| {
            let heap = Heap::of(plan, person, row);
            is_asked(heap.project) && counts.take(plan, &heap)
        };
        rows.iter().filter(takes).collect::<Vec<_>>()
    };
    // Who has no part in the row has no entry in it, so that few are looked at where few can count.
    let of_each = |person: PersonId| rows_of(person, plan.log_of(person, from, to));
    let mut found: Vec<&LogRow> = match &counts {
        Counts::People(people) => people.iter().copied().flat_map(of_each).collect(),
        Counts::Task(Some(tasks)) => {
            let logs = tasks.iter().filter_map(|id| plan.logged.get(id));
            let people: BTreeSet<_> = logs.flat_map(|log| log.iter().map(|logged| logged.person)).collect();
            people.into_iter().flat_map(of_each).collect()
        }
        _ => plan.whole_log(from, to).flat_map(|(person, rows)| rows_of(person, rows)).collect(),
    };
    found.sort_unstable_by_key(|row| (std::cmp::Reverse(row.date), row.id));
    found.into_iter().filter_map(|row| plan.time_entries.get(&row.id)).collect()
}

impl<'p> Counts<'p> {
    fn of(plan: &Plan, key: &'p Key) -> Self {
        match key {
            Key::Task(None) => Self::Task(None),
            Key::Task(Some(id)) => {
                let (mut found, mut open) = (HashSet::new(), vec![*id]);
                while let Some(id) = open.pop() {
                    open.extend(plan.children_of(id));
                    found.insert(id);
                }
                Self::Task(Some(found))
            }
            Key::Project(id) => Self::Project(id.map(|id| plan.project_and_inner(id))),
            Key::Person(id) => Self::People(id.iter().copied().collect()),
            Key::Role(word) => {
                let spellings = plan.spellings();
                let has = |entry: &&Entry| spellings.role(&entry.person.role) == *word;
                Self::People(plan.people.values().filter(has).map(|entry| entry.person.id).collect())
            }
            Key::Team(Some(id)) => {
                let shares = team_shares(plan);
                let gives = |shares: &[(TeamId, i64)]| shares.iter().any(|(team, share)| team == id && *share > 0);
                let people = shares.iter().filter(|(_, shares)| gives(shares)).map(|(person, _)| *person).collect();
                Self::Team(plan.team_and_inner(*id).into_iter().collect(), people)
            }
            Key::Team(None) => {
                let given = given(plan);
                let has_rest = |id: &&PersonId| given.get(id).is_none_or(|given| *given < 10_000);
                Self::Team(HashSet::new(), plan.people.keys().filter(has_rest).copied().collect())
            }
            Key::Kind(word) => Self::Kind(word),
            Key::Tag(word) => Self::Tag(word),
            Key::Level(depth) => Self::Level(*depth),
        }
    }

    fn take(&self, plan: &Plan, entry: &Heap) -> bool {
        let task: Option<&Task> = entry.task.and_then(|id| plan.tasks.get(&id)).map(|task| &**task);
        match self {
            Self::Task(None) => entry.task.is_none(),
            Self::Task(Some(tasks)) => entry.task.is_some_and(|id| tasks.contains(&id)),
            Self::Project(None) => entry.project.is_none(),
            Self::Project(Some(projects)) => entry.project.is_some_and(|id| projects.contains(&id)),
            Self::People(people) => people.contains(&entry.person),
            Self::Team(teams, people) => match task.and_then(|task| task.team) {
                Some(named) => teams.contains(&named),
                None => people.contains(&entry.person),
            },
            Self::Kind(word) => task.map_or("", |task| task.kind.as_str()) == *word,
            Self::Tag("") => task.is_none_or(|task| task.tags.is_empty()),
            Self::Tag(word) => task.is_some_and(|task| task.tags.iter().any(|tag| tag == word)),
            Self::Level(depth) => {
                let of = entry.project.map(|id| plan.project_line(id).count().saturating_sub(1));
                of == *depth
            }
        }
    }
}
