//! What groups and projects are called.

use crate::words;
use snug_core::{Plan, ProjectId, load::RowKey};

/// A project's name; “Hold” for none.
pub fn project_name(plan: &Plan, project: Option<ProjectId>) -> String {
    project
        .and_then(|id| plan.records.projects.get(&id))
        .map_or_else(|| "Hold".to_owned(), |project| project.name.clone())
}

/// The name of a group.
pub fn group_name(plan: &Plan, key: &RowKey) -> String {
    match key {
        RowKey::Team(id) => {
            id.and_then(|id| plan.records.teams.get(&id)).map_or("No team".to_owned(), |team| team.name.clone())
        }
        RowKey::Role(role) if role.is_empty() => "No role".to_owned(),
        RowKey::Skill(skill) if skill.is_empty() => "No skill".to_owned(),
        RowKey::Role(text) | RowKey::Skill(text) => words::capital(text),
        RowKey::Project(None) => "Holds".to_owned(),
        RowKey::Project(id) => project_name(plan, *id),
    }
}
