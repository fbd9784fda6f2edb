//! By how much estimates are wrong: what finished work took against what was thought, by kind, team and person.

use crate::{
    Error,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{extract::Query, response::Html};
use serde::Deserialize;
use snug_core::{
    Eyes,
    hours::bias::{Bias, Key, Of, Ratio, table},
};

/// By what.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    by: String,
}

struct Row {
    name: String,
    says: String,
    /// Tasks, estimate, actual, ratio, the three quartiles.
    figures: [String; 7],
    /// Where the middle half begins, how wide it is, where the whole stands, and where 1 does, in percent of the width.
    box_from: f64,
    box_width: f64,
    at: f64,
    one: f64,
    hint: Option<String>,
}

#[derive(Template)]
#[template(path = "hours/bias.html")]
struct BiasPage {
    frame: Frame,
    by: &'static str,
    tabs: Vec<(&'static str, String)>,
    rows: Vec<Row>,
}

/// What a row is called; `None` where it is not for these eyes.
fn named(eyes: &Eyes<'_>, key: &Key) -> Option<String> {
    let plan = eyes.plan;
    Some(match key {
        Key::Kind(word) if word.is_empty() => "No kind".to_owned(),
        Key::Kind(word) => word.clone(),
        Key::Team(id) => {
            id.and_then(|id| plan.records.teams.get(&id)).map_or_else(|| "No team".to_owned(), |team| team.name.clone())
        }
        Key::Person(Some(id)) if !eyes.knows(*id) => return None,
        Key::Person(id) => {
            id.and_then(|id| plan.people.get(&id)).map_or_else(|| "Nobody".to_owned(), |it| it.person.name.clone())
        }
    })
}

#[allow(clippy::cast_precision_loss)] // ratios as shares of a width
fn row(name: String, bias: &Bias) -> Row {
    // Twice as long as thought is the middle of the width; what took over four times stands at its end.
    let place = |ratio: Ratio| (ratio.0 as f64 / ratio.1 as f64 * 25.0).min(100.0);
    let round = |value: f64| (value * 10.0).round() / 10.0;
    let quartiles = [1, 2, 3].map(|fourths| bias.quartile(fourths));
    let [low, middle, high] = quartiles.map(|ratio| ratio.text(2));
    let (from, to) = (place(quartiles[0]), place(quartiles[2]));
    let ratio = bias.ratio().text(2);
    Row {
        says: format!("{name}: {ratio} times what was thought, the middle half {low} to {high}"),
        figures: [
            bias.tasks().to_string(),
            words::hours(bias.estimate()),
            words::hours(bias.actual()),
            ratio,
            low,
            middle,
            high,
        ],
        box_from: round(from),
        box_width: round((to - from).max(0.5)),
        at: round(place(bias.ratio())),
        one: 25.0,
        hint: bias.says(),
        name,
    }
}

/// The page.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, Room::Hours).await?;
    crate::computed(move || {
        let of: Of = asked.by.parse().unwrap_or(Of::Kind);
        let eyes = user.eyes(&plan);
        let rows = table(&plan, of);
        let rows = rows.iter().filter_map(|(key, bias)| Some(row(named(&eyes, key)?, bias))).collect();
        let tab = |of: &Of| (of.as_str(), words::address("/hours/bias", [("by", of.as_str())]));
        BiasPage { frame, by: of.as_str(), tabs: Of::ALL.iter().map(tab).collect(), rows }.render()
    })
    .await
}
