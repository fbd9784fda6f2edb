//! The way of a week: handed in, approved, sent back; and what whoever approves looks at.

use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    frame::{Flash, Frame, Room},
    mail::Letter,
    words,
};
use askama::Template;
use axum::{
    Form,
    extract::Query,
    response::{Html, IntoResponse as _, Redirect, Response},
};
use serde::Deserialize;
use snug_core::{
    Command, Day, Eyes, PersonId, Plan, Refusal, RefusalCode, Tag, TeamId,
    change::{Change, Edit},
    hours::{Odd, oddities},
    kinds::{Kind, Record as _, WeekSheet, WeekState},
    settings::DateOrder,
    week::week_sheet,
};
use std::collections::BTreeMap;

/// Where a week stands, in words, and what may be done about it.
pub struct Standing {
    /// `Handed in by Oona Varga`, `Open`.
    pub says: String,
    /// What was said with it.
    pub note: String,
    /// The word of the state; empty for open.
    pub state: &'static str,
    /// The tag of the record; empty where there is none.
    pub seen: String,
    /// What who looks may do about it.
    turns: Vec<Turn>,
}

/// What is done about a week.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Turn {
    HandIn,
    TakeBack,
    Approve,
    SendBack,
}

impl Standing {
    pub fn may_hand_in(&self) -> bool {
        self.turns.contains(&Turn::HandIn)
    }

    pub fn may_take_back(&self) -> bool {
        self.turns.contains(&Turn::TakeBack)
    }

    pub fn may_approve(&self) -> bool {
        self.turns.contains(&Turn::Approve)
    }

    pub fn may_send_back(&self) -> bool {
        self.turns.contains(&Turn::SendBack)
    }
}

/// Where somebody's week stands, as somebody looks at it.
pub fn standing(plan: &Plan, user: &User, person: PersonId, monday: Day) -> Standing {
    let sheet = plan.week_sheet_of(person, monday);
    let state = sheet.map(|sheet| sheet.state);
    let may = |to: Option<WeekState>| {
        let edit = edit(plan, person, monday, to, String::new(), user.actor());
        edit.is_some_and(|edit| user.check(plan, &Command::Edit { changes: vec![Change::WeekSheet(edit)] }).is_ok())
    };
    let by = sheet.map(|sheet| match plan.person_by_email(&sheet.by) {
        Some(entry) => entry.person.name.clone(),
        None => sheet.by.clone(),
    });
    let by = by.filter(|by| !by.is_empty()).map(|by| format!(" by {by}")).unwrap_or_default();
    let is_open = state.is_none_or(|state| state == WeekState::SentBack);
    let is_in = state == Some(WeekState::HandedIn);
    let turns = [
        (Turn::HandIn, is_open && may(Some(WeekState::HandedIn))),
        (Turn::TakeBack, is_in && may(None)),
        (Turn::Approve, is_in && may(Some(WeekState::Approved))),
        (Turn::SendBack, state.is_some_and(WeekState::is_shut) && may(Some(WeekState::SentBack))),
    ];
    Standing {
        says: state.map_or_else(|| "Open".to_owned(), |state| format!("{}{by}", words::capital(state.as_str()))),
        note: sheet.map(|sheet| sheet.note.clone()).unwrap_or_default(),
        state: state.map_or("", WeekState::as_str),
        seen: sheet.map(|sheet| Tag::of(sheet).to_string()).unwrap_or_default(),
        turns: turns.into_iter().filter(|(_, may)| *may).map(|(turn, _)| turn).collect(),
    }
}

/// The edit that brings a week somewhere; to nowhere is open again. `None` where it is open and stays so.
fn edit(
    plan: &Plan,
    person: PersonId,
    week: Day,
    to: Option<WeekState>,
    note: String,
    by: &str,
) -> Option<Edit<WeekSheet>> {
    let before = plan.week_sheet_of(person, week).cloned();
    let blank = || WeekSheet { person, week, ..WeekSheet::blank() };
    let after = to.map(|state| WeekSheet { state, note, by: by.to_owned(), ..before.clone().unwrap_or_else(blank) });
    (before.is_some() || after.is_some()).then_some(Edit { before, after })
}

/// Brings a week to another state.
pub async fn turn(Here(state): Here, user: User, Form(pairs): Form<Pairs>) -> Result<Response, Error> {
    let of = |name: &str| sent(&pairs, name).trim();
    let back = answer::safe_back(of("back")).to_owned();
    let plan = state.keeper.plan();
    let person = of("person").parse().map(PersonId).map_err(|_| Error::NotFound)?;
    let week: Day = of("week").parse().map_err(|_| Error::NotFound)?;
    let (to, said) = match of("to") {
        "open" => (None, "Taken back; the week is open"),
        word => match word.parse().map_err(|_| Error::NotFound)? {
            state @ WeekState::HandedIn => (Some(state), "Week handed in"),
            state @ WeekState::Approved => (Some(state), "Week approved"),
            state @ WeekState::SentBack => (Some(state), "Week sent back"),
        },
    };
    let done = async {
        let edit = edit(&plan, person, week, to, of("note").to_owned(), user.actor()).ok_or(Error::NotFound)?;
        // Somebody was quicker: what they did is said, and nothing is done over it.
        let stood = edit.before.as_ref().map(|sheet| Tag::of(sheet).to_string()).unwrap_or_default();
        if stood != of("seen") {
            let now = standing(&plan, &user, person, week);
            let message = format!("Somebody was quicker; this week now is: {}.", now.says.to_lowercase());
            return Err(Error::from(Refusal::whole(RefusalCode::ChangedMeanwhile, message)));
        }
        answer::carry_out(&state, &user, Command::Edit { changes: vec![Change::WeekSheet(edit)] }).await
    };
    match done.await {
        Ok(outcome) => {
            tell(&state, &plan, person, week, to, of("note"));
            answer::back_to(&user, &back, said.to_owned(), &outcome).await
        }
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            Flash::problem(words::capital(&refusal.message)).leave(&user.session).await?;
            Ok(Redirect::to(&back).into_response())
        }
        Err(error) => Err(error),
    }
}

/// Whoever's week was sent back gets a mail that says why; that it cannot be sent undoes nothing.
fn tell(state: &AppState, plan: &Plan, person: PersonId, week: Day, to: Option<WeekState>, note: &str) {
    let Some(entry) = plan.people.get(&person).filter(|_| to == Some(WeekState::SentBack)) else { return };
    let days = words::range(week, week + 6, plan.settings.date_order);
    let letter = Letter {
        to: entry.person.email.clone(),
        subject: format!("Your week {days} was sent back"),
        body: format!("Your week {days} is open again:\n\n{note}\n\nPut it right and hand it in again.\n"),
    };
    state.mail_later(letter);
}

/// What the page of whoever approves is asked.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    week: String,
    team: String,
    show: String,
}

/// A person's week as whoever approves sees it.
pub struct WeekView {
    name: String,
    href: String,
    person: i32,
    logged: String,
    limit: String,
    standing: Standing,
    odd: Vec<String>,
}

#[derive(Template)]
#[template(path = "hours/approve.html")]
struct ApprovePage {
    frame: Frame,
    range: String,
    week: String,
    earlier: String,
    later: String,
    team: String,
    teams: Vec<(String, String)>,
    shows: Vec<(&'static str, String, bool)>,
    groups: Vec<(String, Vec<WeekView>)>,
    left_out: usize,
    missing: usize,
    approves: bool,
}

/// As many people as one looks over on a page; a team or a state finds the others.
const MOST: usize = 60;

/// What the page lists: word and label.
const SHOWS: [(&str, &str); 5] = [
    ("", "All"),
    ("handed in", "To approve"),
    ("missing", "Not handed in"),
    ("approved", "Approved"),
    ("sent back", "Sent back"),
];

fn monday_of(text: &str, today: Day) -> Day {
    // The week before is the one that there is to approve.
    text.parse().unwrap_or(today - 7).clamp(Day::MIN + 14, Day::MAX - 400).monday()
}

/// The people of each team whose hours are seen, each in the first team that has them.
fn by_team(eyes: &Eyes<'_>, team: Option<TeamId>) -> BTreeMap<String, Vec<PersonId>> {
    let plan = eyes.plan;
    let asked = team.map(|team| plan.team_and_inner(team));
    let mut seen = std::collections::HashSet::new();
    let mut found: BTreeMap<String, Vec<PersonId>> = BTreeMap::new();
    for team in plan.records.teams.values().filter(|team| asked.as_ref().is_none_or(|it| it.contains(&team.id))) {
        for (person, _) in team.members.iter().filter(|(person, _)| eyes.knows(*person)) {
            if seen.insert(*person) {
                found.entry(team.name.clone()).or_default().push(*person);
            }
        }
    }
    if asked.is_none() {
        let rest = plan.people.values().map(|entry| &entry.person).filter(|person| eyes.knows(person.id));
        let rest = rest.filter(|person| person.kind == snug_core::kinds::PersonKind::Person);
        let rest: Vec<PersonId> = rest.map(|person| person.id).filter(|id| seen.insert(*id)).collect();
        if !rest.is_empty() {
            found.insert("No team".to_owned(), rest);
        }
    }
    found
}

fn is_shown(plan: &Plan, person: PersonId, monday: Day, show: &str) -> bool {
    let state = plan.week_sheet_of(person, monday).map(|sheet| sheet.state.as_str());
    match show {
        "" => true,
        "missing" => is_missing(plan, person, monday),
        show => state == Some(show),
    }
}

/// Neither handed in nor approved.
fn is_missing(plan: &Plan, person: PersonId, monday: Day) -> bool {
    plan.week_sheet_of(person, monday).is_none_or(|sheet| !sheet.state.is_shut())
}

/// The page of whoever approves: by team, what is missing, what is odd.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let today = state.today();
    let frame = Frame::of(&state, &user, Room::Hours).await?;
    crate::computed(move || made(&plan, &user, frame, &asked, today).render()).await
}

fn made(plan: &Plan, user: &User, frame: Frame, asked: &Asked, today: Day) -> ApprovePage {
    let eyes = user.eyes(plan);
    let monday = monday_of(&asked.week, today);
    let team = plan.find(Kind::Team, &asked.team).map(TeamId);
    let people = by_team(&eyes, team);
    let missing = people.values().flatten().filter(|id| is_missing(plan, **id, monday)).count();
    let (mut left, mut left_out) = (MOST, 0);
    let mut groups = Vec::new();
    for (name, people) in people {
        let shown: Vec<PersonId> = people.into_iter().filter(|id| is_shown(plan, *id, monday, &asked.show)).collect();
        let here = shown.len().min(left);
        (left, left_out) = (left - here, left_out + shown.len() - here);
        let views: Vec<WeekView> = shown[..here].iter().filter_map(|id| view(plan, user, *id, monday, today)).collect();
        if !views.is_empty() {
            groups.push((name, views));
        }
    }
    let address = |week: Day, show: &str| {
        let week = week.to_string();
        words::address("/hours/approve", [("week", week.as_str()), ("team", &asked.team), ("show", show)])
    };
    let mut teams: Vec<(String, String)> =
        plan.records.teams.values().map(|team| (team.code.clone(), team.name.clone())).collect();
    teams.sort_by_key(|(_, name)| name.to_lowercase());
    ApprovePage {
        range: words::range(monday, monday + 6, plan.settings.date_order),
        week: monday.to_string(),
        earlier: address(monday - 7, &asked.show),
        later: address(monday + 7, &asked.show),
        team: asked.team.clone(),
        teams,
        shows: SHOWS.map(|(word, label)| (label, address(monday, word), word == asked.show)).to_vec(),
        groups,
        left_out,
        missing,
        approves: user.books(),
        frame,
    }
}

fn view(plan: &Plan, user: &User, person: PersonId, monday: Day, today: Day) -> Option<WeekView> {
    let sheet = week_sheet(plan, person, monday, today)?;
    let week = monday.to_string();
    let order = plan.settings.date_order;
    Some(WeekView {
        name: plan.people.get(&person)?.person.name.clone(),
        href: words::address("/hours", [("person", person.to_string().as_str()), ("week", &week)]),
        person: person.0,
        logged: words::hours(sheet.logged().iter().sum()),
        limit: words::hours(sheet.limits.iter().sum()),
        standing: standing(plan, user, person, monday),
        odd: says_all(plan, &oddities(&sheet, today), order),
    })
}

/// What is odd about a week, a sentence each; days on which nothing was logged are one sentence together.
pub fn says_all(plan: &Plan, odd: &[Odd], order: DateOrder) -> Vec<String> {
    let missing = |odd: &Odd| matches!(odd, Odd::Missing(_));
    let mut found: Vec<String> = odd.iter().filter(|it| !missing(it)).map(|it| says_odd(plan, it, order)).collect();
    let days: Vec<String> = odd.iter().filter(|it| missing(it)).map(|it| says_odd(plan, it, order)).collect();
    if !days.is_empty() {
        found.push(format!("Nothing logged: {}", days.join(", ")));
    }
    found
}

/// `Wed 11 March: 1.5 h over the limit`; of a day on which nothing was logged, the day.
fn says_odd(plan: &Plan, odd: &Odd, order: DateOrder) -> String {
    let day = |day: &Day| words::weekday(*day, order);
    match odd {
        Odd::Over(at, minutes) => format!("{}: {} over the limit", day(at), words::hours(*minutes)),
        Odd::OnDayOff(at, minutes) => format!("{}: {} on a day off", day(at), words::hours(*minutes)),
        Odd::Missing(at) => words::day_short(*at, order),
        Odd::Unplanned((project, task), minutes) => {
            let task = task.and_then(|id| plan.tasks.get(&id)).map(|task| task.title.clone());
            let project = project.and_then(|id| plan.records.projects.get(&id)).map(|project| project.name.clone());
            let what = task.or(project).unwrap_or_else(|| "No project".to_owned());
            format!("{what}: {} that nobody planned", words::hours(*minutes))
        }
    }
}

/// Reminds by mail everybody whose week is not handed in, of those whom the page of this address shows.
pub async fn remind(Here(state): Here, user: User, Form(asked): Form<Asked>) -> Result<Response, Error> {
    user.at_least(snug_core::Role::Lead)?;
    let plan = state.keeper.plan();
    let monday = monday_of(&asked.week, state.today());
    let team = plan.find(Kind::Team, &asked.team).map(TeamId);
    let people = by_team(&user.eyes(&plan), team);
    let days = words::range(monday, monday + 6, plan.settings.date_order);
    let late = people.values().flatten().filter(|id| is_missing(&plan, **id, monday));
    let late: Vec<_> = late.filter_map(|id| plan.people.get(id)).take(MOST).collect();
    for entry in &late {
        state.mail_later(Letter {
            to: entry.person.email.clone(),
            subject: format!("Your week {days} is not handed in yet"),
            body: format!(
                "{} asks you to look over your hours of {days} and to hand them in.\n\nYou find the week in the room Hours.\n",
                user.account.name
            ),
        });
    }
    let message = format!("{} reminded by mail", words::count(late.len(), "person", "people"));
    Flash::plain(message).leave(&user.session).await?;
    let back = words::address("/hours/approve", [("week", monday.to_string().as_str()), ("team", &asked.team)]);
    Ok(Redirect::to(&back).into_response())
}
