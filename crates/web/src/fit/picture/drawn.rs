//! Lines of the list as they are drawn and sent.

use super::{
    alike::{Common, share},
    group::{self, HeadView, SeatView},
    palette::Palette,
    person::{self, RowView},
};
use crate::{
    Error,
    fit::{
        address::{angle::group_word, query::FitQuery},
        list::{Line, PAGE},
        names::group_name,
    },
    grid::part_of,
};
use askama::Template;
use snug_core::{Plan, ProjectId, load::Groups};

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
}

/// A part of the list.
#[derive(Template)]
#[template(path = "fit/list/rows.html")]
pub struct RowsPart {
    /// What several of its rows have alike.
    pub common: Vec<Common>,
    pub lines: Vec<Drawn>,
    /// The address of the next part.
    pub more: Option<String>,
    /// All lines of the list.
    pub total: usize,
    pub may_book: bool,
}

#[derive(Template)]
#[template(path = "fit/picture/person.html")]
struct PersonRow<'a> {
    row: &'a RowView,
    may_book: bool,
}

#[derive(Template)]
#[template(path = "fit/picture/seat.html")]
struct SeatRow<'a> {
    seat: &'a SeatView,
    may_book: bool,
}

/// The head of a group.
#[derive(Template)]
#[template(path = "fit/picture/group.html")]
pub struct GroupRow<'a> {
    pub head: &'a HeadView,
}

/// The largest workspace in which heads are summed with the page.
const SUMMED_AT_ONCE: usize = 400;

/// Whether the sums of heads come with the list; in a larger workspace they are fetched when one looks at them.
pub fn sums_at_once(plan: &Plan) -> bool {
    plan.people.len() <= SUMMED_AT_ONCE
}

/// Draws lines.
pub fn draw(
    groups: &Groups<'_>,
    plan: &Plan,
    lines: &[Line<'_>],
    query: &FitQuery,
    palette: &Palette<'_>,
) -> Vec<Drawn> {
    let small = sums_at_once(plan);
    let line = |line: &Line<'_>| match line {
        Line::Row(entry, focus) => {
            Drawn::Row(Box::new(person::row(groups, plan, entry, query, &palette.focused(*focus))))
        }
        Line::Seat(booking) => Drawn::Seat(group::seat(plan, booking, query, palette)),
        Line::Head(head) if small => Drawn::Head(Box::new(group::head(groups, plan, head, query, palette))),
        Line::Head(head) => {
            let group = group_word(plan, &head.key);
            Drawn::Later(LaterView { name: group_name(plan, &head.key), people: head.people.len(), group })
        }
    };
    lines.iter().map(line).collect()
}

/// The part of the list that the address asks for.
pub fn part(
    groups: &Groups<'_>,
    plan: &Plan,
    (lines, total): (&[Line<'_>], usize),
    query: &FitQuery,
    palette: &Palette<'_>,
    may_book: bool,
) -> RowsPart {
    let mut lines = draw(groups, plan, lines, query, palette);
    let rows = lines.iter_mut().filter_map(|line| if let Drawn::Row(row) = line { Some(&mut **row) } else { None });
    let pictures = rows.flat_map(|row| [&mut row.usual, &mut row.off, &mut row.rim]);
    RowsPart { common: share(pictures, query.offset), lines, more: more(query, total), total, may_book }
}

/// The address of the next part of the list.
fn more(query: &FitQuery, total: usize) -> Option<String> {
    part_of(total, query.offset, PAGE).1.map(|next| format!("{}&offset={next}", query.href("/fit")))
}

/// A person's row as it is sent.
pub fn row_part(plan: &Plan, person: i32, query: &FitQuery, may_book: bool) -> Result<Option<String>, Error> {
    let Some(row) = person::row_of(plan, person, query) else { return Ok(None) };
    Ok(Some(PersonRow { row: &row, may_book }.render()?))
}
