//! From which side the plan is looked at, what lies over the picture, and how groups are named in an address.

use snug_core::{
    Plan, ProjectId,
    kinds::Kind,
    load::{Group, RowKey},
};

/// From which side the plan is looked at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Angle {
    /// People, then equipment.
    Person,
    /// Projects, and who is on each.
    Project,
    /// Teams and their members.
    Team,
    /// Roles.
    Role,
    /// Skills.
    Skill,
    /// Equipment alone.
    Equipment,
}

impl Angle {
    /// Every angle with its word and its name.
    pub const ALL: [(Self, &'static str, &'static str); 6] = [
        (Self::Person, "person", "People"),
        (Self::Project, "project", "Projects"),
        (Self::Team, "team", "Teams"),
        (Self::Role, "role", "Roles"),
        (Self::Skill, "skill", "Skills"),
        (Self::Equipment, "equipment", "Equipment"),
    ];

    /// By its word; people when there is none.
    pub fn read(word: &str) -> Self {
        Self::ALL.iter().find(|(_, known, _)| *known == word).map_or(Self::Person, |(angle, ..)| *angle)
    }

    /// Its word in an address.
    pub fn word(self) -> &'static str {
        Self::ALL.iter().find(|(angle, ..)| *angle == self).map_or("", |(_, word, _)| word)
    }

    /// The rows that sum up people, where there are any.
    pub fn group(self) -> Option<Group> {
        match self {
            Self::Person | Self::Equipment => None,
            Self::Project => Some(Group::Project),
            Self::Team => Some(Group::Team),
            Self::Role => Some(Group::Role),
            Self::Skill => Some(Group::Skill),
        }
    }
}

/// What lies over the picture, or is left out of it. Each is a word in the address.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Overlay {
    /// Milestones.
    Milestones,
    /// Holidays.
    Holidays,
    /// Bookings on no project: drawn and counted.
    Holds,
    /// Tentative bookings: drawn and counted.
    Pencilled,
    /// Tasks inside their bookings.
    Tasks,
    /// What was worked on each day before today, over what was planned.
    Worked,
    /// Free hours and nothing else.
    Free,
}

impl Overlay {
    /// Every overlay: its word, its name, and whether it is usually on.
    pub const ALL: [(Self, &'static str, &'static str, bool); 7] = [
        (Self::Milestones, "milestones", "Milestones", true),
        (Self::Holidays, "holidays", "Holidays", true),
        (Self::Holds, "holds", "Holds (drawn and counted)", true),
        (Self::Pencilled, "pencilled", "Pencilled (drawn and counted)", true),
        (Self::Tasks, "tasks", "Tasks inside their bookings", false),
        (Self::Worked, "worked", "As worked, on past days", false),
        (Self::Free, "free", "Free hours only", false),
    ];
}

/// Whether an overlay is usually on, by its word.
pub fn is_usual(word: &str) -> bool {
    Overlay::ALL.iter().any(|known| known.1 == word && known.3)
}

/// The key of a group in an address: `team:sparks`, `project:`.
pub fn group_word(plan: &Plan, key: &RowKey) -> String {
    match key {
        RowKey::Team(id) => {
            format!("team:{}", id.and_then(|id| plan.records.teams.get(&id)).map_or("", |team| team.code.as_str()))
        }
        RowKey::Role(role) => format!("role:{role}"),
        RowKey::Skill(skill) => format!("skill:{skill}"),
        RowKey::Project(id) => {
            format!(
                "project:{}",
                id.and_then(|id| plan.records.projects.get(&id)).map_or("", |project| project.code.as_str())
            )
        }
    }
}

/// The group of a key in an address.
pub fn group_of(plan: &Plan, word: &str) -> Option<RowKey> {
    let (kind, key) = word.split_once(':')?;
    let found = |kind| if key.is_empty() { Some(None) } else { plan.find(kind, key).map(Some) };
    Some(match kind {
        "team" => RowKey::Team(found(Kind::Team)?.map(snug_core::TeamId)),
        "role" => RowKey::Role(plan.spellings().role(key)),
        "skill" => RowKey::Skill(plan.spellings().skill(key)),
        "project" => RowKey::Project(found(Kind::Project)?.map(ProjectId)),
        _ => return None,
    })
}
