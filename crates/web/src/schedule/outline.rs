//! The rows of the outline: projects, what they have inside, and their milestones.

use super::query::GanttQuery;
use crate::kept::Kept;
use snug_core::{
    MilestoneId, Plan, ProjectId, TaskId,
    demand::is_parent,
    kinds::{Milestone, ProjectStatus, Task},
    network::line,
};
use std::{
    collections::{BTreeMap, HashMap, HashSet},
    sync::Arc,
};

/// What a row stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Of {
    Project(ProjectId),
    Task(TaskId),
    Milestone(MilestoneId),
}

/// A row.
#[derive(Clone, Copy, Debug)]
pub struct Line {
    pub of: Of,
    /// How deep it stands.
    pub depth: usize,
    /// Whether there is anything inside it.
    pub is_whole: bool,
}

/// The tasks among rows.
pub fn tasks_of(lines: &[Line]) -> Vec<TaskId> {
    let task = |line: &Line| if let Of::Task(id) = line.of { Some(id) } else { None };
    lines.iter().filter_map(task).collect()
}

impl Of {
    /// The key of the row.
    pub fn key(self) -> String {
        match self {
            Self::Project(id) => format!("p{id}"),
            Self::Task(id) => id.to_string(),
            Self::Milestone(id) => format!("m{id}"),
        }
    }

    /// From the key of a row.
    pub fn of_key(key: &str) -> Option<Self> {
        match key.split_at_checked(1) {
            Some(("p", id)) => id.parse().ok().map(|id| Self::Project(ProjectId(id))),
            Some(("m", id)) => id.parse().ok().map(|id| Self::Milestone(MilestoneId(id))),
            _ => key.parse().ok().map(|id| Self::Task(TaskId(id))),
        }
    }
}

/// The rows of a view, and where each task stands among them.
#[derive(Debug, Default)]
pub struct Outline {
    pub lines: Vec<Line>,
    /// The row in which a task stands, or that of what it is in where that is folded.
    pub places: HashMap<TaskId, usize>,
}

/// What hangs below what, in this plan.
struct Tree<'p> {
    plan: &'p Plan,
    inside: BTreeMap<Option<ProjectId>, Vec<ProjectId>>,
    tops: HashMap<ProjectId, Vec<TaskId>>,
    milestones: HashMap<ProjectId, Vec<&'p Milestone>>,
    /// Tasks that are found, and what they are in; nothing where all are shown.
    found: Option<HashSet<TaskId>>,
}

/// The rows of a view, worked out once for a plan.
pub fn outline(kept: &Kept, plan: &Plan, query: &GanttQuery) -> Arc<Outline> {
    let asked = format!("{} {} {}", query.params.project, query.params.fold, query.params.q);
    kept.get(plan, asked, || Tree::new(plan, query).outline(query))
}

impl<'p> Tree<'p> {
    fn new(plan: &'p Plan, query: &GanttQuery) -> Self {
        let mut inside: BTreeMap<Option<ProjectId>, Vec<ProjectId>> = BTreeMap::new();
        for project in plan.records.projects.values() {
            let parent = project.parent.filter(|id| plan.records.projects.contains_key(id));
            inside.entry(parent).or_default().push(project.id);
        }
        let mut tops: HashMap<ProjectId, Vec<TaskId>> = HashMap::new();
        let mut ordered: Vec<&Arc<Task>> = plan.tasks.values().filter(|task| task.parent.is_none()).collect();
        ordered.sort_by_key(|task| task.order());
        for task in ordered {
            tops.entry(task.project).or_default().push(task.id);
        }
        let mut milestones: HashMap<ProjectId, Vec<&Milestone>> = HashMap::new();
        for milestone in plan.records.milestones.values() {
            for project in &milestone.projects {
                milestones.entry(*project).or_default().push(milestone);
            }
        }
        for list in milestones.values_mut() {
            list.sort_by_key(|milestone| milestone.date);
        }
        let words = query.params.q.trim().to_lowercase();
        let found = (!words.is_empty()).then(|| found(plan, &words));
        Self { plan, inside, tops, milestones, found }
    }

    fn outline(&self, query: &GanttQuery) -> Outline {
        let mut outline = Outline::default();
        let roots = match query.projects.as_slice() {
            [] => self.inside.get(&None).cloned().unwrap_or_default(),
            chosen => chosen.to_vec(),
        };
        for project in roots {
            self.project(project, 0, query, &mut outline);
        }
        outline
    }

    /// Whether anything of a project is to be seen.
    fn is_shown(&self, project: ProjectId, query: &GanttQuery) -> bool {
        let closed = |id: ProjectId| {
            self.plan.records.projects.get(&id).is_none_or(|project| project.status == ProjectStatus::Closed)
        };
        if closed(project) && !query.projects.contains(&project) {
            return false;
        }
        let shown = |task: &TaskId| self.found.as_ref().is_none_or(|found| found.contains(task));
        let own = self.tops.get(&project).is_some_and(|tasks| tasks.iter().any(shown));
        let chosen = self.found.is_none() && query.projects.contains(&project);
        let has_milestones = self.found.is_none() && self.milestones.contains_key(&project);
        own || chosen
            || has_milestones
            || self.inside.get(&Some(project)).is_some_and(|inner| inner.iter().any(|id| self.is_shown(*id, query)))
    }

    fn project(&self, id: ProjectId, depth: usize, query: &GanttQuery, outline: &mut Outline) {
        if !self.is_shown(id, query) {
            return;
        }
        let of = Of::Project(id);
        outline.lines.push(Line { of, depth, is_whole: true });
        let is_open = self.found.is_some() || !query.fold.contains(&of.key());
        let place = (!is_open).then(|| outline.lines.len() - 1);
        for inner in self.inside.get(&Some(id)).into_iter().flatten() {
            if is_open {
                self.project(*inner, depth + 1, query, outline);
            }
        }
        for task in self.tops.get(&id).into_iter().flatten() {
            self.task(*task, depth + 1, place, query, outline);
        }
        if is_open && self.found.is_none() {
            for milestone in self.milestones.get(&id).into_iter().flatten() {
                let of = Of::Milestone(milestone.id);
                outline.lines.push(Line { of, depth: depth + 1, is_whole: false });
            }
        }
    }

    /// A task and what is inside it; in the row of `place`, where that is folded.
    fn task(&self, top: TaskId, depth: usize, place: Option<usize>, query: &GanttQuery, outline: &mut Outline) {
        // Each with how deep it stands and the folded row that it is in: nesting may be deep.
        let mut left = vec![(top, depth, place)];
        while let Some((id, depth, place)) = left.pop() {
            if self.found.as_ref().is_some_and(|found| !found.contains(&id)) {
                continue;
            }
            let inner = self.plan.children_of(id);
            let here = place.unwrap_or_else(|| {
                outline.lines.push(Line { of: Of::Task(id), depth, is_whole: !inner.is_empty() });
                outline.lines.len() - 1
            });
            outline.places.insert(id, here);
            let folded = self.found.is_none() && query.fold.contains(&Of::Task(id).key());
            let place = place.or(folded.then_some(here));
            left.extend(inner.iter().rev().map(|id| (*id, depth + 1, place)));
        }
    }
}

/// The tasks that words fit, with everything that they are in.
fn found(plan: &Plan, words: &str) -> HashSet<TaskId> {
    let named = |task: &Task| {
        let who = task.assignees.people().filter_map(|id| plan.people.get(&id)).map(|entry| &entry.person.name);
        [&task.title, &task.reference].into_iter().chain(who).any(|text| text.to_lowercase().contains(words))
    };
    let mut found = HashSet::new();
    for task in plan.tasks.values().filter(|task| named(task)) {
        found.extend(line(plan, task.id));
    }
    found
}

/// The row of something, as deep as it stands in its own project; for drawing it anew.
pub fn line_of(plan: &Plan, query: &GanttQuery, of: Of) -> Option<Line> {
    let project_depth = |id: ProjectId| {
        let above = plan.project_line(id).take_while(|project| !query.projects.contains(&project.id)).count();
        if query.projects.is_empty() { above.saturating_sub(1) } else { above }
    };
    match of {
        Of::Project(id) => {
            plan.records.projects.get(&id)?;
            Some(Line { of, depth: project_depth(id), is_whole: true })
        }
        Of::Task(id) => {
            let task = plan.tasks.get(&id)?;
            let is_whole = is_parent(plan, id);
            Some(Line { of, depth: project_depth(task.project) + line(plan, id).count(), is_whole })
        }
        Of::Milestone(id) => {
            let milestone = plan.records.milestones.get(&id)?;
            let depth = milestone.projects.first().map_or(0, |project| project_depth(*project));
            Some(Line { of, depth: depth + 1, is_whole: false })
        }
    }
}
