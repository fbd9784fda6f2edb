//! The rows of a load table that add up several people, or a project: how each is told apart, and what counts in it.

use super::Group;
use crate::{
    Plan, ProjectId, TeamId,
    kinds::{Booking, Person, Who},
};

/// A row that adds up several people, or a project. Two rows are two, also where their keys read alike: a role that is called
/// “(no role)” is not the row of those without one.
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
    /// What the row is one of.
    #[must_use]
    pub fn group(&self) -> Group {
        match self {
            Self::Team(_) => Group::Team,
            Self::Role(_) => Group::Role,
            Self::Skill(_) => Group::Skill,
            Self::Project(_) => Group::Project,
        }
    }

    /// Whether the row is wanted, where one alone may be.
    pub(super) fn is_wanted(&self, wanted: Option<&Self>) -> bool {
        wanted.is_none_or(|wanted| wanted == self)
    }

    /// The key under which the row stands in the load table.
    #[must_use]
    pub fn text(&self, plan: &Plan) -> String {
        let found = match self {
            Self::Team(id) => id.and_then(|id| plan.records.teams.get(&id)).map_or("(no team)", |team| &team.code),
            Self::Role(role) if role.is_empty() => "(no role)",
            Self::Skill(skill) if skill.is_empty() => "(no skill)",
            Self::Role(text) | Self::Skill(text) => text,
            Self::Project(id) => {
                id.and_then(|id| plan.records.projects.get(&id)).map_or("(hold)", |project| &project.code)
            }
        };
        found.to_owned()
    }

    /// Tells whether work that has no person yet counts in this row.
    pub fn seats<'p>(&'p self, plan: &'p Plan) -> impl Fn(&Who) -> bool + 'p {
        let group = self.group();
        move |who| group.of_seat(plan, who).contains(self)
    }

    /// Whether such a booking is listed in this row. What is of a team inside a team counts in both, and is listed once.
    #[must_use]
    pub fn lists(&self, plan: &Plan, seat: &Booking) -> bool {
        match self {
            Self::Project(id) => seat.project == *id,
            Self::Team(id) => matches!(seat.who, Who::Team(team) if Some(team) == *id),
            Self::Role(_) | Self::Skill(_) => self.seats(plan)(&seat.who),
        }
    }

    /// Whether such a booking counts in this row, of people or of a project.
    #[must_use]
    pub fn counts(&self, plan: &Plan, seat: &Booking) -> bool {
        match self {
            Self::Project(id) => seat.project == *id,
            Self::Team(_) | Self::Role(_) | Self::Skill(_) => self.seats(plan)(&seat.who),
        }
    }
}

impl Group {
    /// The rows of people in which work counts that has no person yet. A team's stands in the row of every team that it is in, too; an
    /// open seat for something that people have as a skill stands in that skill's row. This is the one place where it is said.
    pub(super) fn of_seat(self, plan: &Plan, who: &Who) -> Vec<RowKey> {
        let spellings = plan.spellings();
        match (self, who) {
            (Self::Role, Who::Role(word)) => vec![RowKey::Role(spellings.role(word))],
            (Self::Skill, Who::Role(word)) if spellings.is_skill(word) => vec![RowKey::Skill(spellings.skill(word))],
            (Self::Team, Who::Team(id)) => plan.team_line(*id).map(|team| RowKey::Team(Some(team.id))).collect(),
            _ => Vec::new(),
        }
    }

    /// The rows of roles or skills in which a person counts wholly.
    pub(super) fn of_person(self, plan: &Plan, person: &Person) -> Vec<RowKey> {
        match self {
            Self::Role => vec![RowKey::Role(plan.spellings().role(&person.role))],
            Self::Skill => match plan.spellings().skills(&person.skills) {
                none if none.is_empty() => vec![RowKey::Skill(String::new())],
                skills => skills.into_iter().map(RowKey::Skill).collect(),
            },
            Self::Person | Self::Team | Self::Project => Vec::new(),
        }
    }
}
