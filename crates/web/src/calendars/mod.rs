//! Calendars in and out: files that are brought in, addresses that are read again and again, and everybody's own under a secret
//! address.

mod fetch;
mod files;
mod reading;
mod refresh;
mod stand_in;

pub use refresh::keep_fresh;

use crate::{
    AppState, Error,
    auth::User,
    doors::{self, Deed, Peer},
    drafts::Here,
    frame::{Flash, Frame, Room},
    mail::Letter,
    words,
};
use askama::Template;
use axum::{
    Form, Router,
    extract::{DefaultBodyLimit, Path, Query, State},
    http::{StatusCode, header},
    response::{Html, IntoResponse as _, Redirect, Response},
    routing::{get, post},
};
use chrono::Utc;
use serde::Deserialize;
use snug_core::{
    Command, Plan, ProjectId, Role,
    calendars::{Purpose, changes},
    kinds::Kind,
};
use snug_exchange::ical;
use snug_store::feeds::{self, Feed};

/// The largest file, in bytes.
const LARGEST: usize = 8 << 20;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/setup/calendars", get(page))
        .route("/setup/calendars/subscribe", post(subscribe))
        .route("/setup/calendars/{feed}/read", post(read_now))
        .route("/setup/calendars/{feed}/leave", post(leave))
        .route("/setup/calendars/file", post(files::bring).layer(DefaultBodyLimit::max(LARGEST)))
        .route("/setup/calendars/file/{upload}", get(files::show).post(files::take_over))
        .route("/setup/calendars/own", post(own_address))
}

/// Calendars that are read without signing in: by their secret, and the demo's stand-ins.
pub fn open_routes() -> Router<AppState> {
    Router::new().route("/calendar/{secret}", get(by_secret)).route("/stand-in/{calendar}", get(stand_in::calendar))
}

struct FeedLine {
    id: i32,
    name: String,
    what: String,
    host: String,
    state: String,
    problem: String,
    may: bool,
}

#[derive(Default)]
struct Typed {
    name: String,
    address: String,
    purpose: String,
    calendar: String,
    person: String,
}

#[derive(Template)]
#[template(path = "calendars/page.html")]
struct CalendarsPage {
    frame: Frame,
    feeds: Vec<FeedLine>,
    preview: Option<files::FilePreview>,
    typed: Typed,
    problem: Option<(&'static str, String)>,
    own: Option<String>,
    may: bool,
    stand_ins: Vec<(String, &'static str)>,
}

impl CalendarsPage {
    fn problem_of(&self, field: &str) -> Option<&str> {
        self.problem.as_ref().filter(|(known, _)| *known == field).map(|(_, reason)| reason.as_str())
    }
}

async fn view(state: &AppState, user: &User) -> Result<CalendarsPage, Error> {
    let plan = state.keeper.plan();
    let zone = state.zone();
    let order = plan.settings.date_order;
    let line = |feed: Feed| FeedLine {
        id: feed.id,
        what: says(&plan, &feed.purpose),
        host: feed
            .address
            .parse::<reqwest::Url>()
            .ok()
            .and_then(|url| url.host_str().map(str::to_owned))
            .unwrap_or_default(),
        state: match feed.read {
            None => "not read yet".to_owned(),
            Some(at) => format!("read {}, {} changes", words::moment(at, zone, order), feed.changes),
        },
        problem: feed.problem,
        may: user.account.role >= Role::Manager || user.account.id == feed.account,
        name: feed.name,
    };
    let stand_ins = match &state.options.demo {
        Some(_) => stand_in::CALENDARS
            .iter()
            .map(|(name, what)| (format!("{}/stand-in/{name}", state.base()), *what))
            .collect(),
        None => Vec::new(),
    };
    Ok(CalendarsPage {
        frame: Frame::of(state, user, Room::Setup).await?,
        feeds: feeds::all(state.keeper.db()).await?.into_iter().map(line).collect(),
        preview: None,
        typed: Typed { person: user.account.email.clone(), ..Typed::default() },
        problem: None,
        own: None,
        may: user.account.role > Role::Viewer,
        stand_ins,
    })
}

/// `holidays of “harbour”`, `meetings of Teo Lindqvist`.
fn says(plan: &Plan, purpose: &Purpose) -> String {
    let name = |id| plan.people.get(id).map_or("somebody who is gone", |entry| entry.person.name.as_str());
    match purpose {
        Purpose::Holidays(calendar) => format!("holidays of “{calendar}”"),
        Purpose::TimeOff(person) => format!("time off of {}", name(person)),
        Purpose::Meetings(person) => format!("meetings of {}", name(person)),
    }
}

async fn page(Here(state): Here, user: User) -> Result<Html<String>, Error> {
    Ok(Html(view(&state, &user).await?.render()?))
}

/// What the forms say.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(default)]
struct Asked {
    name: String,
    address: String,
    purpose: String,
    calendar: String,
    person: String,
}

impl Asked {
    fn purpose(&self, plan: &Plan) -> Result<Purpose, (&'static str, String)> {
        if self.purpose == "holidays" {
            let calendar = self.calendar.trim();
            if calendar.is_empty() || calendar.chars().count() > 60 {
                return Err(("calendar", "Say which holiday calendar it is of, as “harbour”.".to_owned()));
            }
            return Ok(Purpose::Holidays(calendar.to_owned()));
        }
        let person = plan.person_by_email(self.person.trim());
        let person = person.ok_or_else(|| ("person", "Nobody with this address is in the plan.".to_owned()))?;
        Ok(if self.purpose == "time off" {
            Purpose::TimeOff(person.person.id)
        } else {
            Purpose::Meetings(person.person.id)
        })
    }

    fn typed(self) -> Typed {
        Typed {
            name: self.name,
            address: self.address,
            purpose: self.purpose,
            calendar: self.calendar,
            person: self.person,
        }
    }
}

/// Whether somebody may bring such records in: checked on a record of its kind, as the rules check it.
fn check(user: &User, plan: &Plan, purpose: &Purpose) -> Result<(), Error> {
    let today = snug_core::Day::MIN;
    let probe = snug_core::calendars::Occurrence {
        uid: String::new(),
        title: "x".to_owned(),
        when: snug_core::calendars::When::Days(today, today),
    };
    let changes = changes(plan, "probe", purpose, &[probe], (today, today));
    user.check(plan, &Command::ReadCalendar { name: String::new(), changes })
}

async fn subscribe(State(state): State<AppState>, user: User, Form(asked): Form<Asked>) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let name = asked.name.trim();
    let wanted = if name.is_empty() || name.chars().count() > 60 {
        Err(("name", "Give the calendar a name of at most 60 characters.".to_owned()))
    } else {
        fetch::read(&asked.address).map_err(|reason| ("address", reason)).and_then(|_| asked.purpose(&plan))
    };
    let purpose = match wanted {
        Ok(purpose) => purpose,
        Err(problem) => return refused(&state, &user, asked, problem).await,
    };
    check(&user, &plan, &purpose)?;
    let db = state.keeper.db();
    let id = feeds::subscribe(db, user.account.id, name, asked.address.trim(), &purpose).await?;
    let feed = feeds::by_id(db, id).await?.ok_or(Error::NotFound)?;
    let flash = match refresh::read_one(&state, &feed).await {
        None => Flash::plain(format!("“{}” is read every hour from now on", feed.name)),
        Some(problem) => Flash {
            problem: true,
            says: vec![problem],
            ..Flash::plain(format!("“{}” is kept, but could not be read", feed.name))
        },
    };
    flash.leave(&user.session).await?;
    Ok(Redirect::to("/setup/calendars").into_response())
}

async fn refused(
    state: &AppState,
    user: &User,
    asked: Asked,
    problem: (&'static str, String),
) -> Result<Response, Error> {
    let page = CalendarsPage { typed: asked.typed(), problem: Some(problem), ..view(state, user).await? };
    Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response())
}

/// A calendar that somebody may steer: their own, or any where their role allows it.
async fn own_feed(state: &AppState, user: &User, id: i32) -> Result<Feed, Error> {
    let feed = feeds::by_id(state.keeper.db(), id).await?.ok_or(Error::NotFound)?;
    if feed.account == user.account.id { Ok(feed) } else { user.at_least(Role::Manager).map(|()| feed) }
}

async fn read_now(State(state): State<AppState>, user: User, Path(id): Path<i32>) -> Result<Response, Error> {
    let feed = own_feed(&state, &user, id).await?;
    let flash = match refresh::read_one(&state, &feed).await {
        None => Flash::plain(format!("“{}” read", feed.name)),
        Some(problem) => {
            Flash {
                problem: true, says: vec![problem], ..Flash::plain(format!("“{}” could not be read", feed.name))
            }
        }
    };
    flash.leave(&user.session).await?;
    Ok(Redirect::to("/setup/calendars").into_response())
}

async fn leave(State(state): State<AppState>, user: User, Path(id): Path<i32>) -> Result<Response, Error> {
    let feed = own_feed(&state, &user, id).await?;
    feeds::leave(state.keeper.db(), id).await?;
    Flash::plain(format!("“{}” is read no longer; what it brought in stays", feed.name)).leave(&user.session).await?;
    Ok(Redirect::to("/setup/calendars").into_response())
}

/// For whom a secret address is made.
#[derive(Default, Deserialize)]
#[serde(default)]
struct Own {
    person: String,
}

/// Makes the secret address of somebody's calendar, and shows it once: one's own, or for a manager anybody's, who is told.
async fn own_address(
    State(state): State<AppState>,
    user: User,
    peer: Peer,
    Form(own): Form<Own>,
) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let Some(entry) = plan.person_by_email(own.person.trim()) else {
        let asked = Asked { person: own.person, ..Asked::default() };
        return refused(&state, &user, asked, ("own", "Nobody with this address is in the plan.".to_owned())).await;
    };
    let oneself = entry.person.email.eq_ignore_ascii_case(&user.account.email);
    if !oneself {
        user.at_least(Role::Manager)?;
    }
    let secret = feeds::new_key(state.keeper.db(), entry.person.id).await?;
    doors::note(&state, Deed::Calendar, &user.account, &peer, &format!("of {}", entry.person.email)).await?;
    if !oneself {
        state.mail_later(Letter {
            to: entry.person.email.clone(),
            subject: "A new secret address of your calendar".to_owned(),
            body: format!(
                "{} made a new secret address for your calendar of Snug Roster. The one that you may have used is worth nothing now.\n\nMake your own here:\n{}/setup/calendars\n",
                user.account.name,
                state.base(),
            ),
        });
    }
    let address = format!("{}/calendar/{secret}.ics", state.base());
    let page = CalendarsPage { own: Some(format!("{}: {address}", entry.person.name)), ..view(&state, &user).await? };
    Ok(Html(page.render()?).into_response())
}

/// Which calendar is meant by an address with a secret.
#[derive(Default, Deserialize)]
#[serde(default)]
struct Wanted {
    /// The code of a project, with those inside it; one's own calendar where none is said.
    project: String,
}

/// Somebody's bookings, tasks and milestones, or those of a project, for whoever knows the secret.
async fn by_secret(
    State(state): State<AppState>,
    Path(secret): Path<String>,
    Query(wanted): Query<Wanted>,
) -> Result<Response, Error> {
    let secret = secret.strip_suffix(".ics").filter(|text| text.len() == 40).ok_or(Error::NotFound)?;
    let person = feeds::person_of(state.keeper.db(), secret).await?.ok_or(Error::NotFound)?;
    let (plan, from) = (state.keeper.plan(), state.today() - 30);
    let text = crate::worked_out(move || {
        if wanted.project.is_empty() {
            return ical::of_person(&plan, person, from, Utc::now());
        }
        let one = ProjectId(plan.find(Kind::Project, &wanted.project)?);
        let name = plan.records.projects.get(&one)?.name.clone();
        Some(ical::of_projects(&plan, &name, &plan.project_and_inner(one), from, Utc::now()))
    });
    Ok(as_calendar(text.await?.ok_or(Error::NotFound)?))
}

/// An answer that programs for calendars take.
pub fn as_calendar(text: String) -> Response {
    let head =
        [(header::CONTENT_TYPE, "text/calendar; charset=utf-8"), (header::CACHE_CONTROL, "private, max-age=300")];
    (head, text).into_response()
}
