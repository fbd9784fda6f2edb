//! The week sheet: planned hours stand faint where one types; a day's total stands under its rim.

use super::{
    cycle::{Standing, says_all, standing},
    entries::EntryView,
    timer::{self, TimerView},
};
use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    frame::{Flash, Frame, Room},
    words,
};
use askama::Template;
use axum::{
    Form, Json,
    extract::Query,
    http::HeaderMap,
    response::{Html, IntoResponse as _, Redirect, Response},
};
use serde::Deserialize;
use snug_core::{
    Command, Day, Eyes, PersonId, Plan, ProjectId, TaskId,
    duration::{Bare, parse},
    hours::oddities,
    week::{Line, Subject, WeekSheet, week_sheet},
};

/// Whose week.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    person: String,
    week: String,
}

/// A cell where one types.
pub struct Cell {
    /// `m.project.task.day`, and the same with `s` for what was seen.
    pub key: String,
    /// Logged, as it is typed.
    pub value: String,
    /// The same in minutes.
    pub seen: i64,
    /// Planned, shown faint.
    pub planned: String,
    /// What a screen reader says.
    pub spoken: String,
}

/// A line of the sheet.
pub struct LineView {
    /// `project.task`, as an address has it.
    subject: String,
    /// Whether something planned is not logged yet.
    takes: bool,
    hue: usize,
    project: String,
    task: String,
    task_href: String,
    cells: Vec<Cell>,
    total: String,
}

/// A day's column: its head, and its total under the rim.
pub struct DayView {
    date: String,
    takes: bool,
    name: String,
    is_today: bool,
    total: String,
    limit: String,
    over: bool,
    rim_y: f64,
    fill_y: f64,
    fill_height: f64,
    spill_y: f64,
    spill_height: f64,
}

#[derive(Template)]
#[template(path = "hours/sheet.html")]
pub struct SheetPart {
    /// Whether cells are typed in: who looks may log, and the week is open.
    types: bool,
    lines: Vec<LineView>,
    days: Vec<DayView>,
    total: String,
    limit: String,
    may_log: bool,
    person: i32,
    monday: String,
    standing: Standing,
    odd: Vec<String>,
    entries: Vec<EntryView>,
    here: String,
}

#[derive(Template)]
#[template(path = "hours/page.html")]
struct SheetPage {
    frame: Frame,
    sheet: Option<SheetPart>,
    person: i32,
    name: String,
    people: Vec<(i32, String)>,
    monday: String,
    range: String,
    earlier: String,
    later: String,
    now: String,
    today: String,
    /// Nobody is in the plan.
    is_blank: bool,
    log: Pairs,
    walk_in: Pairs,
    timer: Option<TimerView>,
    is_me: bool,
    projects: Vec<(String, String)>,
    /// Whether the week before was not handed in: its address and its days.
    behind: Option<(String, String)>,
    on: Vec<(String, String)>,
}

impl SheetPage {
    fn typed(&self, name: &str) -> &str {
        sent(&self.log, name)
    }

    fn walked(&self, name: &str) -> &str {
        sent(&self.walk_in, name)
    }
}

/// Who of the plan is signed in.
pub fn oneself(plan: &Plan, user: &User) -> Option<PersonId> {
    plan.person_by_email(&user.account.email).map(|entry| entry.person.id)
}

/// Who is asked about: somebody by number, oneself, or the first person whose hours are seen.
///
/// # Errors
/// Somebody is asked for whose hours are not for these eyes.
pub fn whose(eyes: &Eyes<'_>, user: &User, person: &str) -> Result<Option<PersonId>, Error> {
    let plan = eyes.plan;
    let named = person.parse().ok().map(PersonId).filter(|id| plan.people.contains_key(id));
    if named.is_some_and(|person| !eyes.knows(person)) {
        return Err(Error::NotAllowed(
            "What somebody has logged is seen by them, by leads of their teams and by managers.",
        ));
    }
    Ok(named.or_else(|| oneself(plan, user)).or_else(|| plan.people.keys().find(|id| eyes.knows(**id)).copied()))
}

/// The Monday of the week that is asked for, far enough inside the calendar to have weeks beside it.
fn monday_of(asked: &Asked, today: Day) -> Day {
    asked.week.parse().unwrap_or(today).clamp(Day::MIN + 14, Day::MAX - 400).monday()
}

/// Whether who is signed in may log time for somebody.
pub fn may_log(plan: &Plan, user: &User, person: PersonId) -> bool {
    let (project, task) = (None, None);
    let command = Command::LogDay { person, date: Day::MIN, project, task, seen: 0, minutes: 0 };
    user.check(plan, &command).is_ok()
}

/// The page.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let today = state.today();
    let monday = monday_of(&asked, today);
    let eyes = user.eyes(&plan);
    let person = whose(&eyes, &user, &asked.person)?;
    let sheet = person.and_then(|person| week_sheet(&plan, person, monday, today));
    let to = |week: Day| {
        let person = person.map(|id| id.to_string()).unwrap_or_default();
        words::address("/hours", [("person", person.as_str()), ("week", week.to_string().as_str())])
    };
    let log: Option<Pairs> = user.session.remove("log").await?;
    let walk_in: Option<Pairs> = user.session.remove("walk-in").await?;
    let is_me = person.is_some() && person == oneself(&plan, &user);
    let last = today.monday() - 7;
    let behind = person.filter(|person| is_me && is_behind(&plan, *person, last));
    let open = crate::offers::projects(&plan, crate::offers::is_open);
    let page = SheetPage {
        frame: Frame::of(&state, &user, Room::Hours).await?,
        name: person.and_then(|id| plan.people.get(&id)).map(|e| e.person.name.clone()).unwrap_or_default(),
        on: person.map(|id| subjects(&plan, id)).unwrap_or_default(),
        sheet: sheet.map(|sheet| view(&plan, &user, person.unwrap_or(PersonId(0)), &sheet, today)),
        person: person.map_or(0, |id| id.0),
        people: people(&eyes),
        monday: monday.to_string(),
        range: words::range(monday, monday + 6, plan.settings.date_order),
        earlier: to(monday - 7),
        later: to(monday + 7),
        now: to(today),
        today: today.to_string(),
        is_blank: plan.people.is_empty(),
        log: log.unwrap_or_default(),
        walk_in: walk_in.unwrap_or_default(),
        timer: timer::view(&state, &user, &plan).await?,
        is_me,
        projects: open.into_iter().map(|it| (it.code.clone(), it.name.clone())).collect(),
        behind: behind.map(|_| (to(last), words::range(last, last + 6, plan.settings.date_order))),
    };
    Ok(Html(page.render()?))
}

/// Those whose hours are seen, by name; more than this are found by typing one.
pub fn people(eyes: &Eyes<'_>) -> Vec<(i32, String)> {
    const MOST: usize = 300;
    let listed = eyes.plan.people.values().map(|entry| &entry.person).filter(|one| eyes.knows(one.id));
    let mut people: Vec<(i32, String)> = listed.take(MOST).map(|one| (one.id.0, one.name.clone())).collect();
    people.sort_by_key(|(_, name)| name.to_lowercase());
    people
}

/// Whether somebody has logged time in a week, or had some planned, and has not handed it in.
fn is_behind(plan: &Plan, person: PersonId, monday: Day) -> bool {
    let is_open = plan.week_sheet_of(person, monday).is_none_or(|sheet| !sheet.state.is_shut());
    is_open && week_sheet(plan, person, monday, monday + 7).is_some_and(|sheet| !sheet.lines.is_empty())
}

/// What somebody can log time on: their tasks that are not done, then every project that is not closed.
pub fn subjects(plan: &Plan, person: PersonId) -> Vec<(String, String)> {
    let project_name = |id: ProjectId| plan.records.projects.get(&id).map_or("", |project| project.name.as_str());
    let tasks = plan.people.get(&person).into_iter().flat_map(|entry| entry.tasks.iter());
    let tasks = tasks.filter_map(|id| plan.tasks.get(id)).filter(|task| !task.is_done() && !task.reference.is_empty());
    let mut found: Vec<(String, String)> = tasks
        .map(|task| (task.reference.clone(), format!("{} · {}", project_name(task.project), task.title)))
        .collect();
    found.sort_by_key(|(_, label)| label.to_lowercase());
    let open = crate::offers::projects(plan, crate::offers::is_open);
    found.extend(open.into_iter().map(|it| (it.code.clone(), it.name.clone())));
    found
}

/// The sheet alone, for a page that follows changes.
pub async fn part(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let today = state.today();
    let person = whose(&user.eyes(&plan), &user, &asked.person)?.ok_or(Error::NotFound)?;
    let monday = monday_of(&asked, today);
    let sheet = week_sheet(&plan, person, monday, today).ok_or(Error::NotFound)?;
    Ok(Html(view(&plan, &user, person, &sheet, today).render()?))
}

fn view(plan: &Plan, user: &User, person: PersonId, sheet: &WeekSheet, today: Day) -> SheetPart {
    let order = plan.settings.date_order;
    let day = |at: usize| sheet.monday + i32::try_from(at).unwrap_or(0);
    let line = |line: &Line| {
        let project = line.subject.0.and_then(|id| plan.records.projects.get(&id));
        let task = line.subject.1.and_then(|id| plan.tasks.get(&id));
        let names = (
            project.map_or("No project", |project| project.name.as_str()),
            task.map_or("", |task| task.title.as_str()),
        );
        let cell = |at: usize| {
            let planned = line.planned[at];
            let what = if names.1.is_empty() { names.0.to_owned() } else { format!("{}, {}", names.0, names.1) };
            Cell {
                key: key(line.subject, day(at)),
                value: if line.logged[at] == 0 { String::new() } else { words::clock(line.logged[at]) },
                seen: line.logged[at],
                planned: if planned == 0 { String::new() } else { words::clock(planned) },
                spoken: if planned == 0 {
                    format!("{what}, {}", words::weekday(day(at), order))
                } else {
                    format!("{what}, {}, {} planned", words::weekday(day(at), order), words::hours(planned))
                },
            }
        };
        let takes = (0..7).any(|at| day(at) <= today && line.planned[at] > 0 && line.logged[at] == 0);
        LineView {
            subject: subject_key(line.subject),
            takes,
            hue: line.subject.0.map_or(9, |id| crate::fit::hue(plan, id)),
            project: names.0.to_owned(),
            task: names.1.to_owned(),
            task_href: line.subject.1.map(|id| format!("/tasks/{id}")).unwrap_or_default(),
            cells: (0..7).map(cell).collect(),
            total: words::hours(line.logged.iter().sum()),
        }
    };
    let mut lines: Vec<LineView> = sheet.lines.iter().map(line).collect();
    lines.sort_by_key(|line| (line.project.to_lowercase(), line.task.to_lowercase()));
    let logged = sheet.logged();
    let is_shut = plan.week_sheet_of(person, sheet.monday).is_some_and(|it| it.state.is_shut());
    SheetPart {
        types: !is_shut && may_log(plan, user, person),
        lines,
        days: (0..7)
            .map(|at| {
                let takes = day(at) <= today && sheet.lines.iter().any(|it| it.planned[at] > 0 && it.logged[at] == 0);
                day_view(logged[at], sheet.limits[at], day(at), takes, today, order)
            })
            .collect(),
        total: words::hours(logged.iter().sum()),
        limit: words::hours(sheet.limits.iter().sum()),
        may_log: may_log(plan, user, person),
        person: person.0,
        monday: sheet.monday.to_string(),
        standing: standing(plan, user, person, sheet.monday),
        odd: says_all(plan, &oddities(sheet, today), order),
        entries: entries(plan, person, sheet.monday),
        here: words::address("/hours", [("person", person.to_string().as_str()), ("week", &sheet.monday.to_string())]),
    }
}

/// The entries of a week, day by day.
fn entries(plan: &Plan, person: PersonId, monday: Day) -> Vec<EntryView> {
    let entries = monday.through(monday + 6).flat_map(|day| plan.logged_on(person, day));
    entries.map(|entry| EntryView::of(plan, entry)).collect()
}

/// A day's column in 60 pixels: twelve hours are full height.
#[allow(clippy::cast_precision_loss)] // minutes of a day, as pixels
fn day_view(
    logged: i64,
    limit: i64,
    day: Day,
    takes: bool,
    today: Day,
    order: snug_core::settings::DateOrder,
) -> DayView {
    const FLOOR: f64 = 60.0;
    let height = |minutes: i64| (minutes as f64 / 720.0 * FLOOR).min(FLOOR);
    let inside = logged.min(limit);
    let spill = (logged - limit).max(0);
    // Spill is never drawn thinner than four pixels.
    let spill_height = if spill > 0 { (height(logged) - height(inside)).max(4.0) } else { 0.0 };
    let round = |value: f64| (value * 10.0).round() / 10.0;
    DayView {
        date: day.to_string(),
        takes,
        name: words::weekday(day, order),
        is_today: day == today,
        total: words::clock(logged),
        limit: words::hours(limit),
        over: spill > 0,
        rim_y: round(FLOOR - height(limit)),
        fill_y: round(FLOOR - height(inside)),
        fill_height: round(height(inside)),
        spill_y: round((FLOOR - height(inside) - spill_height).max(0.0)),
        spill_height: round(spill_height),
    }
}

fn subject_key((project, task): Subject) -> String {
    let project = project.map(|id| id.to_string()).unwrap_or_default();
    let task = task.map(|id| id.to_string()).unwrap_or_default();
    format!("{project}.{task}")
}

fn key(subject: Subject, day: Day) -> String {
    format!("{}.{day}", subject_key(subject))
}

/// Reads `project.task`.
pub fn read_subject(key: &str) -> Option<Subject> {
    let (project, task) = key.split_once('.')?;
    let number = |text: &str| if text.is_empty() { Some(None) } else { text.parse::<i32>().ok().map(Some) };
    Some((number(project)?.map(ProjectId), number(task)?.map(TaskId)))
}

/// Reads `project.task.day`.
fn read_key(key: &str) -> Option<(Subject, Day)> {
    let (subject, day) = key.rsplit_once('.')?;
    Some((read_subject(subject)?, day.parse().ok()?))
}

/// Saves the cells that differ from what their author saw: one from a script, or a whole sheet from a plain form.
pub async fn save(
    Here(state): Here,
    user: User,
    headers: HeaderMap,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    let of = |name: &str| sent(&pairs, name).trim();
    let person = of("person").to_owned();
    let back = words::address("/hours", [("person", person.as_str()), ("week", of("week"))]);
    let saved = save_cells(&state, &user, &pairs, person.parse().unwrap_or(0)).await;
    match saved {
        Ok(count) if answer::is_script(&headers) => {
            let message = if count == 0 { "Nothing to change" } else { "Time logged" };
            let steps = answer::steps(&state, &user).await?;
            Ok(Json(serde_json::json!({ "message": message, "says": [], "undo": count > 0, "steps": steps }))
                .into_response())
        }
        Ok(count) => {
            let message = match count {
                0 => "Nothing to change".to_owned(),
                1 => "Time logged".to_owned(),
                count => format!("Time logged in {count} cells"),
            };
            Flash { undo: count == 1, ..Flash::plain(message) }.leave(&user.session).await?;
            Ok(Redirect::to(&back).into_response())
        }
        Err(error) if answer::is_script(&headers) => Ok(answer::refused(error, &user.eyes(&state.keeper.plan()))),
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            Flash::problem(words::capital(&refusal.message)).leave(&user.session).await?;
            Ok(Redirect::to(&back).into_response())
        }
        Err(error) => Err(error),
    }
}

async fn save_cells(state: &AppState, user: &User, pairs: &Pairs, person: i32) -> Result<usize, Error> {
    let mut count = 0;
    for (name, typed) in pairs {
        let Some(((project, task), date)) = name.strip_prefix("m.").and_then(read_key) else { continue };
        let seen_name = format!("s.{}", &name[2..]);
        let seen = pairs.iter().find(|(name, _)| *name == seen_name).and_then(|(_, value)| value.parse().ok());
        let seen: i64 = seen.unwrap_or(0);
        let minutes = if typed.trim().is_empty() {
            0
        } else {
            parse(typed, state.keeper.plan().settings.day_minutes, Bare::Hours)
                .map_err(|reason| snug_core::Refusal::value("minutes", reason))?
        };
        if minutes == seen {
            continue;
        }
        let command = Command::LogDay { person: PersonId(person), date, project, task, seen, minutes };
        answer::carry_out(state, user, command).await?;
        count += 1;
    }
    Ok(count)
}
