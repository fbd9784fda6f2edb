//! Projects to begin with: a project saved with its dates counted in working days from its beginning and its people as roles, and a
//! project started from that on a day.

use crate::{
    Day, LinkId, MilestoneId, PersonId, Plan, ProjectId, Refusal, TaskId,
    change::{Change, Edit},
    kinds::{
        Assignees, Kind, Link, LinkKind, Milestone, Project, Record as _, Task, Template, TemplateId, TemplateTask,
        TemplateTaskId,
    },
    settings::Settings,
};
use std::collections::{BTreeMap, HashMap};

/// What a line of a template follows: the type of the link, the line, and working days between the two.
///
/// # Errors
/// What would have been understood.
pub fn follows(text: &str) -> Result<(LinkKind, String, i32), String> {
    let wrong = || format!("“{text}” is not understood; write a link as “FS A1 +2”");
    let mut words = text.split_whitespace();
    let kind: LinkKind = words.next().and_then(|word| word.parse().ok()).ok_or_else(wrong)?;
    let line = words.next().ok_or_else(wrong)?.to_owned();
    let lag = match words.next() {
        None => 0,
        Some(days) => days.trim_start_matches('+').parse().map_err(|_| wrong())?,
    };
    if words.next().is_some() || !(-3_660..=3_660).contains(&lag) {
        return Err(wrong());
    }
    Ok((kind, line, lag))
}

fn written(kind: LinkKind, line: &str, lag: i32) -> String {
    if lag == 0 { format!("{kind} {line}") } else { format!("{kind} {line} {lag:+}") }
}

/// Working days of the workspace, counted from a first one.
struct WorkingDays<'s>(&'s Settings);

impl WorkingDays<'_> {
    fn is_one(&self, day: Day) -> bool {
        let anchor = Day::from_number(19_723); // ISO week 1 of 2024, as everywhere
        self.0.pattern.minutes(anchor, day) > 0
    }

    /// How many working days lie from `first` to before `day`; none before it.
    fn between(&self, first: Day, day: Day) -> i32 {
        let days = first.through(day - 1).filter(|day| self.is_one(*day)).count();
        i32::try_from(days).unwrap_or(i32::MAX)
    }

    /// The day that is so many working days after the first one that is not before `first`. A workspace without any counts all days.
    fn after(&self, first: Day, days: i32) -> Day {
        let works = (0..7).any(|day| self.is_one(first + day));
        let is_one = |day: &Day| !works || self.is_one(*day);
        let days = usize::try_from(days).unwrap_or(0);
        first.through(Day::MAX).filter(is_one).nth(days).unwrap_or(Day::MAX)
    }
}

/// The roles of a template, in the order in which they come up.
#[must_use]
pub fn roles(plan: &Plan, template: TemplateId) -> Vec<String> {
    let mut found: Vec<String> = Vec::new();
    for role in rows(plan, template).into_iter().flat_map(|row| &row.roles) {
        if !found.contains(role) {
            found.push(role.clone());
        }
    }
    found
}

/// The lines of a template, as they were made.
#[must_use]
pub fn rows(plan: &Plan, template: TemplateId) -> Vec<&TemplateTask> {
    plan.records.template_tasks.values().map(|row| &**row).filter(|row| row.template == template).collect()
}

impl Plan {
    /// The changes that save a project as one to begin with: its open and its done tasks, each with what it was thought to take, its
    /// milestones, and the links between them. They have the identities that a plan gives them which takes them in this order.
    ///
    /// # Errors
    /// The project has no task yet.
    pub(crate) fn templated(&self, project: ProjectId, name: &str) -> Result<Vec<Change>, Refusal> {
        let Some(of) = self.records.projects.get(&project) else {
            return Err(Refusal::value("project", "There is no such project in the plan."));
        };
        let mut tasks: Vec<&Task> =
            self.tasks.values().map(|task| &**task).filter(|task| task.project == project).collect();
        if tasks.is_empty() {
            return Err(Refusal::value("project", format!("{} has no task to save yet.", of.name)));
        }
        // A line's parent stands before it; one in another project is none here.
        let is_own = |id: &TaskId| self.tasks.get(id).is_some_and(|task| task.project == project);
        tasks.sort_by_key(|task| (crate::network::line(self, task.id).take_while(is_own).count(), task.order()));
        let own = || self.records.milestones.values().filter(|milestone| milestone.projects.contains(&project));
        let begins = tasks.iter().filter_map(|task| task.start).min().or(of.start);
        let first = begins.or_else(|| own().map(|milestone| milestone.date).min()).unwrap_or(Day::MIN);
        let working = WorkingDays(&self.settings);
        let free = (1..).map(|number| if number == 1 { of.code.clone() } else { format!("{}-{number}", of.code) });
        let code = free.into_iter().find(|code| self.find(Kind::Template, code).is_none()).unwrap_or_default();
        let id = TemplateId(self.next_id());
        let template = Template { id, code, name: name.trim().to_owned(), says: String::new() };
        let lines: HashMap<TaskId, String> =
            tasks.iter().zip(1..).map(|(task, at)| (task.id, at.to_string())).collect();
        let stands = self.roles_of(&tasks);
        let row = |task: &Task| {
            let dates = task.start.zip(task.finish);
            let after = crate::network::links_to(self, task.id).filter_map(|link| {
                let dated = !matches!(link.kind, LinkKind::HoldsUp | LinkKind::Relates);
                lines.get(&link.from).filter(|_| dated).map(|line| written(link.kind, line, link.lag_days))
            });
            TemplateTask {
                id: TemplateTaskId(0),
                template: id,
                line: lines[&task.id].clone(),
                parent: task.parent.and_then(|parent| lines.get(&parent)).cloned().unwrap_or_default(),
                title: task.title.clone(),
                kind: task.kind.clone(),
                roles: task.assignees.people().filter_map(|person| stands.get(&person)).cloned().collect(),
                team: task.team,
                estimate: task.estimate,
                points: task.points,
                begins: dates.map(|(start, _)| working.between(first, start)),
                days: dates.map(|(start, finish)| working.between(start, finish + 1).max(1)),
                contour: task.contour,
                milestone: false,
                after: after.collect(),
            }
        };
        let milestone = |(at, milestone): (usize, &std::sync::Arc<Milestone>)| {
            let waits = tasks.iter().filter(|task| task.milestones.contains(&milestone.id));
            TemplateTask {
                template: id,
                line: format!("M{}", at + 1),
                title: milestone.name.clone(),
                begins: Some(working.between(first, milestone.date.max(first))),
                milestone: true,
                after: waits.map(|task| written(LinkKind::FinishStart, &lines[&task.id], 0)).collect(),
                ..TemplateTask::blank()
            }
        };
        let rows = tasks.iter().map(|task| row(task)).chain(own().enumerate().map(milestone));
        let rows = rows.map(|row| Change::TemplateTask(Edit::new(row)));
        Ok(std::iter::once(Change::Template(Edit::new(template))).chain(rows).collect())
    }

    /// The role that each person of these tasks has in a template: their own, with a number where several have the same.
    fn roles_of(&self, tasks: &[&Task]) -> BTreeMap<PersonId, String> {
        let mut found: BTreeMap<PersonId, String> = BTreeMap::new();
        let mut counts: HashMap<String, usize> = HashMap::new();
        for person in tasks.iter().flat_map(|task| task.assignees.people()) {
            let Some(entry) = self.people.get(&person).filter(|_| !found.contains_key(&person)) else { continue };
            let role = if entry.person.role.trim().is_empty() { "somebody" } else { entry.person.role.trim() };
            let count = counts.entry(role.to_lowercase()).or_insert(0);
            *count += 1;
            found.insert(person, if *count == 1 { role.to_owned() } else { format!("{role} {count}") });
        }
        found
    }

    /// The changes that start a project from a template, with its tasks, milestones and links. What nobody stands for is given to
    /// nobody and says what it needs. They have the identities that a plan gives them which takes them in this order.
    ///
    /// # Errors
    /// The template has no lines, the project no first day, or a line follows one that is not there.
    pub(crate) fn started(
        &self,
        template: TemplateId,
        project: &Project,
        stands: &[(String, PersonId)],
    ) -> Result<Vec<Change>, Refusal> {
        let rows = rows(self, template);
        if !self.records.templates.contains_key(&template) || rows.is_empty() {
            return Err(Refusal::value("template", "There is nothing in this template yet."));
        }
        let Some(first) = project.start else {
            return Err(Refusal::value("start", "Say on which day it begins."));
        };
        let numbers = (self.next_id() + 1)..;
        let ids: HashMap<&str, i32> = rows.iter().zip(numbers).map(|(row, id)| (row.line.as_str(), id)).collect();
        let own = ProjectId(self.next_id());
        let working = WorkingDays(&self.settings);
        let dates = |row: &TemplateTask| {
            let start = working.after(first, row.begins?);
            Some((start, working.after(start, row.days.unwrap_or(1) - 1)))
        };
        let known = |line: &str| {
            ids.get(line)
                .copied()
                .ok_or_else(|| Refusal::value("template", format!("There is no line “{line}” in it.")))
        };
        let mut links: Vec<Change> = Vec::new();
        let mut waits: HashMap<i32, Vec<MilestoneId>> = HashMap::new();
        for row in &rows {
            let to = known(&row.line)?;
            for text in &row.after {
                let (kind, line, lag_days) = follows(text).map_err(|message| Refusal::value("template", message))?;
                let from = known(&line)?;
                if row.milestone {
                    waits.entry(from).or_default().push(MilestoneId(to));
                } else {
                    let link =
                        Link { id: LinkId(0), from: TaskId(from), to: TaskId(to), kind, lag_days, note: String::new() };
                    links.push(Change::Link(Edit::new(link)));
                }
            }
        }
        let last = rows.iter().filter_map(|row| dates(row)).map(|(_, finish)| finish).max();
        let project_code = project.code.trim();
        let project = Project { id: own, finish: project.finish.or(last), ..project.clone() };
        let mut made = vec![Change::Project(Edit::new(project))];
        for row in &rows {
            let id = known(&row.line)?;
            if row.milestone {
                let date = dates(row).map_or(first, |(start, _)| start);
                let milestone = Milestone {
                    id: MilestoneId(id),
                    // Tasks name it in files.
                    reference: format!("{}-{}", project_code, row.line),
                    name: row.title.clone(),
                    date,
                    projects: vec![own],
                };
                made.push(Change::Milestone(Edit::new(milestone)));
                continue;
            }
            let parent = if row.parent.is_empty() { None } else { Some(TaskId(known(&row.parent)?)) };
            let stand = |role: &String| stands.iter().find(|(known, _)| known == role).map(|(_, person)| *person);
            let mut people: Vec<PersonId> = Vec::new();
            for person in row.roles.iter().filter_map(stand) {
                if !people.contains(&person) {
                    people.push(person);
                }
            }
            let needs = row.roles.iter().find(|role| stand(role).is_none()).filter(|_| people.is_empty());
            let task = Task {
                id: TaskId(id),
                project: own,
                parent,
                title: row.title.clone(),
                kind: row.kind.clone(),
                team: row.team,
                assignees: Assignees::Even(people),
                contour: row.contour,
                estimate: row.estimate,
                points: row.points,
                start: dates(row).map(|(start, _)| start),
                finish: dates(row).map(|(_, finish)| finish),
                milestones: waits.get(&id).cloned().unwrap_or_default(),
                // “carpenter 2” is the second carpenter.
                needs: needs
                    .map(|role| role.trim_end_matches(|c: char| c.is_ascii_digit() || c == ' ').to_owned())
                    .unwrap_or_default(),
                ..Task::blank()
            };
            made.push(Change::Task(Edit::new(task)));
        }
        made.extend(links);
        Ok(made)
    }
}
