//! What lists to choose from have in common.

use snug_core::{
    Plan,
    kinds::{Project, ProjectStatus},
};

/// The projects that a list offers, by their names.
pub fn projects(plan: &Plan, offered: impl Fn(&Project) -> bool) -> Vec<&Project> {
    let mut found: Vec<&Project> =
        plan.records.projects.values().map(|project| &**project).filter(|project| offered(project)).collect();
    found.sort_by_cached_key(|project| project.name.to_lowercase());
    found
}

/// Whether work on a project goes on, or is to come.
pub fn is_open(project: &Project) -> bool {
    project.status != ProjectStatus::Closed
}
