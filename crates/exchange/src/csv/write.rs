//! The plan as CSV files. What is written reads back as the same plan.

use super::cell::{amount_text, hours_text, hundredths, pattern_text};
use rust_decimal::Decimal;
use snug_core::{
    Day, PersonId, Plan, ProjectId, TaskId, TeamId,
    people::Pattern,
    work::{Assignees, Who},
};
use std::path::Path;

/// Every file of the workspace by name, in a fixed order, rows sorted by key.
#[must_use]
pub fn files_of(plan: &Plan) -> Vec<(&'static str, String)> {
    let keys = Keys { plan };
    vec![
        ("people.csv", people(plan)),
        ("patterns.csv", patterns(plan)),
        ("rates.csv", rates(plan)),
        ("holidays.csv", holidays(plan)),
        ("absences.csv", absences(plan)),
        ("teams.csv", teams(&keys)),
        ("members.csv", members(&keys)),
        ("projects.csv", projects(&keys)),
        ("tasks.csv", tasks(&keys)),
        ("links.csv", links(&keys)),
        ("bookings.csv", bookings(&keys)),
        ("time.csv", time(&keys)),
        ("milestones.csv", milestones(&keys)),
    ]
}

/// Writes every file of the workspace into a folder, which is made when missing.
pub fn write_folder(plan: &Plan, folder: &Path) -> std::io::Result<()> {
    std::fs::create_dir_all(folder)?;
    files_of(plan).into_iter().try_for_each(|(name, text)| std::fs::write(folder.join(name), text))
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
    /// A task's reference, or where it has none but is referred to, one made of its identity.
    fn task(&self, id: Option<TaskId>) -> String {
        id.and_then(|id| self.plan.tasks.get(&id)).map(|task| task.reference.clone()).unwrap_or_default()
    }
}

/// A table with a header row; lines end in a bare line feed.
fn sheet<const N: usize>(header: [&str; N], rows: impl IntoIterator<Item = [String; N]>) -> String {
    super::super::table::text(header, rows)
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

fn full_time(pattern: &Pattern) -> String {
    pattern_text(pattern)
}

fn people(plan: &Plan) -> String {
    let header = [
        "email",
        "name",
        "role",
        "kind",
        "holiday_calendar",
        "pattern",
        "day_limit_h",
        "week_limit_h",
        "max_projects",
        "max_tasks",
        "max_points",
        "skills",
        "cost_rate",
        "bill_rate",
    ];
    let rows = by_key(plan.people.values().map(|entry| &*entry.person), |person| person.email.clone());
    sheet(
        header,
        rows.into_iter().map(|person| {
            let rate = person.rates.iter().find(|rate| rate.from.is_none());
            [
                person.email.clone(),
                person.name.clone(),
                person.role.clone(),
                person.kind.to_string(),
                person.calendar.clone(),
                person.patterns.first().map(|dated| full_time(&dated.pattern)).unwrap_or_default(),
                hours(person.day_limit),
                hours(person.week_limit),
                option(person.max_projects),
                option(person.max_tasks),
                option(person.max_points),
                person.skills.join(";"),
                option(rate.and_then(|rate| rate.cost)),
                option(rate.and_then(|rate| rate.bill)),
            ]
        }),
    )
}

fn by_key<T, K: Ord>(items: impl Iterator<Item = T>, key: impl Fn(&T) -> K) -> Vec<T> {
    let mut items: Vec<T> = items.collect();
    items.sort_by_key(key);
    items
}

fn patterns(plan: &Plan) -> String {
    let later = plan.people.values().flat_map(|entry| {
        entry.person.patterns.iter().filter_map(|dated| Some((&entry.person.email, dated.from?, &dated.pattern)))
    });
    let rows = by_key(later, |(email, from, _)| ((*email).clone(), *from));
    sheet(
        ["email", "from", "pattern"],
        rows.into_iter().map(|(email, from, pattern)| [email.clone(), from.to_string(), pattern_text(pattern)]),
    )
}

fn rates(plan: &Plan) -> String {
    let later = plan
        .people
        .values()
        .flat_map(|entry| entry.person.rates.iter().filter_map(|rate| Some((&entry.person.email, rate.from?, rate))));
    let rows = by_key(later, |(email, from, _)| ((*email).clone(), *from));
    sheet(
        ["email", "from", "cost_rate", "bill_rate"],
        rows.into_iter()
            .map(|(email, from, rate)| [email.clone(), from.to_string(), option(rate.cost), option(rate.bill)]),
    )
}

fn holidays(plan: &Plan) -> String {
    let rows = plan.calendars.values().flat_map(|calendar| &calendar.holidays);
    sheet(
        ["calendar", "date", "name", "fraction"],
        rows.map(|holiday| {
            [
                holiday.calendar.clone(),
                holiday.date.to_string(),
                holiday.name.clone(),
                Decimal::new(i64::from(holiday.fraction), 6).normalize().to_string(),
            ]
        }),
    )
}

fn absences(plan: &Plan) -> String {
    let all =
        plan.people.values().flat_map(|entry| entry.absences.iter().map(|absence| (&entry.person.email, absence)));
    let rows = by_key(all, |(email, absence)| ((*email).clone(), absence.start, absence.id));
    sheet(
        ["ref", "email", "start", "end", "kind", "hours_per_day"],
        rows.into_iter().map(|(email, absence)| {
            [
                absence.reference.clone(),
                email.clone(),
                absence.start.to_string(),
                absence.end.to_string(),
                absence.kind.clone(),
                hours(absence.minutes),
            ]
        }),
    )
}

fn teams(keys: &Keys<'_>) -> String {
    let rows = by_key(keys.plan.teams.values(), |team| team.code.clone());
    sheet(
        ["code", "name", "parent", "owner", "week_capacity_h"],
        rows.into_iter().map(|team| {
            [
                team.code.clone(),
                team.name.clone(),
                keys.team(team.parent),
                keys.person(team.owner),
                hours(team.week_capacity),
            ]
        }),
    )
}

fn members(keys: &Keys<'_>) -> String {
    let rows = by_key(keys.plan.teams.values(), |team| team.code.clone());
    let rows = rows.into_iter().flat_map(|team| {
        team.members.iter().map(|(person, share)| [team.code.clone(), keys.person(Some(*person)), hundredths(*share)])
    });
    sheet(["team", "email", "share_percent"], rows)
}

fn projects(keys: &Keys<'_>) -> String {
    let header = ["code", "name", "status", "parent", "lead", "team", "start", "finish", "budget_h", "budget_money"];
    let rows = by_key(keys.plan.projects.values(), |project| project.code.clone());
    sheet(
        header,
        rows.into_iter().map(|project| {
            [
                project.code.clone(),
                project.name.clone(),
                project.status.to_string(),
                keys.project(project.parent),
                keys.person(project.lead),
                keys.team(project.team),
                option(project.start),
                option(project.finish),
                hours(project.budget_minutes),
                option(project.budget_money),
            ]
        }),
    )
}

fn tasks(keys: &Keys<'_>) -> String {
    let header = [
        "ref",
        "project",
        "parent",
        "title",
        "kind",
        "team",
        "assignees",
        "contour",
        "estimate_h",
        "remaining_h",
        "points",
        "start",
        "finish",
        "due",
        "priority",
        "stage",
        "progress",
        "tags",
        "walk_in",
        "requester",
        "sprint",
        "release",
    ];
    sheet(
        header,
        keys.plan.tasks.values().map(|task| {
            let person = |id: &PersonId| keys.person(Some(*id));
            let assignees: Vec<String> = match &task.assignees {
                Assignees::Even(people) => people.iter().map(person).collect(),
                Assignees::Full(people) => people.iter().map(|id| format!("{}=full", person(id))).collect(),
                Assignees::Shares(shares) => {
                    shares.iter().map(|(id, share)| format!("{}={}", person(id), hundredths(*share))).collect()
                }
            };
            let day = |day: Option<Day>| option(day);
            [
                task.reference.clone(),
                keys.project(Some(task.project)),
                keys.task(task.parent),
                task.title.clone(),
                task.kind.clone(),
                keys.team(task.team),
                assignees.join(";"),
                task.contour.to_string(),
                hours(task.estimate),
                hours(task.remaining),
                option(task.points),
                day(task.start),
                day(task.finish),
                day(task.due),
                task.priority.to_string(),
                task.stage.clone(),
                option(task.progress),
                task.tags.join(";"),
                yes(task.walk_in),
                task.requester.clone(),
                task.sprint.clone(),
                task.release.clone(),
            ]
        }),
    )
}

fn links(keys: &Keys<'_>) -> String {
    sheet(
        ["from", "to", "type", "lag_days", "note"],
        keys.plan.links.values().map(|link| {
            [
                keys.task(Some(link.from)),
                keys.task(Some(link.to)),
                link.kind.to_string(),
                link.lag_days.to_string(),
                link.note.clone(),
            ]
        }),
    )
}

fn bookings(keys: &Keys<'_>) -> String {
    let header =
        ["ref", "email", "team", "role", "project", "start", "end", "amount", "unit", "certainty", "days_off", "note"];
    let rows = by_key(keys.plan.bookings(), |booking| booking.id);
    sheet(
        header,
        rows.into_iter().map(|booking| {
            let (email, team, role) = match &booking.who {
                Who::Person(id) => (keys.person(Some(*id)), String::new(), String::new()),
                Who::Team(id) => (String::new(), keys.team(Some(*id)), String::new()),
                Who::Role(role) => (String::new(), String::new(), role.clone()),
            };
            [
                booking.reference,
                email,
                team,
                role,
                keys.project(booking.project),
                booking.start.to_string(),
                booking.end.to_string(),
                amount_text(booking.amount),
                booking.amount.unit.to_string(),
                booking.certainty.to_string(),
                yes(booking.days_off),
                booking.note,
            ]
        }),
    )
}

fn time(keys: &Keys<'_>) -> String {
    sheet(
        ["ref", "email", "date", "project", "task", "hours", "billable", "note"],
        keys.plan.time_entries.values().map(|entry| {
            [
                entry.reference.clone(),
                keys.person(Some(entry.person)),
                entry.date.to_string(),
                keys.project(entry.project),
                keys.task(entry.task),
                hours_text(i64::from(entry.minutes)),
                yes(entry.billable),
                entry.note.clone(),
            ]
        }),
    )
}

fn milestones(keys: &Keys<'_>) -> String {
    let rows = by_key(keys.plan.milestones.values(), |milestone| milestone.id);
    sheet(
        ["ref", "name", "date", "projects"],
        rows.into_iter().map(|milestone| {
            let projects: Vec<String> = milestone.projects.iter().map(|id| keys.project(Some(*id))).collect();
            [milestone.reference.clone(), milestone.name.clone(), milestone.date.to_string(), projects.join(";")]
        }),
    )
}
