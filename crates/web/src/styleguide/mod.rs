//! Every component in every state, for those who build pages. Only in the demo and in development.

mod sample;

use crate::{
    AppState, Error,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
};
use askama::Template;
use axum::{
    Router,
    response::Html,
    routing::{get, post},
};
use snug_core::Day;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/styleguide", get(page))
        .route("/styleguide/rows", get(sample::rows))
        .route("/styleguide/rows/{key}", get(sample::row))
        .route("/styleguide/sheet", get(sample::sheet))
        .route("/styleguide/bars/{deed}", post(sample::act))
}

#[derive(Template)]
#[template(path = "styleguide/styleguide.html")]
struct StyleguidePage {
    frame: Frame,
    colours: [(&'static str, &'static str); 12],
    icons: [&'static str; 8],
    no_problem: Option<&'static str>,
    problem: Option<&'static str>,
    vessels: Vec<(&'static str, crate::hours::Vessel)>,
    sample: sample::Rows,
    weeks: Vec<(Day, String)>,
    from: Day,
    days: i32,
}

/// The styleguide is there in the demo and in development alone.
fn is_shown(state: &AppState) -> Result<(), Error> {
    if state.options.demo.is_none() && !cfg!(debug_assertions) { Err(Error::NotFound) } else { Ok(()) }
}

/// The Monday on which the sample's window begins.
fn first_day() -> Day {
    "2026-03-02".parse().unwrap_or(Day::MIN)
}

async fn page(Here(state): Here, user: User) -> Result<Html<String>, Error> {
    is_shown(&state)?;
    let vessel = |estimate: i64, actual, remaining| {
        crate::hours::Vessel::filled((estimate > 0).then_some(estimate), actual, remaining, 60)
    };
    let page = StyleguidePage {
        frame: Frame::of(&state, &user, Room::None).await?,
        colours: [
            ("paper", "the ground"),
            ("panel", "what stands on it"),
            ("line", "hairlines"),
            ("line-strong", "edges of inputs"),
            ("ink", "words and rims"),
            ("soft", "words that step back"),
            ("brand", "what can be done"),
            ("wash", "its ground"),
            ("spill", "over a limit"),
            ("spill-wash", "its ground"),
            ("today", "today"),
            ("off", "days off"),
        ],
        icons: ["search", "plus", "check", "x", "chevron-left", "chevron-right", "download", "triangle-alert"],
        no_problem: None,
        problem: Some("“six” is no number of hours; write it as 7.5"),
        vessels: vec![
            ("as thought", vessel(40, 31, 9)),
            ("over", vessel(24, 29, 4)),
            ("under", vessel(60, 22, 30)),
            ("not begun", vessel(30, 0, 30)),
            ("no estimate", vessel(0, 12, 0)),
        ],
        sample: sample::at_first(),
        weeks: sample::weeks(),
        from: first_day(),
        days: sample::DAYS,
    };
    Ok(Html(page.render()?))
}
