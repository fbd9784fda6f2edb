//! Where else a record is seen.

use crate::words;
use snug_core::{Plan, ProjectId, TaskId, change::Change};

/// Where else a record is seen.
pub fn links(plan: &Plan, record: &Change) -> Vec<(String, String)> {
    let go = |path: &str, pairs: &[(&str, &str)], label: &str| {
        (words::address(path, pairs.iter().copied()), label.to_owned())
    };
    match record {
        Change::Person(edit) => edit
            .after
            .iter()
            .flat_map(|person| {
                vec![
                    go("/fit", &[("q", &person.name)], "Their row in Fit"),
                    go("/time-off", &[("q", &person.name)], "Their time off"),
                    go("/tasks", &[("q", &person.name)], "Their tasks"),
                    go("/hours", &[("person", &person.id.to_string())], "Their week sheet"),
                ]
            })
            .collect(),
        Change::Team(edit) => edit
            .after
            .iter()
            .map(|team| go("/fit", &[("team", &team.code), ("angle", "team")], "Its people in Fit"))
            .collect(),
        Change::Project(edit) => edit
            .after
            .iter()
            .flat_map(|project| {
                let mut links = vec![
                    go(&format!("/schedule/projects/{}", project.id), &[], "How it stands"),
                    go("/tasks", &[("is.project", &project.code)], "Its tasks"),
                    go("/tasks/new", &[("project", &project.code)], "A new task in it"),
                    go("/hours/actuals", &[("project", &project.code)], "Estimate and actual"),
                ];
                let depth = plan.project_line(project.id).count().saturating_sub(1);
                if !plan.settings.levels.is_empty() {
                    let inside =
                        plan.records.projects.values().filter(|inner| inner.parent == Some(project.id)).count();
                    let level = plan.settings.level(depth);
                    links.push(go(
                        "/projects",
                        &[("is.parent", &project.code)],
                        &format!("This {level} holds {inside}"),
                    ));
                }
                links
            })
            .collect(),
        Change::Task(edit) => edit
            .after
            .iter()
            .flat_map(|task| {
                let mut links = vec![go(
                    "/tasks/new",
                    &[("project", &code(plan, task.project)), ("parent", &task.reference)],
                    "A task inside it",
                )];
                if let Some(parent) = task.parent.and_then(|id: TaskId| plan.tasks.get(&id)) {
                    links.push((format!("/tasks/{}", parent.id), format!("Inside “{}”", parent.title)));
                }
                for child in plan.children_of(task.id).iter().filter_map(|id| plan.tasks.get(id)) {
                    links.push((format!("/tasks/{}", child.id), format!("Holds “{}”", child.title)));
                }
                links
            })
            .collect(),
        _ => Vec::new(),
    }
}

fn code(plan: &Plan, id: ProjectId) -> String {
    plan.records.projects.get(&id).map(|project| project.code.clone()).unwrap_or_default()
}
