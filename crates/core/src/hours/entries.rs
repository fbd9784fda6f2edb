//! The entries of logged work that a row of estimate against actual is made of.

use super::actuals::{Asked, Key};
use crate::{
    PersonId, Plan, ProjectId, TaskId, TeamId,
    kinds::{Task, TimeEntry},
    load::team_shares,
    plan::Entry,
    rules::given,
    week::subject_of,
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
    let takes = |entry: &&Arc<TimeEntry>| {
        asked.cut.takes(entry.date) && is_asked(subject_of(plan, entry).0) && counts.take(plan, entry)
    };
    // Who has no part in the row has no entry in it, so that few are looked at where few can count.
    let mut found: Vec<&Arc<TimeEntry>> = match &counts {
        Counts::People(people) if people.len() < 50 => {
            people.iter().flat_map(|person| plan.logged_by(*person)).filter(takes).collect()
        }
        Counts::Task(Some(tasks)) => {
            let logs = tasks.iter().filter_map(|id| plan.logged.get(id));
            let people: BTreeSet<_> = logs.flat_map(|log| log.iter().map(|logged| logged.person)).collect();
            people.into_iter().flat_map(|person| plan.logged_by(person)).filter(takes).collect()
        }
        _ => plan.time_entries.values().filter(takes).collect(),
    };
    found.sort_by_key(|entry| (std::cmp::Reverse(entry.date), entry.id));
    found
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

    fn take(&self, plan: &Plan, entry: &TimeEntry) -> bool {
        let task: Option<&Task> = entry.task.and_then(|id| plan.tasks.get(&id)).map(|task| &**task);
        match self {
            Self::Task(None) => entry.task.is_none(),
            Self::Task(Some(tasks)) => entry.task.is_some_and(|id| tasks.contains(&id)),
            Self::Project(None) => subject_of(plan, entry).0.is_none(),
            Self::Project(Some(projects)) => subject_of(plan, entry).0.is_some_and(|id| projects.contains(&id)),
            Self::People(people) => people.contains(&entry.person),
            Self::Team(teams, people) => match task.and_then(|task| task.team) {
                Some(named) => teams.contains(&named),
                None => people.contains(&entry.person),
            },
            Self::Kind(word) => task.map_or("", |task| task.kind.as_str()) == *word,
            Self::Tag("") => task.is_none_or(|task| task.tags.is_empty()),
            Self::Tag(word) => task.is_some_and(|task| task.tags.iter().any(|tag| tag == word)),
            Self::Level(depth) => {
                let of = subject_of(plan, entry).0.map(|id| plan.project_line(id).count().saturating_sub(1));
                of == *depth
            }
        }
    }
}
