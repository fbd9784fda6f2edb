//! The room on a phone: one's own strata, and for who plans, who is over.

use crate::{
    Error,
    auth::User,
    drafts::Here,
    fit::{
        address::{
            angle::Angle,
            query::{FitParams, FitQuery},
            view::View,
            zoom::named,
        },
        list::chosen,
        picture::drawn::row_part,
    },
    words,
};
use askama::Template;
use axum::response::Html;
use snug_core::{Plan, load::PersonCells, plan::Entry};
use std::sync::Arc;

struct OverLine {
    name: String,
    says: String,
    href: String,
}

#[derive(Template)]
#[template(path = "fit/strips/pocket.html")]
struct PocketView {
    own: Option<String>,
    own_name: String,
    over: Vec<OverLine>,
    more: usize,
    plans: bool,
}

/// The most people that a phone lists.
const MOST: usize = 30;

pub async fn page(Here(state): Here, user: User, View { plan, query }: View) -> Result<Html<String>, Error> {
    // A phone has room for a few cells.
    let narrow =
        FitParams { span: "3".to_owned(), zoom: "week".to_owned(), angle: String::new(), ..FitParams::default() };
    let own_query = FitQuery { angle: Angle::Person, ..FitQuery::read(&narrow, &plan, state.today()) };
    let me = plan.person_by_email(&user.account.email);
    let own = match me {
        Some(entry) => row_part(&plan, entry.person.id.0, &own_query, false)?,
        None => None,
    };
    let own_name = me.map_or_else(String::new, |entry| entry.person.name.clone());
    let kept = Arc::clone(&state.kept);
    let plans = user.books();
    crate::computed(move || {
        let mut over: Vec<(i64, OverLine)> = if plans {
            let people =
                chosen(&kept, &plan, &FitQuery { alert: Some(snug_core::alerts::Alert::Over), ..query.clone() });
            people.into_iter().filter_map(|entry| over_line(&plan, entry, &query)).collect()
        } else {
            Vec::new()
        };
        over.sort_by_key(|(much, _)| -much);
        let more = over.len().saturating_sub(MOST);
        let over = over.into_iter().take(MOST).map(|(_, line)| line).collect();
        PocketView { own, own_name, over, more, plans }.render()
    })
    .await
}

/// Somebody's worst cell from today on.
fn over_line(plan: &Plan, entry: &Entry, query: &FitQuery) -> Option<(i64, OverLine)> {
    let cells = PersonCells::of(plan, entry, &query.window(), query.zoom, false);
    let to_come = query.buckets.iter().filter(|bucket| bucket.to >= query.today);
    let figures =
        to_come.map(|bucket| (*bucket, cells.cell(*bucket))).map(|(bucket, cell)| (cell.spill.max(cell.peak), bucket));
    let (much, bucket) =
        figures.max_by_key(|(much, bucket)| (*much, std::cmp::Reverse(bucket.from))).filter(|(much, _)| *much > 0)?;
    let line = OverLine {
        name: entry.person.name.clone(),
        says: format!("+{}, {}", words::hours(much), named(query.zoom, bucket, query.order)),
        href: query.selecting(entry.person.id.0, bucket.from).href("/fit"),
    };
    Some((much, line))
}
