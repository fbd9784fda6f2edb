//! Every component in every state, for those who build pages. Only in the demo and in development.

use crate::{
    AppState, Error,
    auth::User,
    frame::{Frame, Room},
};
use askama::Template;
use axum::{Router, extract::State, response::Html, routing::get};

pub fn routes() -> Router<AppState> {
    Router::new().route("/styleguide", get(page))
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
}

async fn page(State(state): State<AppState>, user: User) -> Result<Html<String>, Error> {
    if state.options.demo.is_none() && !cfg!(debug_assertions) {
        return Err(Error::NotFound);
    }
    let vessel = |estimate, actual, remaining| {
        let figures =
            snug_core::actuals::Actuals { estimate, actual, remaining, without_estimate: 0, estimated: estimate > 0 };
        crate::hours::Vessel::of(&figures, 60)
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
    };
    Ok(Html(page.render()?))
}
