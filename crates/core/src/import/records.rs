//! From one row to one record: keys become identities, and the record is held against its rules.

use super::{
    AbsenceRow, AssigneesRow, BookingFileRow, Dataset, FieldRow, HolidayRow, LinkRow, MilestoneRow, OwnRow, PersonRow,
    ProjectRow, TaskRow, TeamRow, TimeRow,
};
use crate::{
    AbsenceId, BookingId, Day, FieldId, HolidayId, LinkId, MilestoneId, PersonId, Plan, ProjectId, Refusal, TaskId,
    TeamId, TimeEntryId,
    change::{Change, Edit},
    demand::{logged_in, remaining_beside},
    fields::{Field, FieldOf, FieldValues},
    people::{Absence, DatedPattern, DatedRate, Holiday, Person},
    rules,
    work::{Assignees, Booking, Link, Milestone, Project, Task, Team, TimeEntry, Who},
};
use std::collections::HashMap;

/// What is wrong with one cell: the column and the reason.
pub(super) type Wrong = (&'static str, String);

/// Every reference that a row can make, whether it stood before or comes with the same files.
pub(super) struct Keys<'a> {
    /// The plan, with the fields that come with the same files.
    pub plan: Plan,
    new: HashMap<(&'static str, &'a str), i32>,
    next_id: i32,
    /// The identity of the one record that is asked for; 0 where it is new, or where rows know theirs by their keys.
    subject: i32,
    /// What is logged on tasks, and inside them, once the files are in; `None` for what is logged now.
    pub logs: Option<HashMap<TaskId, i64>>,
}

impl<'a> Keys<'a> {
    pub fn of(plan: &Plan) -> Self {
        Self { plan: plan.clone(), new: HashMap::new(), next_id: plan.next_id(), subject: 0, logs: None }
    }

    /// An identity that was never used.
    pub fn take_id(&mut self) -> i32 {
        self.next_id += 1;
        self.next_id - 1
    }

    /// Gives an identity to every key that is new, so that rows may refer to each other in any order.
    pub fn hand_out(&mut self, data: &'a Dataset) {
        let people = data.people.iter().map(|line| ("person", line.row.email.as_str()));
        let teams = data.teams.iter().map(|line| ("team", line.row.code.as_str()));
        let projects = data.projects.iter().map(|line| ("project", line.row.code.as_str()));
        let tasks = data.tasks.iter().map(|line| ("task", line.row.reference.as_str()));
        for (kind, key) in people.chain(teams).chain(projects).chain(tasks).filter(|(_, key)| !key.is_empty()) {
            if self.get(kind, key).is_none() {
                let id = self.take_id();
                self.new.insert((kind, key), id);
            }
        }
    }

    pub fn get(&self, kind: &'static str, key: &str) -> Option<i32> {
        self.new.get(&(kind, key)).copied().or_else(|| self.plan.find(kind, key))
    }

    /// What is typed as remaining, and what was logged then. As long as a row says what stands already, nothing was typed anew.
    fn remaining(&self, id: TaskId, typed: Option<i64>) -> (Option<i64>, i64) {
        let Some(minutes) = typed else { return (None, 0) };
        let logged = match &self.logs {
            Some(logs) => logs.get(&id).copied().unwrap_or(0),
            None => logged_in(&self.plan, id),
        };
        let standing = self.plan.tasks.get(&id).filter(|task| remaining_beside(task, logged) == typed);
        standing.map_or((Some(minutes), logged), |task| (task.remaining, task.logged_then))
    }

    /// The identity of a key that must be there.
    pub fn known(&self, kind: &'static str, key: &str, column: &'static str) -> Result<i32, Wrong> {
        self.get(kind, key).ok_or_else(|| (column, no_such(kind, key)))
    }

    /// The identity of a key that may be left out.
    fn optional(&self, kind: &'static str, key: &str, column: &'static str) -> Result<Option<i32>, Wrong> {
        if key.is_empty() { Ok(None) } else { self.known(kind, key, column).map(Some) }
    }

    fn person(&self, email: &str, column: &'static str) -> Result<PersonId, Wrong> {
        self.known("person", email, column).map(PersonId)
    }

    fn own(&self, of: FieldOf, values: &OwnRow) -> Result<FieldValues, Wrong> {
        let value = |(name, text): &(String, String)| {
            let id = self.plan.find("field", &format!("{of} {name}")).map(FieldId);
            let field = id.and_then(|id| self.plan.fields.get(&id));
            let field = field.ok_or_else(|| ("fields", format!("there is no field “{name}”; fields.csv makes one")))?;
            let value = field.value(text).map_err(|reason| ("fields", format!("{name}: {reason}")))?;
            Ok((field.id, value))
        };
        values.iter().map(value).collect()
    }
}

pub(super) fn no_such(what: &str, key: &str) -> String {
    if key.is_empty() { format!("name a {what}") } else { format!("there is no {what} “{key}”") }
}

/// Holds a record against its own rules. Whether time lies ahead is not asked of files, which may tell of any time.
pub(super) fn lawful(keys: &Keys<'_>, change: &Change) -> Result<(), Wrong> {
    rules::record(&keys.plan, change, Day::MAX - 7).map_err(|Refusal { field, message, .. }| (field, message))
}

pub(super) fn field(row: &FieldRow) -> Field {
    Field { id: FieldId(0), name: row.name.clone(), of: row.of, kind: row.kind, choices: row.choices.clone() }
}

/// The person of a row, with later patterns and rates as they are handed in.
pub(super) fn person(
    keys: &Keys<'_>,
    row: &PersonRow,
    patterns: Vec<DatedPattern>,
    rates: Vec<DatedRate>,
) -> Result<Person, Wrong> {
    let first = DatedPattern { from: None, pattern: row.pattern.clone() };
    let rate = DatedRate { from: None, cost: row.cost_rate, bill: row.bill_rate };
    let rated = rate.cost.is_some() || rate.bill.is_some();
    Ok(Person {
        id: PersonId(keys.get("person", &row.email).unwrap_or(0)),
        email: row.email.clone(),
        name: row.name.clone(),
        role: row.role.clone(),
        kind: row.kind,
        calendar: row.holiday_calendar.clone(),
        patterns: std::iter::once(first).chain(patterns).collect(),
        day_limit: row.day_limit,
        week_limit: row.week_limit,
        max_projects: row.max_projects,
        max_tasks: row.max_tasks,
        max_points: row.max_points,
        skills: row.skills.clone(),
        rates: rated.then_some(rate).into_iter().chain(rates).collect(),
        fields: keys.own(FieldOf::Person, &row.own)?,
    })
}

pub(super) fn team(keys: &Keys<'_>, row: &TeamRow, members: Vec<(PersonId, i32)>) -> Result<Team, Wrong> {
    Ok(Team {
        id: TeamId(keys.get("team", &row.code).unwrap_or(0)),
        code: row.code.clone(),
        name: row.name.clone(),
        parent: keys.optional("team", &row.parent, "parent")?.map(TeamId),
        owner: keys.optional("person", &row.owner, "owner")?.map(PersonId),
        week_capacity: row.week_capacity,
        members,
    })
}

pub(super) fn project(keys: &Keys<'_>, row: &ProjectRow) -> Result<Project, Wrong> {
    Ok(Project {
        id: ProjectId(keys.get("project", &row.code).unwrap_or(0)),
        code: row.code.clone(),
        name: row.name.clone(),
        status: row.status,
        parent: keys.optional("project", &row.parent, "parent")?.map(ProjectId),
        lead: keys.optional("person", &row.lead, "lead")?.map(PersonId),
        team: keys.optional("team", &row.team, "team")?.map(TeamId),
        start: row.start,
        finish: row.finish,
        budget_minutes: row.budget_minutes,
        budget_money: row.budget_money,
        fields: keys.own(FieldOf::Project, &row.own)?,
    })
}

#[allow(clippy::unnecessary_wraps)] // it stands beside the others, which may fail
pub(super) fn holiday(_: &Keys<'_>, row: &HolidayRow) -> Result<Holiday, Wrong> {
    Ok(Holiday {
        id: HolidayId(0),
        calendar: row.calendar.clone(),
        date: row.date,
        name: row.name.clone(),
        fraction: row.fraction,
    })
}

pub(super) fn absence(keys: &Keys<'_>, row: &AbsenceRow) -> Result<Absence, Wrong> {
    Ok(Absence {
        id: AbsenceId(0),
        reference: row.reference.clone(),
        person: keys.person(&row.email, "email")?,
        start: row.start,
        end: row.end,
        kind: row.kind.clone(),
        minutes: row.minutes,
        at: row.at,
    })
}

pub(super) fn task(keys: &Keys<'_>, row: &TaskRow) -> Result<Task, Wrong> {
    let person = |email: &String| keys.person(email, "assignees");
    let assignees = match &row.assignees {
        AssigneesRow::Even(people) => Assignees::Even(people.iter().map(person).collect::<Result<_, _>>()?),
        AssigneesRow::Full(people) => Assignees::Full(people.iter().map(person).collect::<Result<_, _>>()?),
        AssigneesRow::Shares(shares) => Assignees::Shares(
            shares.iter().map(|(email, share)| Ok((person(email)?, *share))).collect::<Result<_, _>>()?,
        ),
    };
    let known = if row.reference.is_empty() { 0 } else { keys.get("task", &row.reference).unwrap_or(0) };
    let (remaining, logged_then) = keys.remaining(TaskId(keys.subject.max(known)), row.remaining);
    Ok(Task {
        id: TaskId(known),
        reference: row.reference.clone(),
        project: ProjectId(keys.known("project", &row.project, "project")?),
        parent: keys.optional("task", &row.parent, "parent")?.map(TaskId),
        title: row.title.clone(),
        kind: row.kind.clone(),
        team: keys.optional("team", &row.team, "team")?.map(TeamId),
        assignees,
        contour: row.contour,
        estimate: row.estimate,
        remaining,
        logged_then,
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
        fields: keys.own(FieldOf::Task, &row.own)?,
    })
}

pub(super) fn link(keys: &Keys<'_>, row: &LinkRow) -> Result<Link, Wrong> {
    let (from, to) = (keys.known("task", &row.from, "from")?, keys.known("task", &row.to, "to")?);
    if from == to {
        return Err(("to", "a task cannot be linked to itself".to_owned()));
    }
    let (from, to) = (TaskId(from), TaskId(to));
    Ok(Link { id: LinkId(0), from, to, kind: row.kind, lag_days: row.lag_days, note: row.note.clone() })
}

pub(super) fn booking(keys: &Keys<'_>, row: &BookingFileRow) -> Result<Booking, Wrong> {
    let who = match (row.email.as_str(), row.team.as_str(), row.role.as_str()) {
        (_, "", "") => Who::Person(keys.person(&row.email, "email")?),
        ("", _, "") => Who::Team(TeamId(keys.known("team", &row.team, "team")?)),
        ("", "", role) => Who::Role(role.to_owned()),
        _ => return Err(("email", "give one of email, team and role, not several".to_owned())),
    };
    Ok(Booking {
        id: BookingId(0),
        reference: row.reference.clone(),
        who,
        project: keys.optional("project", &row.project, "project")?.map(ProjectId),
        start: row.start,
        end: row.end,
        amount: row.amount,
        certainty: row.certainty,
        days_off: row.days_off,
        note: row.note.clone(),
    })
}

pub(super) fn time_entry(keys: &Keys<'_>, row: &TimeRow) -> Result<TimeEntry, Wrong> {
    Ok(TimeEntry {
        id: TimeEntryId(0),
        reference: row.reference.clone(),
        person: keys.person(&row.email, "email")?,
        date: row.date,
        project: keys.optional("project", &row.project, "project")?.map(ProjectId),
        task: keys.optional("task", &row.task, "task")?.map(TaskId),
        minutes: row.minutes,
        billable: row.billable,
        note: row.note.clone(),
    })
}

pub(super) fn milestone(keys: &Keys<'_>, row: &MilestoneRow) -> Result<Milestone, Wrong> {
    let projects = row.projects.iter().map(|code| keys.known("project", code, "projects").map(ProjectId));
    Ok(Milestone {
        id: MilestoneId(0),
        reference: row.reference.clone(),
        name: row.name.clone(),
        date: row.date,
        projects: projects.collect::<Result<_, _>>()?,
    })
}

/// The one record that these rows describe, as a form or a program sends it: a person with all patterns and rates, a team with all
/// members, or one row of any other file. It has the identity `id`, or 0 for a new one; a key may be another than before.
///
/// # Errors
/// Every cell that cannot be taken, by its column.
pub fn record(plan: &Plan, data: &Dataset, id: i32) -> Result<Change, Vec<(String, String)>> {
    if !data.problems.is_empty() {
        return Err(data.problems.iter().map(|problem| (problem.column.clone(), problem.reason.clone())).collect());
    }
    let keys = Keys { subject: id, ..Keys::of(plan) };
    let told = |(column, reason): Wrong| vec![(column.to_owned(), reason)];
    let made = one(&keys, data).map_err(told)?.numbered(id);
    lawful(&keys, &made).map_err(told)?;
    Ok(made)
}

fn one(keys: &Keys<'_>, data: &Dataset) -> Result<Change, Wrong> {
    if let Some(line) = data.people.first() {
        let dated = |line: &super::Line<super::PatternRow>| DatedPattern {
            from: Some(line.row.from),
            pattern: line.row.pattern.clone(),
        };
        let rate = |line: &super::Line<super::RateRow>| DatedRate {
            from: Some(line.row.from),
            cost: line.row.cost_rate,
            bill: line.row.bill_rate,
        };
        let mut patterns: Vec<DatedPattern> = data.patterns.iter().map(dated).collect();
        patterns.sort_by_key(|dated| dated.from);
        let mut rates: Vec<DatedRate> = data.rates.iter().map(rate).collect();
        rates.sort_by_key(|rate| rate.from);
        if patterns.windows(2).any(|two| two[0].from == two[1].from) {
            return Err(("patterns", "Two patterns begin on one day.".to_owned()));
        }
        if rates.windows(2).any(|two| two[0].from == two[1].from) {
            return Err(("rates", "Two rates begin on one day.".to_owned()));
        }
        return person(keys, &line.row, patterns, rates).map(|person| Change::Person(Edit::new(person)));
    }
    if let Some(line) = data.teams.first() {
        let member =
            |line: &super::Line<super::MemberRow>| Ok((keys.person(&line.row.email, "members")?, line.row.share));
        let members = data.members.iter().map(member).collect::<Result<_, Wrong>>()?;
        return team(keys, &line.row, members).map(|team| Change::Team(Edit::new(team)));
    }
    let none = ("", "There is nothing to read.".to_owned());
    None.or_else(|| data.fields.first().map(|line| Ok(Change::Field(Edit::new(field(&line.row))))))
        .or_else(|| data.projects.first().map(|line| Ok(Change::Project(Edit::new(project(keys, &line.row)?)))))
        .or_else(|| data.holidays.first().map(|line| Ok(Change::Holiday(Edit::new(holiday(keys, &line.row)?)))))
        .or_else(|| data.absences.first().map(|line| Ok(Change::Absence(Edit::new(absence(keys, &line.row)?)))))
        .or_else(|| data.tasks.first().map(|line| Ok(Change::Task(Edit::new(task(keys, &line.row)?)))))
        .or_else(|| data.links.first().map(|line| Ok(Change::Link(Edit::new(link(keys, &line.row)?)))))
        .or_else(|| data.bookings.first().map(|line| Ok(Change::Booking(Edit::new(booking(keys, &line.row)?)))))
        .or_else(|| data.time.first().map(|line| Ok(Change::TimeEntry(Edit::new(time_entry(keys, &line.row)?)))))
        .or_else(|| data.milestones.first().map(|line| Ok(Change::Milestone(Edit::new(milestone(keys, &line.row)?)))))
        .unwrap_or(Err(none))
}
