//! The colours of a room, and the key that says which colour is what.

use crate::fit::address::colour::Colour;
use snug_core::{
    Plan, ProjectId,
    fields::FieldKind,
    kinds::{Certainty, Priority, Task},
};
use std::{
    collections::{BTreeMap, BTreeSet, HashMap},
    sync::Arc,
};

/// The most projects that a key names.
const MOST_NAMED: usize = 24;

/// The hue of what has no value, told apart from the twelve.
pub const NONE: usize = 12;
/// The hue of another project than the one in view.
pub const OTHER: usize = 13;

/// Which of the twelve hues a project has.
pub fn hue(plan: &Plan, project: ProjectId) -> usize {
    plan.records.projects.keys().position(|id| *id == project).unwrap_or(0) % 12
}

/// The same of every project at once.
pub fn hues(plan: &Plan) -> HashMap<ProjectId, usize> {
    plan.records.projects.keys().enumerate().map(|(at, id)| (*id, at % 12)).collect()
}

/// The colours of a room, as they come up while its rows are drawn.
pub struct Palette<'a> {
    plan: &'a Plan,
    colour: Colour,
    /// The one project in view: everything else is slate.
    focus: Option<ProjectId>,
    /// Which value has which hue, where values have no order of their own.
    values: Arc<BTreeMap<String, usize>>,
    /// Which project has which hue.
    projects: Arc<HashMap<ProjectId, usize>>,
}

impl<'a> Palette<'a> {
    /// The colours of a room.
    pub fn new(plan: &'a Plan, colour: Colour, focus: Option<ProjectId>) -> Self {
        let mut values: Vec<String> = match colour {
            Colour::Project | Colour::Certainty => Vec::new(),
            Colour::Priority => Priority::ALL.iter().map(ToString::to_string).collect(),
            Colour::Stage => {
                let first = ["to do", "doing", "checking", "done"].map(str::to_owned);
                let own = plan.tasks.values().map(|task| task.stage.clone()).filter(|stage| !first.contains(stage));
                let own: BTreeSet<String> = own.collect();
                first.into_iter().chain(own).collect()
            }
            Colour::ProjectField(id) | Colour::TaskField(id) => match plan.records.fields.get(&id) {
                Some(field) if field.kind == FieldKind::Choice => field.choices.clone(),
                _ => {
                    let of_projects = plan.records.projects.values().filter_map(|project| project.fields.get(&id));
                    let of_tasks = plan.tasks.values().filter_map(|task| task.fields.get(&id));
                    let used: BTreeSet<String> = of_projects.chain(of_tasks).cloned().collect();
                    used.into_iter().collect()
                }
            },
        };
        values.retain(|value| !value.is_empty());
        let values = values.into_iter().enumerate().map(|(at, value)| (value, at % 12)).collect();
        let projects = if colour == Colour::Project { hues(plan) } else { HashMap::new() };
        Self { plan, colour, focus, values: Arc::new(values), projects: Arc::new(projects) }
    }

    /// The same with another project in view.
    pub fn focused(&self, focus: Option<ProjectId>) -> Palette<'a> {
        Palette { focus, values: Arc::clone(&self.values), projects: Arc::clone(&self.projects), ..*self }
    }

    fn value(&self, value: Option<&String>) -> usize {
        value.and_then(|value| self.values.get(value)).copied().unwrap_or(NONE)
    }

    /// Whether something is drawn in slate, because another project is in view.
    pub fn is_other(&self, project: Option<ProjectId>) -> bool {
        self.focus.is_some_and(|focus| !project.is_some_and(|id| self.plan.project_line(id).any(|up| up.id == focus)))
    }

    /// The hue of a booking's layer.
    pub fn of_booking(&self, project: Option<ProjectId>, certainty: Certainty) -> usize {
        if self.is_other(project) {
            return OTHER;
        }
        match self.colour {
            Colour::Project => project.map_or(NONE, |id| self.projects.get(&id).copied().unwrap_or(0)),
            Colour::Certainty => usize::from(certainty == Certainty::Pencilled),
            Colour::ProjectField(id) => {
                let project = project.and_then(|id| self.plan.records.projects.get(&id));
                self.value(project.and_then(|project| project.fields.get(&id)))
            }
            Colour::Stage | Colour::Priority | Colour::TaskField(_) => NONE,
        }
    }

    /// The hue of a task inside a booking.
    pub fn of_task(&self, task: &Task) -> usize {
        if self.is_other(Some(task.project)) {
            return OTHER;
        }
        match self.colour {
            Colour::Stage => self.value(Some(&task.stage)),
            Colour::Priority => self.value(Some(&task.priority.to_string())),
            Colour::TaskField(id) => self.value(task.fields.get(&id)),
            _ => self.of_booking(Some(task.project), Certainty::Firm),
        }
    }

    /// The key: which hue is what. For projects, those that are asked for; `slate` says that others are drawn in slate.
    pub fn key(&self, projects: &BTreeSet<ProjectId>, slate: bool) -> Vec<(usize, String)> {
        match self.colour {
            Colour::Project => {
                let named = projects
                    .iter()
                    .filter(|id| !self.is_other(Some(**id)))
                    .filter_map(|id| self.plan.records.projects.get(id));
                let mut key: Vec<(usize, String)> =
                    named.map(|p| (self.of_booking(Some(p.id), Certainty::Firm), p.name.clone())).collect();
                key.sort_by_key(|(_, name)| name.to_lowercase());
                // More than one can look through says nothing; every layer has its name.
                key.truncate(MOST_NAMED);
                if slate {
                    key.push((OTHER, "other projects".to_owned()));
                }
                key
            }
            Colour::Certainty => vec![(0, "firm".to_owned()), (1, "pencilled".to_owned())],
            _ => {
                let mut key: Vec<(usize, String)> =
                    self.values.iter().map(|(value, hue)| (*hue, value.clone())).collect();
                key.sort();
                key.push((NONE, if self.colour.of_tasks() { "no task says" } else { "none" }.to_owned()));
                key
            }
        }
    }
}
