//! The table twin: the same figures as the room, as a table that can be read aloud, copied and printed.

use crate::{
    Error,
    auth::User,
    drafts::Here,
    fit::{
        address::{query::FitQuery, view::View, zoom},
        list::{Line, chosen, lines},
        names::group_name,
        picture::figures::{counts, figure},
    },
    frame::{Frame, Room},
    kept::Kept,
    words,
};
use askama::Template;
use axum::response::Html;
use snug_core::{
    Plan,
    cells::Cell,
    load::{Groups, Measure, Row, Table, row_of},
};
use std::sync::Arc;

/// The most lines of a table or a file.
pub const MOST_LINES: usize = 2_000;

/// The figures of the lines that the room shows.
pub struct Twin {
    /// By key, in the order of the room.
    pub table: Table,
    /// The name of each row, and whether it is a group's.
    pub names: Vec<(String, bool)>,
    /// How many lines there are in all.
    pub total: usize,
}

/// Computes the figures of what is in view. Folded groups give their sums only.
pub fn twin(kept: &Kept, plan: &Plan, query: &FitQuery) -> Twin {
    let people = chosen(kept, plan, query);
    let groups = Groups::new(plan, query.load());
    let list = lines(plan, query, &people, &groups);
    let percent = query.measure == Measure::Percent;
    let shown = |cell: &Cell| if percent { cell.percent() } else { Some(*cell) };
    let mut names = Vec::new();
    let mut rows = Vec::new();
    for line in list.iter().take(MOST_LINES) {
        let (name, key, band_cells, head) = match line {
            Line::Head(head) => (group_name(plan, &head.key), head.key.text(plan), groups.row(&head.key), true),
            Line::Row(entry, _) => {
                (entry.person.name.clone(), entry.person.email.clone(), row_of(&groups, entry), false)
            }
            // What has no name stands in its group's sum.
            Line::Seat(_) => continue,
        };
        names.push((name, head));
        rows.push(Row { key, cells: band_cells.iter().map(shown).collect(), band_cells });
    }
    Twin { table: Table { buckets: query.buckets.clone(), rows }, names, total: list.len() }
}

struct CellText {
    load: String,
    rest: String,
    over: bool,
}

struct RowText {
    name: String,
    head: bool,
    cells: Vec<CellText>,
}

#[derive(Template)]
#[template(path = "fit/files/table.html")]
struct TablePage {
    frame: Frame,
    heads: Vec<String>,
    rows: Vec<RowText>,
    says: String,
    cut: Option<String>,
    room: String,
    csv: String,
    xlsx: String,
    svg: String,
}

pub async fn page(Here(state): Here, user: User, View { plan, query }: View) -> Result<Html<String>, Error> {
    let frame = Frame::of(&state, &user, Room::Fit).await?;
    let kept = Arc::clone(&state.kept);
    crate::computed(move || {
        let twin = twin(&kept, &plan, &query);
        let mark = plan.settings.snug_mark;
        let row = |(row, (name, head)): (&Row, &(String, bool))| RowText {
            name: name.clone(),
            head: *head,
            cells: row
                .cells
                .iter()
                .zip(&row.band_cells)
                .map(|(cell, in_minutes)| text(cell.as_ref(), in_minutes, query.measure, mark))
                .collect(),
        };
        let page = TablePage {
            heads: query.buckets.iter().map(|b| zoom::title(query.zoom, *b, 1, query.order)).collect(),
            rows: twin.table.rows.iter().zip(&twin.names).map(row).collect(),
            says: format!("{}, {}", words::capital(&counts(&query)), words::range(query.from, query.to(), query.order)),
            cut: (twin.total > MOST_LINES)
                .then(|| format!("The first {MOST_LINES} of {} lines; a filter brings the others.", twin.total)),
            room: query.href("/fit"),
            csv: for_spreadsheets(&query.href("/fit/export/csv")),
            xlsx: query.href("/fit/export/xlsx"),
            svg: query.href("/fit/export/svg"),
            frame,
        };
        page.render()
    })
    .await
}

/// The address of a file in which no spreadsheet takes anything for a formula.
fn for_spreadsheets(href: &str) -> String {
    let sign = if href.contains('?') { '&' } else { '?' };
    format!("{href}{sign}for=spreadsheet")
}

fn text(cell: Option<&Cell>, in_minutes: &Cell, measure: Measure, mark: i32) -> CellText {
    let Some(cell) = cell else {
        return CellText { load: "–".to_owned(), rest: "no limit to compare with".to_owned(), over: false };
    };
    let over = cell.spill.max(cell.peak);
    let rest = match cell.limit {
        None => String::new(),
        Some(limit) if over > 0 => format!("of {}, +{}", figure(limit, measure), figure(over, measure)),
        Some(_) if in_minutes.band(mark) == Some(snug_core::cells::Band::Away) => "away".to_owned(),
        Some(limit) => format!("of {}, {} left", figure(limit, measure), figure(cell.room, measure)),
    };
    CellText { load: figure(cell.load, measure), rest, over: cell.limit.is_some() && over > 0 }
}
