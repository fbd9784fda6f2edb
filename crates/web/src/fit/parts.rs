//! The parts of the room that are fetched by themselves: rows, heads, strips, the side sheet.

use crate::{
    Error,
    auth::User,
    drafts::Here,
    fit::{
        address::{angle::group_of, query::FitQuery, view::View},
        list,
        picture::{
            drawn::{self, GroupRow, RowsPart, row_part, sums_at_once},
            group::head,
            palette::Palette,
        },
        sheet::{group, person, ways},
        strips::{
            alerts,
            horizon::{self, HorizonView},
            tray,
        },
    },
    kept::Kept,
};
use askama::Template;
use axum::{
    Form,
    extract::{Path, Query},
    http::StatusCode,
    response::Html,
};
use serde::Deserialize;
use snug_core::{BookingId, Eyes, Plan, cells::Bucket, load::Groups, reshape::minutes_between};
use std::sync::Arc;

#[derive(Template)]
#[template(path = "fit/sheet/takers.html")]
struct TakersPart {
    options: Vec<ways::OptionView>,
    back: String,
}

/// The side sheet, whatever it is of.
pub struct SheetHtml(String);

impl std::fmt::Display for SheetHtml {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.0)
    }
}

/// The part of the list that the address asks for, with how many people and groups stand in the whole of it.
pub fn part_of_list(kept: &Kept, plan: &Plan, query: &FitQuery, may_book: bool) -> (RowsPart, Shown) {
    let groups = Groups::new(plan, query.load());
    let palette = Palette::new(plan, query.colour, query.project);
    let mut part = list::part(kept, plan, query, &groups);
    if sums_at_once(plan) {
        list::with_budgets(kept, plan, query, &mut list::heads_of(&mut part.lines));
    }
    let shown = Shown { people: part.people, heads: part.heads };
    (drawn::part(&groups, plan, (&part.lines, part.total), query, &palette, may_book), shown)
}

/// How many stand in the whole list.
pub struct Shown {
    pub people: usize,
    pub heads: usize,
}

pub async fn rows(Here(state): Here, user: User, View { plan, query }: View) -> Result<Html<String>, Error> {
    crate::computed(move || {
        let query = query.seen_by(&user.eyes(&plan));
        part_of_list(&state.kept, &plan, &query, user.books()).0.render()
    })
    .await
}

pub async fn one_row(user: User, Path(person): Path<i32>, View { plan, query }: View) -> Result<Html<String>, Error> {
    let query = query.seen_by(&user.eyes(&plan));
    row_part(&plan, person, &query, user.books())?.map(Html).ok_or(Error::NotFound)
}

pub async fn one_head(Here(state): Here, _: User, View { plan, query }: View) -> Result<Html<String>, Error> {
    let key = group_of(&plan, &query.group).ok_or(Error::NotFound)?;
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let people = list::chosen(&kept, &plan, &query);
        let groups = Groups::for_one(&plan, query.load());
        let mut found = list::one_head(&plan, &query, &people, &groups, key);
        list::with_budgets(&kept, &plan, &query, &mut [&mut found]);
        let palette = Palette::new(&plan, query.colour, query.project);
        // What was asked for is selected nowhere.
        let shown = FitQuery { group: String::new(), ..query.clone() };
        GroupRow { head: &head(&groups, &plan, &found, &shown, &palette) }.render()
    })
    .await
}

pub async fn strip(Here(state): Here, _: User, View { plan, query }: View) -> Result<Html<String>, Error> {
    crate::computed(move || strip_of(&state.kept, &plan, &query).render()).await
}

/// The horizon strip.
pub fn strip_of(kept: &Kept, plan: &Plan, query: &FitQuery) -> HorizonView {
    let first = horizon::first_day(query, plan);
    horizon::view(plan, query, &horizon::weeks(kept, plan, query, first))
}

pub async fn alert_strip(Here(state): Here, _: User, View { plan, query }: View) -> Result<Html<String>, Error> {
    crate::computed(move || alerts::view(&state.kept, &plan, &query).render()).await
}

pub async fn tray_strip(Here(state): Here, user: User, View { plan, query }: View) -> Result<Html<String>, Error> {
    crate::computed(move || tray::view(&state.kept, &plan, &query, user.books()).render()).await
}

/// The sheet of what is selected: a person's cell, a group's, or an open seat.
pub fn sheet_of(eyes: &Eyes<'_>, query: &FitQuery, may_book: bool) -> askama::Result<Option<SheetHtml>> {
    if let Some(sheet) = person::view(eyes, query, may_book) {
        return sheet.render().map(SheetHtml).map(Some);
    }
    group::view(eyes.plan, query, may_book).map(|sheet| sheet.render().map(SheetHtml)).transpose()
}

pub async fn side_sheet(user: User, View { plan, query }: View) -> Result<Html<String>, Error> {
    let sheet = sheet_of(&user.eyes(&plan), &query, user.books())?.ok_or(Error::NotFound)?;
    Ok(Html(sheet.to_string()))
}

/// Which booking somebody is looked for.
#[derive(Deserialize)]
pub struct OfBooking {
    booking: i32,
}

/// Who else could take a booking in the selected cell; all of an open seat.
pub async fn taker_list(
    user: User,
    View { plan, query }: View,
    Query(of): Query<OfBooking>,
) -> Result<Html<String>, Error> {
    if !user.books() {
        return Err(Error::NotAllowed(crate::auth::TOO_SMALL));
    }
    let booking = plan.booking(BookingId(of.booking)).ok_or(Error::NotFound)?;
    let cell = query.at.and_then(|at| query.buckets.iter().copied().rev().find(|bucket| bucket.from <= at));
    let whole = Bucket { from: booking.start, to: booking.end };
    let bucket = cell.filter(|_| query.person.is_some()).unwrap_or(whole);
    crate::computed(move || {
        let minutes = minutes_between(&plan, &booking, bucket.from, bucket.to);
        let options = ways::hand_overs(&plan, &booking, bucket, minutes, query.zoom, query.today);
        TakersPart { options, back: query.href("/fit") }.render()
    })
    .await
}

/// Where somebody is.
#[derive(Deserialize)]
pub struct Whereabouts {
    /// The row.
    person: i32,
    /// The page, so that it does not hear of itself.
    tab: String,
}

/// Tells the others who looks at which row.
pub async fn presence(Here(state): Here, user: User, Form(here): Form<Whereabouts>) -> Result<StatusCode, Error> {
    let tab: String = here.tab.chars().filter(char::is_ascii_alphanumeric).take(20).collect();
    let text = serde_json::json!({ "person": here.person, "name": user.account.name, "tab": tab }).to_string();
    state.keeper.tell_presence(&text).await?;
    Ok(StatusCode::NO_CONTENT)
}
