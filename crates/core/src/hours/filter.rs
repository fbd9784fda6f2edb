//! Which work counts: of a project, a person, a team, a kind, with a tag.

use crate::{PersonId, Plan, ProjectId, TeamId, kinds::Task};
use std::collections::{BTreeSet, HashSet};

/// Which work counts.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub struct Filter {
    /// Of this project and those inside it.
    pub project: Option<ProjectId>,
    /// Of this person.
    pub person: Option<PersonId>,
    /// Of tasks that name this team or one inside it; of tasks that name none, and of no task, that of their people.
    pub team: Option<TeamId>,
    /// Of this kind; empty for any.
    pub kind: String,
    /// With this tag; empty for any.
    pub tag: String,
}

/// A filter with what it means looked up once.
pub(crate) struct Counts<'a> {
    filter: &'a Filter,
    /// Whether nothing is left out.
    takes_all: bool,
    projects: Option<BTreeSet<ProjectId>>,
    /// The team with those inside it, and their people.
    team: Option<(HashSet<TeamId>, HashSet<PersonId>)>,
}

impl<'a> Counts<'a> {
    pub fn of(plan: &Plan, filter: &'a Filter) -> Self {
        let team = filter.team.map(|id| {
            let teams: HashSet<TeamId> = plan.team_and_inner(id).into_iter().collect();
            let members = teams.iter().filter_map(|id| plan.records.teams.get(id)).flat_map(|team| &team.members);
            let people = members.map(|(person, _)| *person).collect();
            (teams, people)
        });
        let takes_all = *filter == Filter::default();
        Self { filter, takes_all, projects: filter.project.map(|id| plan.project_and_inner(id)), team }
    }

    /// Whether work of a project counts, or of none.
    pub fn of_project(&self, project: Option<ProjectId>) -> bool {
        self.projects.as_ref().is_none_or(|inner| project.is_some_and(|id| inner.contains(&id)))
    }

    /// Whether a row of a team counts.
    pub fn of_team(&self, team: TeamId) -> bool {
        self.team.as_ref().is_none_or(|(teams, _)| teams.contains(&team))
    }

    /// Whether anything of a task, or of no task of a project, can count, whoever did it.
    fn of_work(&self, task: Option<&Task>, project: Option<ProjectId>) -> bool {
        let Filter { kind, tag, .. } = self.filter;
        self.of_project(project)
            && task.and_then(|task| task.team).is_none_or(|team| self.of_team(team))
            && (kind.is_empty() || task.is_some_and(|task| task.kind == *kind))
            && (tag.is_empty() || task.is_some_and(|task| task.tags.contains(tag)))
    }

    /// Whether of a task that counts everybody's part does.
    pub fn is_whole(&self, task: Option<&Task>) -> bool {
        self.filter.person.is_none() && (self.team.is_none() || task.is_some_and(|task| task.team.is_some()))
    }

    /// Whether of a task that counts, or of no task, the part of somebody does.
    pub fn of_person(&self, task: Option<&Task>, person: PersonId) -> bool {
        let of_team = || match &self.team {
            Some((_, people)) if task.is_none_or(|task| task.team.is_none()) => people.contains(&person),
            _ => true,
        };
        self.filter.person.is_none_or(|one| one == person) && of_team()
    }

    /// Whether something counts that some people do or did.
    pub fn take(
        &self,
        task: Option<&Task>,
        project: Option<ProjectId>,
        mut people: impl Iterator<Item = PersonId>,
    ) -> bool {
        self.takes_all
            || self.of_work(task, project) && (self.is_whole(task) || people.any(|person| self.of_person(task, person)))
    }
}
