//! Settings: each says what it changes and shows an example with this workspace's own figures.

use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{
    Form,
    http::StatusCode,
    response::{Html, IntoResponse as _, Response},
};
use snug_core::cell::pattern_text;
use snug_core::{
    Command, Refusal, Role,
    settings::{DateOrder, Envelope, Settings},
};

/// One setting.
struct Setting {
    name: &'static str,
    label: &'static str,
    /// What it changes.
    says: &'static str,
    /// What it comes to here.
    example: String,
    value: String,
    /// Value, label, and whether it is chosen; empty where one types.
    choices: Vec<(String, String, bool)>,
    problem: Option<String>,
    theirs: Option<String>,
}

#[derive(Template)]
#[template(path = "setup/settings.html")]
struct SettingsPage {
    frame: Frame,
    settings: Vec<Setting>,
    seen: String,
    problem: Option<String>,
    may_change: bool,
}

/// The page.
pub async fn page(Here(state): Here, user: User) -> Result<Html<String>, Error> {
    let settings = (*state.keeper.plan().settings).clone();
    Ok(Html(view(&state, &user, &settings, &texts(&settings), None, None).await?.render()?))
}

async fn view(
    state: &AppState,
    user: &User,
    seen: &Settings,
    typed: &Pairs,
    refusal: Option<&Refusal>,
    theirs: Option<&Settings>,
) -> Result<SettingsPage, Error> {
    let theirs = theirs.map(texts);
    let list = describe(state, seen).into_iter().map(|(name, label, says, example, choices)| {
        let value = sent(typed, name).to_owned();
        let now = theirs.as_ref().and_then(|list| list.iter().find(|(known, _)| known == name));
        Setting {
            problem: refusal.filter(|refusal| refusal.field == name).map(|refusal| refusal.message.clone()),
            theirs: now.map(|(_, now)| now.clone()).filter(|now| *now != value),
            choices: choices.into_iter().map(|(raw, label)| (raw.clone(), label, raw == value)).collect(),
            name,
            label,
            says,
            example,
            value,
        }
    });
    let settings: Vec<Setting> = list.collect();
    let told = settings.iter().any(|setting| setting.problem.is_some());
    Ok(SettingsPage {
        frame: Frame::of(state, user, Room::Setup).await?,
        settings,
        seen: serde_json::to_string(seen).unwrap_or_default(),
        problem: refusal.filter(|_| !told).map(|refusal| refusal.message.clone()),
        may_change: user.account.role >= Role::Administrator,
    })
}

type Described = (&'static str, &'static str, &'static str, String, Vec<(String, String)>);

/// Every setting: name, label, what it changes, an example, what there is to choose.
fn describe(state: &AppState, settings: &Settings) -> Vec<Described> {
    const DAYS: [&str; 7] = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
    const MONTHS: [&str; 12] = [
        "January",
        "February",
        "March",
        "April",
        "May",
        "June",
        "July",
        "August",
        "September",
        "October",
        "November",
        "December",
    ];
    let today = state.today();
    let day = i64::from(settings.day_minutes);
    let mark = i64::from(settings.snug_mark);
    let now = chrono::Utc::now().with_timezone(&state.zone());
    let numbered = |names: &[&str], from: usize| {
        names.iter().enumerate().map(|(at, name)| ((at + from).to_string(), (*name).to_owned())).collect()
    };
    let envelope = |which: Envelope| match which {
        Envelope::Larger => "the larger of the two",
        Envelope::Bookings => "bookings alone",
        Envelope::Tasks => "tasks alone",
        Envelope::Sum => "one on top of the other",
    };
    let together = match settings.envelope {
        Envelope::Larger => "6 h booked and 4 h of tasks in it make 6 h; 6 h booked and 8 h of tasks make 8 h.",
        Envelope::Bookings => "6 h booked and 8 h of tasks in it make 6 h.",
        Envelope::Tasks => "6 h booked and 4 h of tasks in it make 4 h.",
        Envelope::Sum => "6 h booked and 4 h of tasks in it make 10 h.",
    };
    let order = |order: DateOrder| words::date(today, order);
    let plain = |name, label, says, example| (name, label, says, example, Vec::new());
    vec![
        plain("name", "Name of the workspace", "Stands on the sign-in page and in every title.", String::new()),
        plain(
            "day_minutes",
            "Hours of a working day",
            "What “1d” means where a duration is typed, and a week is five of them.",
            format!("1d 2h is {}, 2w is {}.", words::hours(day + 120), words::hours(day * 10)),
        ),
        plain(
            "log_ahead",
            "Days ahead for logging time",
            "How many days ahead of today time may be logged, as before a holiday.",
            format!("The last day is {}.", words::day(today + settings.log_ahead, settings.date_order)),
        ),
        plain(
            "pattern",
            "Usual week",
            "Over these hours, from Monday, work with no person is spread: open seats, bookings of teams.",
            format!(
                "A week has {} here.",
                words::hours(settings.pattern.0.first().map_or(0, |week| week.iter().map(|m| i64::from(*m)).sum()))
            ),
        ),
        plain(
            "snug_mark",
            "Snug mark, %",
            "From this share of the limit on, a week is snug and no longer open.",
            format!("With {mark} %, a week of 40 h is snug from {} on.", words::hours(40 * 60 * mark / 100)),
        ),
        (
            "envelope",
            "Bookings and tasks of one project",
            "How booked hours and the tasks inside them make one load.",
            together.to_owned(),
            Envelope::ALL.iter().map(|it| (it.to_string(), envelope(*it).to_owned())).collect(),
        ),
        (
            "first_weekday",
            "First day of the week",
            "Where weeks begin in pictures and tables. Week limits always count from Monday.",
            format!("A week begins on {}.", DAYS[settings.first_weekday.min(6)]),
            numbered(&DAYS, 0),
        ),
        (
            "fiscal_start",
            "Fiscal year begins in",
            "Where quarters and fiscal years begin.",
            format!(
                "The first quarter begins in {}.",
                MONTHS[usize::try_from(settings.fiscal_start).unwrap_or(1).clamp(1, 12) - 1]
            ),
            numbered(&MONTHS, 1),
        ),
        (
            "date_order",
            "Dates are written",
            "In pictures, lists and messages. Files always have 2026-03-23.",
            format!("Today is {}.", order(settings.date_order)),
            DateOrder::ALL.iter().map(|it| (it.to_string(), order(*it))).collect(),
        ),
        plain(
            "time_zone",
            "Time zone",
            "Decides which civil day it is for everybody.",
            format!("It is {} there.", now.format("%H:%M")),
        ),
        plain(
            "currency",
            "Currency",
            "The one currency of rates and budgets.",
            format!("A rate reads 48 {} an hour.", settings.currency),
        ),
        plain(
            "levels",
            "Levels of the portfolio",
            "What a project is called by how deep it stands inside others, from the top, with ; between.",
            if settings.levels.is_empty() {
                "With “programme; project”, what stands at the top is a programme.".to_owned()
            } else {
                format!("What stands at the top is a {}.", settings.level(0))
            },
        ),
    ]
}

/// The settings as a form has them.
fn texts(settings: &Settings) -> Pairs {
    let pairs = [
        ("name", settings.name.clone()),
        ("day_minutes", snug_core::cell::hours_text(settings.day_minutes.into())),
        ("log_ahead", settings.log_ahead.to_string()),
        ("pattern", pattern_text(&settings.pattern)),
        ("snug_mark", settings.snug_mark.to_string()),
        ("envelope", settings.envelope.to_string()),
        ("first_weekday", settings.first_weekday.to_string()),
        ("fiscal_start", settings.fiscal_start.to_string()),
        ("date_order", settings.date_order.to_string()),
        ("time_zone", settings.time_zone.clone()),
        ("currency", settings.currency.clone()),
        ("levels", settings.levels.join("; ")),
    ];
    pairs.into_iter().map(|(name, value)| (name.to_owned(), value)).collect()
}

/// Reads the form.
fn read(pairs: &Pairs) -> Result<Settings, Refusal> {
    let of = |name: &str| sent(pairs, name).trim();
    let number =
        |field: &'static str| of(field).parse::<i32>().map_err(|_| Refusal::value(field, "Write a whole number."));
    let hours = snug_core::cell::amount(of("day_minutes"), snug_core::kinds::Unit::PerDay);
    Ok(Settings {
        name: of("name").to_owned(),
        snug_mark: number("snug_mark")?,
        envelope: of("envelope").parse().map_err(|_| Refusal::value("envelope", "Choose one."))?,
        first_weekday: usize::try_from(number("first_weekday")?).unwrap_or(7),
        fiscal_start: u32::try_from(number("fiscal_start")?).unwrap_or(0),
        pattern: snug_core::cell::pattern(of("pattern"))
            .map_err(|reason| Refusal::value("pattern", words::capital(&reason)))?,
        day_minutes: hours.map_err(|reason| Refusal::value("day_minutes", words::capital(&reason)))?.value,
        log_ahead: number("log_ahead")?,
        time_zone: of("time_zone").to_owned(),
        currency: of("currency").to_uppercase(),
        date_order: of("date_order").parse().map_err(|_| Refusal::value("date_order", "Choose one."))?,
        levels: of("levels")
            .split(';')
            .map(|level| level.trim().to_owned())
            .filter(|level| !level.is_empty())
            .collect(),
    })
}

/// Saves the form.
pub async fn save(Here(state): Here, user: User, Form(pairs): Form<Pairs>) -> Result<Response, Error> {
    user.at_least(Role::Administrator)?;
    let seen: Settings = serde_json::from_str(sent(&pairs, "seen"))
        .map_err(|_| Error::BadRequest("The page does not say what it saw.".to_owned()))?;
    let saved = match read(&pairs) {
        Ok(to) => answer::carry_out(&state, &user, Command::ChangeSettings { seen: seen.clone(), to }).await,
        Err(refusal) => Err(Error::from(refusal)),
    };
    match saved {
        Ok(outcome) => answer::back_to(&user, "/setup/settings", "Settings changed".to_owned(), &outcome).await,
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            // Where somebody was quicker, the next save builds on what stands now.
            let now = (*state.keeper.plan().settings).clone();
            let theirs = (now != seen).then_some(&now);
            let page = view(&state, &user, &now, &pairs, Some(&refusal), theirs).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response())
        }
        Err(error) => Err(error),
    }
}
