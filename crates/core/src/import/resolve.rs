//! From rows to records: keys become identities, and each rule of the records is held against each row.

use super::{AssigneesRow, Dataset, Line, PersonRow, Preview, Problem, Tally, TeamRow, diff::diff};
use crate::{
    AbsenceId, BookingId, HolidayId, LinkId, MilestoneId, PersonId, Plan, ProjectId, TaskId, TeamId, TimeEntryId,
    change::{Change, Edit},
    people::{Absence, DatedPattern, DatedRate, Holiday, Person},
    rules,
    work::{Assignees, Booking, Link, Milestone, Project, Task, Team, TimeEntry, Who},
};
use std::{
    collections::{BTreeMap, HashMap},
    hash::Hash,
};

/// Every reference that a row can make, whether it stood before or comes with the same files.
struct Keys {
    people: HashMap<String, PersonId>,
    teams: HashMap<String, TeamId>,
    projects: HashMap<String, ProjectId>,
    tasks: HashMap<String, TaskId>,
    next_id: i32,
}

/// What is wrong with one cell: the column and the reason.
type Wrong = (&'static str, String);

struct Work<'a> {
    plan: &'a Plan,
    keys: Keys,
    out: Preview,
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

    fn tally(&mut self, file: &str) -> &mut Tally {
        self.out.files.entry(file.to_owned()).or_default()
    }

    fn refuse(&mut self, file: &str, line: u64, (column, reason): Wrong) {
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

    /// Refuses the second row with the same key.
    fn only_once<K: Eq + Hash>(
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

    fn people(&mut self, data: &Dataset) {
        let mut touched: BTreeMap<PersonId, Person> = BTreeMap::new();
        let mut seen = HashMap::new();
        for line in &data.people {
            if self.only_once(&mut seen, line.row.email.clone(), "people.csv", line.line, "email") {
                let person = self.person(&line.row);
                let before = self.plan.people.get(&person.id).map(|entry| &*entry.person);
                count(self.out.files.entry("people.csv".to_owned()).or_default(), before, &person);
                touched.insert(person.id, person);
            }
        }
        let mut seen = HashMap::new();
        for Line { line, row } in &data.patterns {
            let Some(mut person) = self.touch(&touched, &row.email, "patterns.csv", *line) else { continue };
            if self.only_once(&mut seen, (person.id, row.from), "patterns.csv", *line, "from") {
                let dated = DatedPattern { from: Some(row.from), pattern: row.pattern.clone() };
                let same = person.patterns.iter().find(|other| other.from == dated.from).cloned();
                count(self.tally("patterns.csv"), same.as_ref(), &dated);
                person.patterns.retain(|other| other.from != dated.from);
                person.patterns.push(dated);
                person.patterns.sort_by_key(|dated| dated.from);
                touched.insert(person.id, person);
            }
        }
        let mut seen = HashMap::new();
        for Line { line, row } in &data.rates {
            let Some(mut person) = self.touch(&touched, &row.email, "rates.csv", *line) else { continue };
            if self.only_once(&mut seen, (person.id, row.from), "rates.csv", *line, "from") {
                let dated = DatedRate { from: Some(row.from), cost: row.cost_rate, bill: row.bill_rate };
                let same = person.rates.iter().find(|other| other.from == dated.from).cloned();
                count(self.tally("rates.csv"), same.as_ref(), &dated);
                person.rates.retain(|other| other.from != dated.from);
                person.rates.push(dated);
                person.rates.sort_by_key(|dated| dated.from);
                touched.insert(person.id, person);
            }
        }
        for person in touched.into_values() {
            let before = self.plan.people.get(&person.id).map(|entry| (*entry.person).clone());
            self.put(before, person, Change::Person);
        }
    }

    fn put<T: PartialEq>(&mut self, before: Option<T>, after: T, change: fn(Edit<T>) -> Change) {
        if before.as_ref() != Some(&after) {
            self.out.changes.push(change(Edit { before, after: Some(after) }));
        }
    }

    /// The person as the rows before this one have made them.
    fn touch(&mut self, touched: &BTreeMap<PersonId, Person>, email: &str, file: &str, line: u64) -> Option<Person> {
        let id = self.keys.people.get(email);
        let known =
            id.and_then(|id| touched.get(id).or_else(|| self.plan.people.get(id).map(|entry| &*entry.person))).cloned();
        if known.is_none() {
            self.refuse(file, line, ("email", no_such("person", email)));
        }
        known
    }

    fn person(&self, row: &PersonRow) -> Person {
        let id = self.keys.people[&row.email];
        let before = self.plan.people.get(&id).map(|entry| &entry.person);
        let mut patterns = vec![DatedPattern { from: None, pattern: row.pattern.clone() }];
        let mut rates = Vec::new();
        if row.cost_rate.is_some() || row.bill_rate.is_some() {
            rates.push(DatedRate { from: None, cost: row.cost_rate, bill: row.bill_rate });
        }
        if let Some(before) = before {
            patterns.extend(before.patterns.iter().filter(|dated| dated.from.is_some()).cloned());
            rates.extend(before.rates.iter().filter(|dated| dated.from.is_some()).cloned());
        }
        Person {
            id,
            email: row.email.clone(),
            name: row.name.clone(),
            role: row.role.clone(),
            kind: row.kind,
            calendar: row.holiday_calendar.clone(),
            patterns,
            day_limit: row.day_limit,
            week_limit: row.week_limit,
            max_projects: row.max_projects,
            max_tasks: row.max_tasks,
            max_points: row.max_points,
            skills: row.skills.clone(),
            rates,
        }
    }

    fn teams(&mut self, data: &Dataset) {
        let mut touched: BTreeMap<TeamId, Team> =
            self.plan.teams.values().map(|team| (team.id, (**team).clone())).collect();
        let mut seen = HashMap::new();
        for Line { line, row } in &data.teams {
            if !self.only_once(&mut seen, row.code.clone(), "teams.csv", *line, "code") {
                continue;
            }
            match self.team(row) {
                Ok(team) => {
                    let before = self.plan.teams.get(&team.id).map(|team| &**team);
                    count(self.out.files.entry("teams.csv".to_owned()).or_default(), before, &team);
                    touched.insert(team.id, team);
                }
                Err(wrong) => self.refuse("teams.csv", *line, wrong),
            }
        }
        let mut seen = HashMap::new();
        for Line { line, row } in &data.members {
            let found = self.keys.teams.get(&row.team).copied().ok_or_else(|| ("team", no_such("team", &row.team)));
            let found = found.and_then(|team| Ok((team, known(&self.keys.people, &row.email, "email", "person")?)));
            match found {
                Err(wrong) => self.refuse("members.csv", *line, wrong),
                Ok((team, person)) if self.only_once(&mut seen, (team, person), "members.csv", *line, "email") => {
                    let Some(team) = touched.get_mut(&team) else { continue };
                    let standing = team.members.iter_mut().find(|(id, _)| *id == person);
                    let tally = self.out.files.entry("members.csv".to_owned()).or_default();
                    count(tally, standing.as_ref().map(|(_, share)| share), &row.share);
                    match standing {
                        Some((_, share)) => *share = row.share,
                        None => team.members.push((person, row.share)),
                    }
                    let given: i32 = touched
                        .values()
                        .flat_map(|team| &team.members)
                        .filter(|(id, _)| *id == person)
                        .map(|(_, share)| share)
                        .sum();
                    if given > 10_000 {
                        let reason = format!(
                            "{} gives {} % of their time to teams, more than there is",
                            row.email,
                            f64::from(given) / 100.0
                        );
                        self.refuse("members.csv", *line, ("share_percent", reason));
                    }
                }
                Ok(_) => {}
            }
        }
        if let Some(code) = rules::cycle(touched.values().map(|team| (team.id, team.parent)))
            .and_then(|id| touched.get(&id))
            .map(|team| team.code.clone())
        {
            self.refuse(
                "teams.csv",
                line_of(&data.teams, |row| row.code == code),
                ("parent", "is inside itself".to_owned()),
            );
        }
        for team in touched.into_values() {
            let before = self.plan.teams.get(&team.id).map(|team| (**team).clone());
            self.put(before, team, Change::Team);
        }
    }

    fn team(&self, row: &TeamRow) -> Result<Team, Wrong> {
        let id = self.keys.teams[&row.code];
        Ok(Team {
            id,
            code: row.code.clone(),
            name: row.name.clone(),
            parent: optional(&self.keys.teams, &row.parent, "parent", "team")?,
            owner: optional(&self.keys.people, &row.owner, "owner", "person")?,
            week_capacity: row.week_capacity,
            members: self.plan.teams.get(&id).map(|team| team.members.clone()).unwrap_or_default(),
        })
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

fn count<T: PartialEq>(tally: &mut Tally, before: Option<&T>, after: &T) {
    match before {
        None => tally.new += 1,
        Some(before) if before == after => tally.same += 1,
        Some(_) => tally.changed += 1,
    }
}

fn no_such(what: &str, key: &str) -> String {
    if key.is_empty() { format!("name a {what}") } else { format!("there is no {what} “{key}”") }
}

fn known<T: Copy>(keys: &HashMap<String, T>, key: &str, column: &'static str, what: &str) -> Result<T, Wrong> {
    keys.get(key).copied().ok_or_else(|| (column, no_such(what, key)))
}

fn optional<T: Copy>(
    keys: &HashMap<String, T>,
    key: &str,
    column: &'static str,
    what: &str,
) -> Result<Option<T>, Wrong> {
    if key.is_empty() { Ok(None) } else { known(keys, key, column, what).map(Some) }
}

fn line_of<T>(lines: &[Line<T>], is: impl Fn(&T) -> bool) -> u64 {
    lines.iter().find(|line| is(&line.row)).map_or(0, |line| line.line)
}
