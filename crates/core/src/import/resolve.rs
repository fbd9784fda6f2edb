//! From rows to records: keys become identities, and each rule of the records is held against each row.

use super::{AssigneesRow, Dataset, Line, Preview, Problem, Tally, diff::diff};
use crate::{
    AbsenceId, BookingId, HolidayId, LinkId, MilestoneId, PersonId, Plan, ProjectId, TaskId, TeamId, TimeEntryId,
    change::{Change, Edit},
    people::{Absence, Holiday},
    rules,
    work::{Assignees, Booking, Link, Milestone, Project, Task, TimeEntry, Who},
};
use std::{
    collections::{BTreeMap, HashMap},
    hash::Hash,
};

/// Every reference that a row can make, whether it stood before or comes with the same files.
pub(super) struct Keys {
    pub(super) people: HashMap<String, PersonId>,
    pub(super) teams: HashMap<String, TeamId>,
    pub(super) projects: HashMap<String, ProjectId>,
    pub(super) tasks: HashMap<String, TaskId>,
    next_id: i32,
}

/// What is wrong with one cell: the column and the reason.
pub(super) type Wrong = (&'static str, String);

pub(super) struct Work<'a> {
    pub(super) plan: &'a Plan,
    pub(super) keys: Keys,
    pub(super) out: Preview,
}

pub(super) fn resolve(plan: &Plan, data: &Dataset) -> Preview {
    let keys = Keys {
        people: plan.people.values().map(|entry| (entry.person.email.clone(), entry.person.id)).collect(),
        teams: plan.teams.values().map(|team| (team.code.clone(), team.id)).collect(),
        projects: plan.projects.values().map(|project| (project.code.clone(), project.id)).collect(),
        tasks: plan
            .tasks
            .values()
            .filter(|task| !task.reference.is_empty())
            .map(|task| (task.reference.clone(), task.id))
            .collect(),
        next_id: plan.next_id(),
    };
    let mut work = Work { plan, keys, out: Preview::default() };
    work.hand_out_keys(data);
    work.people(data);
    work.teams(data);
    work.projects(data);
    work.plain_files(data);
    work.out
}

impl Work<'_> {
    fn take_id(&mut self) -> i32 {
        self.keys.next_id += 1;
        self.keys.next_id - 1
    }

    pub(super) fn tally(&mut self, file: &str) -> &mut Tally {
        self.out.files.entry(file.to_owned()).or_default()
    }

    pub(super) fn refuse(&mut self, file: &str, line: u64, (column, reason): Wrong) {
        self.tally(file).refused += 1;
        self.out.problems.push(Problem { file: file.to_owned(), line, column: column.to_owned(), reason });
    }

    /// Gives an identity to every key that is new, so that rows may refer to each other in any order.
    fn hand_out_keys(&mut self, data: &Dataset) {
        for line in &data.people {
            if !self.keys.people.contains_key(&line.row.email) {
                let id = PersonId(self.take_id());
                self.keys.people.insert(line.row.email.clone(), id);
            }
        }
        for line in &data.teams {
            if !self.keys.teams.contains_key(&line.row.code) {
                let id = TeamId(self.take_id());
                self.keys.teams.insert(line.row.code.clone(), id);
            }
        }
        for line in &data.projects {
            if !self.keys.projects.contains_key(&line.row.code) {
                let id = ProjectId(self.take_id());
                self.keys.projects.insert(line.row.code.clone(), id);
            }
        }
        for line in data.tasks.iter().filter(|line| !line.row.reference.is_empty()) {
            if !self.keys.tasks.contains_key(&line.row.reference) {
                let id = TaskId(self.take_id());
                self.keys.tasks.insert(line.row.reference.clone(), id);
            }
        }
    }

    pub(super) fn put<T: PartialEq>(&mut self, before: Option<T>, after: T, change: fn(Edit<T>) -> Change) {
        if before.as_ref() != Some(&after) {
            self.out.changes.push(change(Edit { before, after: Some(after) }));
        }
    }

    /// Refuses the second row with the same key.
    pub(super) fn only_once<K: Eq + Hash>(
        &mut self,
        seen: &mut HashMap<K, u64>,
        key: K,
        file: &str,
        line: u64,
        column: &'static str,
    ) -> bool {
        if let Some(first) = seen.get(&key) {
            let reason = format!("stands on line {first} already");
            self.refuse(file, line, (column, reason));
            return false;
        }
        seen.insert(key, line);
        true
    }

    fn projects(&mut self, data: &Dataset) {
        let mut touched: BTreeMap<ProjectId, Project> = BTreeMap::new();
        let mut seen = HashMap::new();
        for Line { line, row } in &data.projects {
            if !self.only_once(&mut seen, row.code.clone(), "projects.csv", *line, "code") {
                continue;
            }
            let project = || -> Result<Project, Wrong> {
                rules::range(row.start, row.finish).map_err(|reason| ("finish", reason))?;
                Ok(Project {
                    id: self.keys.projects[&row.code],
                    code: row.code.clone(),
                    name: row.name.clone(),
                    status: row.status,
                    parent: optional(&self.keys.projects, &row.parent, "parent", "project")?,
                    lead: optional(&self.keys.people, &row.lead, "lead", "person")?,
                    team: optional(&self.keys.teams, &row.team, "team", "team")?,
                    start: row.start,
                    finish: row.finish,
                    budget_minutes: row.budget_minutes,
                    budget_money: row.budget_money,
                })
            };
            match project() {
                Ok(project) => {
                    let before = self.plan.projects.get(&project.id).map(|project| &**project);
                    count(self.out.files.entry("projects.csv".to_owned()).or_default(), before, &project);
                    touched.insert(project.id, project);
                }
                Err(wrong) => self.refuse("projects.csv", *line, wrong),
            }
        }
        let all =
            self.plan.projects.values().map(|project| &**project).filter(|project| !touched.contains_key(&project.id));
        if let Some(id) = rules::cycle(all.chain(touched.values()).map(|project| (project.id, project.parent))) {
            let line = touched.get(&id).map_or(0, |project| line_of(&data.projects, |row| row.code == project.code));
            self.refuse("projects.csv", line, ("parent", "is inside itself".to_owned()));
        }
        for project in touched.into_values() {
            let before = self.plan.projects.get(&project.id).map(|project| (**project).clone());
            self.put(before, project, Change::Project);
        }
    }

    /// The files whose rows stand for one record each.
    fn plain_files(&mut self, data: &Dataset) {
        let plan = self.plan;
        let standing = plan.calendars.values().flat_map(|calendar| calendar.holidays.clone());
        self.file(
            "holidays.csv",
            &data.holidays,
            standing,
            |_, row| {
                Ok(Holiday {
                    id: HolidayId(0),
                    calendar: row.calendar.clone(),
                    date: row.date,
                    name: row.name.clone(),
                    fraction: row.fraction,
                })
            },
            None,
        );
        let standing = plan.people.values().flat_map(|entry| entry.absences.iter().cloned());
        self.file(
            "absences.csv",
            &data.absences,
            standing,
            |keys, row| {
                rules::range(Some(row.start), Some(row.end)).map_err(|reason| ("end", reason))?;
                let person = known(&keys.people, &row.email, "email", "person")?;
                Ok(Absence {
                    id: AbsenceId(0),
                    reference: row.reference.clone(),
                    person,
                    start: row.start,
                    end: row.end,
                    kind: row.kind.clone(),
                    minutes: row.minutes,
                })
            },
            Some(|row| &row.reference),
        );
        let first = self.out.changes.len();
        self.file(
            "tasks.csv",
            &data.tasks,
            plan.tasks.values().map(|task| (**task).clone()),
            task,
            Some(|row| &row.reference),
        );
        self.refuse_task_cycles(first, data);
        self.file(
            "links.csv",
            &data.links,
            plan.links.values().map(|link| (**link).clone()),
            |keys, row| {
                let (from, to) =
                    (known(&keys.tasks, &row.from, "from", "task")?, known(&keys.tasks, &row.to, "to", "task")?);
                if from == to {
                    return Err(("to", "a task cannot be linked to itself".to_owned()));
                }
                Ok(Link { id: LinkId(0), from, to, kind: row.kind, lag_days: row.lag_days, note: row.note.clone() })
            },
            None,
        );
        self.file(
            "bookings.csv",
            &data.bookings,
            plan.bookings(),
            |keys, row| {
                let who = match (row.email.as_str(), row.team.as_str(), row.role.as_str()) {
                    (_, "", "") => Who::Person(known(&keys.people, &row.email, "email", "person")?),
                    ("", _, "") => Who::Team(known(&keys.teams, &row.team, "team", "team")?),
                    ("", "", role) => Who::Role(role.to_owned()),
                    _ => return Err(("email", "give one of email, team and role, not several".to_owned())),
                };
                let booking = Booking {
                    id: BookingId(0),
                    reference: row.reference.clone(),
                    who,
                    project: optional(&keys.projects, &row.project, "project", "project")?,
                    start: row.start,
                    end: row.end,
                    amount: row.amount,
                    certainty: row.certainty,
                    days_off: row.days_off,
                    note: row.note.clone(),
                };
                rules::booking(&booking).map_err(|refusal| (refusal.field, refusal.message))?;
                Ok(booking)
            },
            Some(|row| &row.reference),
        );
        self.file(
            "time.csv",
            &data.time,
            plan.time_entries.values().map(|entry| (**entry).clone()),
            |keys, row| {
                Ok(TimeEntry {
                    id: TimeEntryId(0),
                    reference: row.reference.clone(),
                    person: known(&keys.people, &row.email, "email", "person")?,
                    date: row.date,
                    project: optional(&keys.projects, &row.project, "project", "project")?,
                    task: optional(&keys.tasks, &row.task, "task", "task")?,
                    minutes: row.minutes,
                    billable: row.billable,
                    note: row.note.clone(),
                })
            },
            Some(|row| &row.reference),
        );
        self.file(
            "milestones.csv",
            &data.milestones,
            plan.milestones.values().map(|milestone| (**milestone).clone()),
            |keys, row| {
                let projects = row
                    .projects
                    .iter()
                    .map(|code| known(&keys.projects, code, "projects", "project"))
                    .collect::<Result<_, _>>()?;
                Ok(Milestone {
                    id: MilestoneId(0),
                    reference: row.reference.clone(),
                    name: row.name.clone(),
                    date: row.date,
                    projects,
                })
            },
            Some(|row| &row.reference),
        );
    }

    fn file<R, T: super::diff::Filed>(
        &mut self,
        name: &str,
        lines: &[Line<R>],
        standing: impl Iterator<Item = T>,
        record: impl Fn(&Keys, &R) -> Result<T, Wrong>,
        reference: Option<fn(&R) -> &String>,
    ) {
        if lines.is_empty() {
            return;
        }
        let mut seen = HashMap::new();
        let mut records = Vec::with_capacity(lines.len());
        for Line { line, row } in lines {
            if let Some(key) = reference.map(|of| of(row)).filter(|key| !key.is_empty())
                && !self.only_once(&mut seen, key.clone(), name, *line, "ref")
            {
                continue;
            }
            match record(&self.keys, row) {
                Ok(record) => records.push(record),
                Err(wrong) => self.refuse(name, *line, wrong),
            }
        }
        let tally = self.out.files.entry(name.to_owned()).or_default();
        let next = &mut self.keys.next_id;
        diff(standing, records, tally, &mut self.out.changes, || {
            *next += 1;
            *next - 1
        });
    }

    fn refuse_task_cycles(&mut self, first: usize, data: &Dataset) {
        let mut parents: HashMap<TaskId, Option<TaskId>> =
            self.plan.tasks.values().map(|task| (task.id, task.parent)).collect();
        for change in &self.out.changes[first..] {
            if let Change::Task(edit) = change
                && let Some(task) = &edit.after
            {
                parents.insert(task.id, task.parent);
            }
        }
        if let Some(id) = rules::cycle(parents.into_iter()) {
            let reference =
                self.keys.tasks.iter().find(|(_, task)| **task == id).map(|(reference, _)| reference.clone());
            let line = line_of(&data.tasks, |row| Some(&row.reference) == reference.as_ref());
            self.refuse("tasks.csv", line, ("parent", "is inside itself".to_owned()));
        }
    }
}

fn task(keys: &Keys, row: &super::TaskRow) -> Result<Task, Wrong> {
    let person = |email: &String| known(&keys.people, email, "assignees", "person");
    let assignees = match &row.assignees {
        AssigneesRow::Even(people) => Assignees::Even(people.iter().map(person).collect::<Result<_, _>>()?),
        AssigneesRow::Full(people) => Assignees::Full(people.iter().map(person).collect::<Result<_, _>>()?),
        AssigneesRow::Shares(shares) => Assignees::Shares(
            shares.iter().map(|(email, share)| Ok((person(email)?, *share))).collect::<Result<_, _>>()?,
        ),
    };
    let task = Task {
        id: keys.tasks.get(&row.reference).copied().filter(|_| !row.reference.is_empty()).unwrap_or(TaskId(0)),
        reference: row.reference.clone(),
        project: known(&keys.projects, &row.project, "project", "project")?,
        parent: optional(&keys.tasks, &row.parent, "parent", "task")?,
        title: row.title.clone(),
        kind: row.kind.clone(),
        team: optional(&keys.teams, &row.team, "team", "team")?,
        assignees,
        contour: row.contour,
        estimate: row.estimate,
        remaining: row.remaining,
        points: row.points,
        start: row.start,
        finish: row.finish,
        due: row.due,
        priority: row.priority,
        stage: row.stage.clone(),
        progress: row.progress,
        tags: row.tags.clone(),
        walk_in: row.walk_in,
        requester: row.requester.clone(),
        sprint: row.sprint.clone(),
        release: row.release.clone(),
    };
    rules::task(&task).map_err(|refusal| (refusal.field, refusal.message))?;
    Ok(task)
}

pub(super) fn count<T: PartialEq>(tally: &mut Tally, before: Option<&T>, after: &T) {
    match before {
        None => tally.new += 1,
        Some(before) if before == after => tally.same += 1,
        Some(_) => tally.changed += 1,
    }
}

pub(super) fn no_such(what: &str, key: &str) -> String {
    if key.is_empty() { format!("name a {what}") } else { format!("there is no {what} “{key}”") }
}

pub(super) fn known<T: Copy>(
    keys: &HashMap<String, T>,
    key: &str,
    column: &'static str,
    what: &str,
) -> Result<T, Wrong> {
    keys.get(key).copied().ok_or_else(|| (column, no_such(what, key)))
}

pub(super) fn optional<T: Copy>(
    keys: &HashMap<String, T>,
    key: &str,
    column: &'static str,
    what: &str,
) -> Result<Option<T>, Wrong> {
    if key.is_empty() { Ok(None) } else { known(keys, key, column, what).map(Some) }
}

pub(super) fn line_of<T>(lines: &[Line<T>], is: impl Fn(&T) -> bool) -> u64 {
    lines.iter().find(|line| is(&line.row)).map_or(0, |line| line.line)
}
