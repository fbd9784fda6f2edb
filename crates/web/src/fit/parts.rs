//! The parts of the room that are fetched by themselves: rows, heads, strips, the side sheet.

use super::{
    alerts,
    angle::{group_of, group_word},
    colour::Palette,
    group_sheet::{self, GroupSheetView},
    head::{self, HeadView, SeatView, name_of},
    horizon::{self, HorizonView},
    kept::Kept,
    lines::{self, Line, PAGE, chosen},
    options,
    query::FitQuery,
    row::{self, RowView},
    sheet, tray,
    view::View,
};
use crate::{AppState, Error, auth::User};
use askama::Template;
use axum::{
    Form,
    extract::{Path, Query, State},
    http::StatusCode,
    response::Html,
};
use serde::Deserialize;
use snug_core::{BookingId, Plan, ProjectId, cells::Bucket, load::Groups, reshape::minutes_between};
use std::sync::Arc;

/// A line of the list as it is drawn.
pub enum Drawn {
    Head(Box<HeadView>),
    /// A head whose sum is fetched when it is looked at.
    Later(LaterView),
    Row(Box<RowView>),
    Seat(SeatView),
}

impl Drawn {
    /// The projects that are drawn, for the key.
    pub fn projects(&self) -> Vec<ProjectId> {
        match self {
            Self::Head(head) => head.projects.iter().copied().collect(),
            Self::Row(row) => row.projects.iter().copied().collect(),
            Self::Later(_) | Self::Seat(_) => Vec::new(),
        }
    }
}

/// A head whose sum takes a while.
pub struct LaterView {
    pub group: String,
    pub name: String,
    pub people: usize,
    pub href: String,
}

#[derive(Template)]
#[template(path = "fit/rows.html")]
struct RowsPart {
    lines: Vec<Drawn>,
    more: Option<String>,
    /// All lines of the list.
    total: usize,
    may_book: bool,
}

#[derive(Template)]
#[template(path = "fit/row.html")]
struct RowPart {
    row: RowView,
    may_book: bool,
}

#[derive(Template)]
#[template(path = "fit/head.html")]
struct HeadPart {
    head: HeadView,
}

#[derive(Template)]
#[template(path = "fit/takers.html")]
struct TakersPart {
    options: Vec<options::OptionView>,
    back: String,
}

/// The side sheet, whatever it is of.
pub struct SheetHtml(String);

impl std::fmt::Display for SheetHtml {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.0)
    }
}

/// The largest workspace in which heads are summed with the page.
const SUMMED_AT_ONCE: usize = 400;

/// Draws lines.
pub fn draw(
    groups: &Groups<'_>,
    plan: &Plan,
    lines: &[Line<'_>],
    query: &FitQuery,
    palette: &Palette<'_>,
) -> Vec<Drawn> {
    let small = plan.people.len() <= SUMMED_AT_ONCE;
    let line = |line: &Line<'_>| match line {
        Line::Row(entry, focus) => Drawn::Row(Box::new(row::row(groups, plan, entry, query, &palette.focused(*focus)))),
        Line::Seat(booking) => Drawn::Seat(head::seat(plan, booking, query, palette)),
        Line::Head(group) if small => Drawn::Head(Box::new(head::head(groups, plan, group, query, palette))),
        Line::Head(group) => {
            let word = group_word(plan, &group.key);
            let href = crate::words::address(
                &FitQuery { group: String::new(), ..query.clone() }.href("/fit/head"),
                [("group", word.as_str())],
            );
            Drawn::Later(LaterView { name: name_of(plan, &group.key), people: group.people.len(), href, group: word })
        }
    };
    lines.iter().map(line).collect()
}

/// The address of the next part of the list.
pub fn more(query: &FitQuery, total: usize) -> Option<String> {
    let next = query.offset + PAGE;
    (total > next).then(|| format!("{}&offset={next}", query.href("/fit")))
}

pub async fn rows(
    State(state): State<AppState>,
    user: User,
    View { plan, query }: View,
) -> Result<Html<String>, Error> {
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let people = chosen(&kept, &plan, &query);
        let groups = Groups::new(&plan, query.load());
        let palette = Palette::new(&plan, query.colour, query.project);
        let mut list = lines::lines(&plan, &query, &people, &groups);
        let total = list.len();
        let end = (query.offset + PAGE).min(total);
        let part = &mut list[query.offset.min(end)..end];
        if plan.people.len() <= SUMMED_AT_ONCE {
            lines::with_budgets(&kept, &plan, &query, &mut lines::heads_of(part));
        }
        let lines = draw(&groups, &plan, part, &query, &palette);
        RowsPart { lines, more: more(&query, total), total, may_book: user.books() }.render()
    })
    .await
}

/// A person's row as it is sent.
pub fn row_part(plan: &Plan, person: i32, query: &FitQuery, may_book: bool) -> Result<Option<String>, Error> {
    let Some(row) = row::row_of(plan, person, query) else { return Ok(None) };
    Ok(Some(RowPart { row, may_book }.render()?))
}

pub async fn one_row(user: User, Path(person): Path<i32>, View { plan, query }: View) -> Result<Html<String>, Error> {
    row_part(&plan, person, &query, user.books())?.map(Html).ok_or(Error::NotFound)
}

pub async fn one_head(
    State(state): State<AppState>,
    _: User,
    View { plan, query }: View,
) -> Result<Html<String>, Error> {
    let key = group_of(&plan, &query.group).ok_or(Error::NotFound)?;
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let people = chosen(&kept, &plan, &query);
        let groups = Groups::for_one(&plan, query.load());
        let mut found = lines::one_head(&plan, &query, &people, &groups, key);
        lines::with_budgets(&kept, &plan, &query, &mut [&mut found]);
        let palette = Palette::new(&plan, query.colour, query.project);
        // What was asked for is selected nowhere.
        let shown = FitQuery { group: String::new(), ..query.clone() };
        HeadPart { head: head::head(&groups, &plan, &found, &shown, &palette) }.render()
    })
    .await
}

pub async fn strip(State(state): State<AppState>, _: User, View { plan, query }: View) -> Result<Html<String>, Error> {
    crate::computed(move || strip_of(&state.kept, &plan, &query).render()).await
}

/// The horizon strip.
pub fn strip_of(kept: &Kept, plan: &Plan, query: &FitQuery) -> HorizonView {
    let first = horizon::first_day(query, plan);
    horizon::view(plan, query, &horizon::weeks(kept, plan, query, first))
}

pub async fn alert_strip(
    State(state): State<AppState>,
    _: User,
    View { plan, query }: View,
) -> Result<Html<String>, Error> {
    crate::computed(move || alerts::view(&state.kept, &plan, &query).render()).await
}

pub async fn tray_strip(
    State(state): State<AppState>,
    user: User,
    View { plan, query }: View,
) -> Result<Html<String>, Error> {
    crate::computed(move || tray::view(&state.kept, &plan, &query, user.books()).render()).await
}

/// The sheet of what is selected: a person's cell, a group's, or an open seat.
pub fn sheet_of(plan: &Plan, query: &FitQuery, may_book: bool) -> askama::Result<Option<SheetHtml>> {
    if let Some(sheet) = sheet::view(plan, query, may_book) {
        return sheet.render().map(SheetHtml).map(Some);
    }
    let group: Option<GroupSheetView> = group_sheet::view(plan, query, may_book);
    group.map(|sheet| sheet.render().map(SheetHtml)).transpose()
}

pub async fn side_sheet(user: User, View { plan, query }: View) -> Result<Html<String>, Error> {
    let sheet = sheet_of(&plan, &query, user.books())?.ok_or(Error::NotFound)?;
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
        let options = options::hand_overs(&plan, &booking, bucket, minutes, query.zoom, query.today);
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
pub async fn presence(
    State(state): State<AppState>,
    user: User,
    Form(here): Form<Whereabouts>,
) -> Result<StatusCode, Error> {
    let tab: String = here.tab.chars().filter(char::is_ascii_alphanumeric).take(20).collect();
    let text = serde_json::json!({ "person": here.person, "name": user.account.name, "tab": tab }).to_string();
    state.keeper.tell_presence(&text).await?;
    Ok(StatusCode::NO_CONTENT)
}
