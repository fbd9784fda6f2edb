//! The plan as CSV files. What is written reads back as the same plan.

use super::{
    cell::{amount_text, hours_text, pattern_text, percent_text},
    columns::{FILES, OWN, file, file_of},
};
use rust_decimal::Decimal;
use snug_core::{
    PersonId, Plan, ProjectId, TaskId, TeamId,
    change::Change,
    fields::{Field, FieldOf, FieldValues},
    people::{Absence, Holiday, Person},
    work::{Assignees, Booking, Link, Milestone, Project, Task, Team, TimeEntry, Who},
};
use std::path::Path;

type Cells = Vec<String>;

/// Every file of the workspace by name, in a fixed order, rows sorted by key.
#[must_use]
pub fn files_of(plan: &Plan) -> Vec<(&'static str, String)> {
    let keys = Keys { plan };
    FILES.iter().map(|file| (file.name, text(&keys, file.name))).collect()
}

/// One file of the workspace.
#[must_use]
pub fn file_text(plan: &Plan, name: &str) -> String {
    text(&Keys { plan }, name)
}

/// Writes every file of the workspace into a folder, which is made when missing.
pub fn write_folder(plan: &Plan, folder: &Path) -> std::io::Result<()> {
    std::fs::create_dir_all(folder)?;
    files_of(plan).into_iter().try_for_each(|(name, text)| std::fs::write(folder.join(name), text))
}

/// One record as the row of its file: column and value, as forms and programs show it. `None` for kinds that have no file.
#[must_use]
pub fn row_of(plan: &Plan, record: &Change) -> Option<Vec<(String, String)>> {
    let keys = Keys { plan };
    let cells = match record {
        Change::Field(edit) => edit.either().map(field),
        Change::Person(edit) => edit.either().map(|person| keys.people(person)),
        Change::Holiday(edit) => edit.either().map(holiday),
        Change::Absence(edit) => edit.either().map(|absence| keys.absence(absence)),
        Change::Team(edit) => edit.either().map(|team| keys.teams(team)),
        Change::Project(edit) => edit.either().map(|project| keys.projects(project)),
        Change::Task(edit) => edit.either().map(|task| keys.tasks(task)),
        Change::Link(edit) => edit.either().map(|link| keys.link(link)),
        Change::Booking(edit) => edit.either().map(|booking| keys.booking(booking)),
        Change::TimeEntry(edit) => edit.either().map(|entry| keys.time(entry)),
        Change::Milestone(edit) => edit.either().map(|milestone| keys.milestone(milestone)),
        Change::Settings(_) | Change::Text(_) => None,
    }?;
    let (kind, _) = record.subject();
    Some(header(plan, file_of(kind)?.name).into_iter().zip(cells).collect())
}

/// The columns of a file in this workspace: those of every workspace, then its own fields.
#[must_use]
pub fn header(plan: &Plan, name: &str) -> Vec<String> {
    let Some(file) = file(name) else { return Vec::new() };
    let mut header: Vec<String> = file.columns.iter().map(|(name, _)| (*name).to_owned()).collect();
    if let Ok(of) = file.kind.parse::<FieldOf>() {
        header.extend(plan.fields_of(of).iter().map(|field| format!("{OWN}{}", field.name)));
    }
    header
}

fn text(keys: &Keys<'_>, name: &str) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    // Writing into memory cannot fail, and every row has the header's length.
    let _ = writer.write_record(header(keys.plan, name));
    for row in rows(keys, name) {
        let _ = writer.write_record(&row);
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}

fn rows(keys: &Keys<'_>, name: &str) -> Vec<Cells> {
    let plan = keys.plan;
    match name {
        "fields.csv" => {
            let fields = by_key(plan.fields.values(), |it| (it.of, it.name.clone()));
            fields.into_iter().map(|it| field(it)).collect()
        }
        "people.csv" => people_of(plan).into_iter().map(|person| keys.people(person)).collect(),
        "patterns.csv" => {
            let later = |person: &Person| {
                let dated = person.patterns.iter().filter_map(|dated| Some((dated.from?, &dated.pattern)));
                dated
                    .map(|(from, pattern)| vec![person.email.clone(), from.to_string(), pattern_text(pattern)])
                    .collect::<Vec<_>>()
            };
            people_of(plan).into_iter().flat_map(later).collect()
        }
        "rates.csv" => {
            let later = |person: &Person| {
                let dated = person.rates.iter().filter_map(|rate| Some((rate.from?, rate)));
                dated
                    .map(|(from, rate)| {
                        vec![person.email.clone(), from.to_string(), option(rate.cost), option(rate.bill)]
                    })
                    .collect::<Vec<_>>()
            };
            people_of(plan).into_iter().flat_map(later).collect()
        }
        "holidays.csv" => plan.calendars.values().flat_map(|calendar| &calendar.holidays).map(holiday).collect(),
        "absences.csv" => {
            let all = plan.people.values().flat_map(|entry| entry.absences.iter());
            by_key(all, |it| (keys.person(Some(it.person)), it.start, it.id))
                .into_iter()
                .map(|it| keys.absence(it))
                .collect()
        }
        "teams.csv" => by_key(plan.teams.values(), |it| it.code.clone()).into_iter().map(|it| keys.teams(it)).collect(),
        "members.csv" => {
            let rows = by_key(plan.teams.values(), |team| team.code.clone()).into_iter().flat_map(|team| {
                let row = |(person, share): &(PersonId, i32)| {
                    vec![team.code.clone(), keys.person(Some(*person)), percent_text(*share)]
                };
                team.members.iter().map(row).collect::<Vec<_>>()
            });
            rows.collect()
        }
        "projects.csv" => {
            by_key(plan.projects.values(), |it| it.code.clone()).into_iter().map(|it| keys.projects(it)).collect()
        }
        "tasks.csv" => plan.tasks.values().map(|task| keys.tasks(task)).collect(),
        "links.csv" => plan.links.values().map(|link| keys.link(link)).collect(),
        "bookings.csv" => by_key(plan.bookings(), |it| it.id).iter().map(|it| keys.booking(it)).collect(),
        "time.csv" => plan.time_entries.values().map(|entry| keys.time(entry)).collect(),
        _ => by_key(plan.milestones.values(), |it| it.id).into_iter().map(|it| keys.milestone(it)).collect(),
    }
}

fn people_of(plan: &Plan) -> Vec<&Person> {
    by_key(plan.people.values().map(|entry| &*entry.person), |person| person.email.clone())
}

fn by_key<T, K: Ord>(items: impl Iterator<Item = T>, key: impl Fn(&T) -> K) -> Vec<T> {
    let mut items: Vec<T> = items.collect();
    items.sort_by_key(key);
    items
}

fn option<T: ToString>(value: Option<T>) -> String {
    value.map(|value| value.to_string()).unwrap_or_default()
}

fn hours(minutes: Option<impl Into<i64>>) -> String {
    minutes.map(|minutes| hours_text(minutes.into())).unwrap_or_default()
}

fn yes(value: bool) -> String {
    if value { "yes".to_owned() } else { String::new() }
}

fn field(field: &Field) -> Cells {
    vec![field.of.to_string(), field.name.clone(), field.kind.to_string(), field.choices.join(";")]
}

fn holiday(holiday: &Holiday) -> Cells {
    let fraction = Decimal::new(i64::from(holiday.fraction), 6).normalize().to_string();
    vec![holiday.calendar.clone(), holiday.date.to_string(), holiday.name.clone(), fraction]
}

/// From identities to the keys that files use.
struct Keys<'a> {
    plan: &'a Plan,
}

impl Keys<'_> {
    fn person(&self, id: Option<PersonId>) -> String {
        id.and_then(|id| self.plan.people.get(&id)).map(|entry| entry.person.email.clone()).unwrap_or_default()
    }
    fn team(&self, id: Option<TeamId>) -> String {
        id.and_then(|id| self.plan.teams.get(&id)).map(|team| team.code.clone()).unwrap_or_default()
    }
    fn project(&self, id: Option<ProjectId>) -> String {
        id.and_then(|id| self.plan.projects.get(&id)).map(|project| project.code.clone()).unwrap_or_default()
    }
    fn task(&self, id: Option<TaskId>) -> String {
        id.and_then(|id| self.plan.tasks.get(&id)).map(|task| task.reference.clone()).unwrap_or_default()
    }

    fn own(&self, of: FieldOf, values: &FieldValues) -> impl Iterator<Item = String> {
        let fields = self.plan.fields_of(of);
        fields
            .into_iter()
            .map(|field| values.get(&field.id).cloned().unwrap_or_default())
            .collect::<Vec<_>>()
            .into_iter()
    }

    fn people(&self, person: &Person) -> Cells {
        let rate = person.rates.iter().find(|rate| rate.from.is_none());
        let mut cells = vec![
            person.email.clone(),
            person.name.clone(),
            person.role.clone(),
            person.kind.to_string(),
            person.calendar.clone(),
            person.patterns.first().map(|dated| pattern_text(&dated.pattern)).unwrap_or_default(),
            hours(person.day_limit),
            hours(person.week_limit),
            option(person.max_projects),
            option(person.max_tasks),
            option(person.max_points),
            person.skills.join(";"),
            option(rate.and_then(|rate| rate.cost)),
            option(rate.and_then(|rate| rate.bill)),
        ];
        cells.extend(self.own(FieldOf::Person, &person.fields));
        cells
    }

    fn absence(&self, absence: &Absence) -> Cells {
        vec![
            absence.reference.clone(),
            self.person(Some(absence.person)),
            absence.start.to_string(),
            absence.end.to_string(),
            absence.kind.clone(),
            hours(absence.minutes),
        ]
    }

    fn teams(&self, team: &Team) -> Cells {
        vec![
            team.code.clone(),
            team.name.clone(),
            self.team(team.parent),
            self.person(team.owner),
            hours(team.week_capacity),
        ]
    }

    fn projects(&self, project: &Project) -> Cells {
        let mut cells = vec![
            project.code.clone(),
            project.name.clone(),
            project.status.to_string(),
            self.project(project.parent),
            self.person(project.lead),
            self.team(project.team),
            option(project.start),
            option(project.finish),
            hours(project.budget_minutes),
            option(project.budget_money),
        ];
        cells.extend(self.own(FieldOf::Project, &project.fields));
        cells
    }

    fn tasks(&self, task: &Task) -> Cells {
        let person = |id: &PersonId| self.person(Some(*id));
        let assignees: Vec<String> = match &task.assignees {
            Assignees::Even(people) => people.iter().map(person).collect(),
            Assignees::Full(people) => people.iter().map(|id| format!("{}=full", person(id))).collect(),
            Assignees::Shares(shares) => {
                shares.iter().map(|(id, share)| format!("{}={}", person(id), percent_text(*share))).collect()
            }
        };
        let mut cells = vec![
            task.reference.clone(),
            self.project(Some(task.project)),
            self.task(task.parent),
            task.title.clone(),
            task.kind.clone(),
            self.team(task.team),
            assignees.join(";"),
            task.contour.to_string(),
            hours(task.estimate),
            hours(task.remaining),
            option(task.points),
            option(task.start),
            option(task.finish),
            option(task.due),
            task.priority.to_string(),
            task.stage.clone(),
            option(task.progress),
            task.tags.join(";"),
            yes(task.walk_in),
            task.requester.clone(),
            task.sprint.clone(),
            task.release.clone(),
        ];
        cells.extend(self.own(FieldOf::Task, &task.fields));
        cells
    }

    fn link(&self, link: &Link) -> Cells {
        vec![
            self.task(Some(link.from)),
            self.task(Some(link.to)),
            link.kind.to_string(),
            link.lag_days.to_string(),
            link.note.clone(),
        ]
    }

    fn booking(&self, booking: &Booking) -> Cells {
        let (email, team, role) = match &booking.who {
            Who::Person(id) => (self.person(Some(*id)), String::new(), String::new()),
            Who::Team(id) => (String::new(), self.team(Some(*id)), String::new()),
            Who::Role(role) => (String::new(), String::new(), role.clone()),
        };
        vec![
            booking.reference.clone(),
            email,
            team,
            role,
            self.project(booking.project),
            booking.start.to_string(),
            booking.end.to_string(),
            amount_text(booking.amount),
            booking.amount.unit.to_string(),
            booking.certainty.to_string(),
            yes(booking.days_off),
            booking.note.clone(),
        ]
    }

    fn time(&self, entry: &TimeEntry) -> Cells {
        vec![
            entry.reference.clone(),
            self.person(Some(entry.person)),
            entry.date.to_string(),
            self.project(entry.project),
            self.task(entry.task),
            hours_text(i64::from(entry.minutes)),
            yes(entry.billable),
            entry.note.clone(),
        ]
    }

    fn milestone(&self, milestone: &Milestone) -> Cells {
        let projects: Vec<String> = milestone.projects.iter().map(|id| self.project(Some(*id))).collect();
        vec![milestone.reference.clone(), milestone.name.clone(), milestone.date.to_string(), projects.join(";")]
    }
}
