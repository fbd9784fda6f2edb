//! What is in view of the Gantt as a picture that stands for itself.

use super::{
    address::Said,
    links::{LinkView, ROW, links},
    outline::{outline, tasks_of},
    picture::{Drawing, PICTURE, RowView},
    query::{GanttQuery, Params},
};
use crate::{
    Error,
    auth::User,
    drafts::Here,
    fit::{HUES, zoom_title},
    words,
};
use askama::Template;
use axum::{
    http::header,
    response::{IntoResponse as _, Response},
};
use std::sync::Arc;

/// The most rows of a picture.
const MOST_ROWS: usize = 300;

/// The height of the head, in pixels.
const HEAD: f64 = 60.0;

#[derive(Template)]
#[template(path = "schedule/export.svg", escape = "html")]
struct Picture {
    title: String,
    height: f64,
    rows: Vec<(f64, RowView)>,
    links: Vec<LinkView>,
    links_height: f64,
    columns: Vec<(String, String)>,
    today: Option<String>,
    days: i32,
    row: f64,
}

/// The picture as SVG.
pub async fn svg(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let query = GanttQuery::read(Params { offset: String::new(), ..params }, &plan, state.today());
    let kept = Arc::clone(&state.kept);
    let name = format!("attachment; filename=\"gantt-{}.svg\"", query.from);
    let made = crate::worked_out(move || {
        let outline = outline(&kept, &plan, &query);
        let range = 0..outline.lines.len().min(MOST_ROWS);
        let lines = &outline.lines[range.clone()];
        let drawing = Drawing::new(&kept, &plan, &query, &tasks_of(lines), user.books());
        let percent =
            |day: snug_core::Day| format!("{:.3}%", 100.0 * f64::from(day.since(query.from)) / f64::from(query.days()));
        let column = |bucket: &snug_core::cells::Bucket| {
            (percent(bucket.from), zoom_title(query.zoom, *bucket, query.buckets.len(), query.order))
        };
        #[allow(clippy::cast_precision_loss)] // rows of a list, as pixels
        let y = |at: usize| HEAD + at as f64 * ROW;
        let rows = lines.iter().filter_map(|line| drawing.row(*line)).enumerate();
        let window = words::range(query.from, query.to(), query.order);
        let inside = (query.from..=query.to()).contains(&query.today);
        Picture {
            title: format!("{}: tasks, {window}", plan.settings.name),
            height: y(range.len()) + 10.0,
            rows: rows.map(|(at, row)| (y(at), row)).collect(),
            links_height: y(range.len()) - HEAD,
            links: if query.shows_network() { links(&drawing.ground, &query, &outline, &range) } else { Vec::new() },
            columns: query.buckets.iter().map(column).collect(),
            today: inside.then(|| percent(query.today)),
            days: query.days(),
            row: PICTURE,
        }
        .render()
    });
    let svg = made.await??;
    let head = [(header::CONTENT_TYPE, "image/svg+xml".to_owned()), (header::CONTENT_DISPOSITION, name)];
    Ok((head, svg).into_response())
}
