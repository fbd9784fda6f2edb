//! What is in view as a file: CSV, XLSX, SVG; and one person's bookings as iCalendar.

use crate::{
    Error,
    auth::User,
    doors::{self, Deed, Peer},
    drafts::Here,
    fit::{
        address::{view::View, zoom},
        files::table::twin,
        list::{chosen, lines},
        picture::{
            drawn::{Drawn, draw},
            figures::counts,
            marks::{Mark, marks},
            palette::Palette,
        },
    },
    setup::For,
    words,
};
use askama::Template;
use axum::{
    extract::{Path, Query},
    http::header,
    response::{IntoResponse, Response},
};
use chrono::Utc;
use snug_core::load::Groups;
use snug_exchange::{ical, table as text, xlsx};
use std::sync::Arc;

/// The most lines of a picture.
const MOST_LINES: usize = 200;

/// A line of a picture, and where it stands.
struct Placed {
    y: u32,
    line: Drawn,
}

#[derive(Template)]
#[template(path = "fit/files/export.svg", escape = "html")]
struct Picture {
    title: String,
    height: u32,
    row: u32,
    /// How much narrower than a pixel is wide a day's unit is, so that hatching is not stretched.
    day: String,
    columns: Vec<(String, String)>,
    marks: Vec<Mark>,
    lines: Vec<Placed>,
}

pub async fn file(
    Here(state): Here,
    user: User,
    peer: Peer,
    Path(format): Path<String>,
    Query(wanted): Query<For>,
    View { plan, query }: View,
) -> Result<Response, Error> {
    doors::note(&state, Deed::Export, &user.account, &peer, &format!("Fit as {format}")).await?;
    let kept = Arc::clone(&state.kept);
    let name = format!("fit-{}", query.from);
    let made = crate::worked_out(move || -> Result<(&'static str, &'static str, Vec<u8>), Error> {
        let failed = |error: &dyn std::error::Error| Error::Store(snug_store::Error::Damaged(error.to_string()));
        match format.as_str() {
            "csv" => {
                let csv = text::csv(&twin(&kept, &plan, &query).table, &query.load(), &plan.settings);
                Ok(("csv", "text/csv; charset=utf-8", wanted.fit(csv).into_bytes()))
            }
            "xlsx" => {
                let twin = twin(&kept, &plan, &query);
                let names: Vec<String> = twin.names.into_iter().map(|(name, _)| name).collect();
                let title = format!("{}: {}", plan.settings.name, counts(&query));
                let book =
                    xlsx::load_table(&twin.table, &query.load(), &names, &title).map_err(|error| failed(&error))?;
                Ok(("xlsx", crate::answer::WORKBOOK, book))
            }
            "ics" => {
                let person = query.person_id().ok_or(Error::NotFound)?;
                let text = ical::of_person(&plan, person, query.from, Utc::now()).ok_or(Error::NotFound)?;
                Ok(("ics", "text/calendar; charset=utf-8", text.into_bytes()))
            }
            "svg" => {
                let people = chosen(&kept, &plan, &query);
                let groups = Groups::new(&plan, query.load());
                let palette = Palette::new(&plan, query.colour, query.project);
                let mut list = lines(&plan, &query, &people, &groups);
                list.truncate(MOST_LINES);
                let row = query.height.picture() + 22;
                let drawn = draw(&groups, &plan, &list, &query, &palette);
                let placed = drawn.into_iter().zip(0..).map(|(line, at)| Placed { y: 64 + at * row, line });
                let lines: Vec<Placed> = placed.collect();
                let days = f64::from(query.days());
                let column = |bucket: &snug_core::cells::Bucket| {
                    let x = format!("{:.3}%", 100.0 * f64::from(bucket.from.since(query.from)) / days);
                    (x, zoom::title(query.zoom, *bucket, query.buckets.len(), query.order))
                };
                let picture = Picture {
                    title: format!(
                        "{} · Fit · {} · {}",
                        plan.settings.name,
                        counts(&query),
                        words::range(query.from, query.to(), query.order)
                    ),
                    height: 72 + u32::try_from(lines.len()).unwrap_or(0) * row,
                    row,
                    day: format!("{:.5}", days / 1048.0),
                    columns: query.buckets.iter().map(column).collect(),
                    marks: marks(&plan, &query),
                    lines,
                };
                Ok(("svg", "image/svg+xml", picture.render()?.into_bytes()))
            }
            _ => Err(Error::NotFound),
        }
    });
    let (ending, kind, bytes) = made.await??;
    let disposition = format!("attachment; filename=\"{name}.{ending}\"");
    Ok(([(header::CONTENT_TYPE, kind.to_owned()), (header::CONTENT_DISPOSITION, disposition)], bytes).into_response())
}

/// The hues as a picture outside the application needs them: its own styles do not go along.
pub const HUES: [&str; 14] = [
    "#3d7ea6", "#c98b3b", "#6b8f4e", "#8a6fb0", "#c46a5a", "#4a9a93", "#9a7b5b", "#5b6fa8", "#b0708f", "#7b8a99",
    "#a3a03c", "#3f6f5f", "#c9cdd2", "#7b8a99",
];
