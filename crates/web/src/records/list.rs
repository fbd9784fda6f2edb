//! Lists of records: chosen columns, sort, filter, grouping; a page of rows at a time.

use super::query::ListQuery;
use crate::{
    columns::{Column, SortKey, choices, input_of, shown, sort_key},
    kept::Kept,
    words,
};
use snug_core::{
    Eyes, Plan,
    kinds::{AnyRecord, Held, Input, Kind},
};
use std::collections::HashSet;

/// Rows a page; more come when one scrolls.
pub const PAGE: usize = 60;

/// The most values of a filter.
const MOST_VALUES: usize = 200;

/// What stands for “nothing” in a filter by value.
pub const NOTHING: &str = "(none)";

/// One cell.
pub struct Cell {
    /// The column's name.
    pub column: String,
    /// The value as it is typed.
    pub raw: String,
    /// The value as it is read.
    pub shown: String,
    /// Figures stand at the right.
    pub is_figure: bool,
    /// The record's name, which leads to its page.
    pub is_title: bool,
    /// Where it leads.
    pub href: Option<String>,
    /// Whether it is typed here.
    pub is_typed: bool,
}

/// One row.
pub struct Row {
    /// The record's identity.
    pub id: i32,
    /// What it is called, for whom the boxes before the rows are read out.
    pub name: String,
    /// The tag of this version of it; nothing where it may not be changed.
    pub seen: String,
    /// The cells of the columns shown.
    pub cells: Vec<Cell>,
}

/// A line of a list: the head of a group, or a row.
pub enum Line {
    /// The group's value, the number of its records, and sums of hours.
    Head(String, usize, Vec<String>),
    /// A record.
    Row(Row),
}

/// A column's head.
pub struct Head {
    /// The column.
    pub column: Column,
    /// The address that sorts by it.
    pub href: String,
    /// `ascending`, `descending`, or `none`.
    pub sorted: &'static str,
    /// What an input for its values needs.
    pub input: &'static str,
    /// Values and labels to choose from, as JSON.
    pub choices: String,
}

/// A filter by the values of a column.
pub struct Facet {
    /// The column's name in the address.
    pub name: String,
    /// What it is called.
    pub label: String,
    /// Value, label, and whether it is chosen.
    pub values: Vec<(String, String, bool)>,
}

/// A list, computed.
pub struct List {
    /// How many records there are in all.
    pub in_all: usize,
    /// How many are let in by the filter.
    pub found: usize,
    /// The lines of this page.
    pub lines: Vec<Line>,
    /// The address of the next page.
    pub more: Option<String>,
}

/// A record with what says where it stands in its list.
struct Placed<'a> {
    /// The group's sort key and value; nothing where the list has no groups.
    group: Option<(SortKey, String)>,
    key: SortKey,
    record: Held<'a>,
}

/// Computes the part of a list that is asked for.
pub fn list(eyes: &Eyes<'_>, kind: Kind, columns: &[Column], query: &ListQuery, may_change: bool) -> List {
    let (about, plan) = (kind.about(), eyes.plan);
    let everything = eyes.all(kind);
    let in_all = everything.len();
    let words = query.q.to_lowercase();
    let fits = |record: &Held<'_>| {
        let facet = |(name, value): &(String, String)| {
            let raw = record.cell(eyes, name);
            if value == NOTHING { raw.is_empty() } else { raw == *value }
        };
        let text = || {
            columns.iter().any(|column| {
                let raw = record.cell(eyes, &column.name);
                raw.to_lowercase().contains(&words) || shown(plan, column, &raw).to_lowercase().contains(&words)
            })
        };
        query.facets.iter().all(facet) && (words.is_empty() || text())
    };
    let chosen: Vec<Held<'_>> = everything.into_iter().filter(fits).collect();
    let sort = if query.sort.is_empty() { about.title } else { &query.sort };
    let key_of = |record: &Held<'_>, name: &str| {
        let Some(column) = column(columns, name) else { return SortKey::Nothing };
        let raw = record.cell(eyes, name);
        sort_key(column, &raw, &shown(plan, column, &raw))
    };
    let mut keyed: Vec<Placed<'_>> = chosen
        .into_iter()
        .map(|record| {
            // Two projects of one name are two groups.
            let group =
                (!query.group.is_empty()).then(|| (key_of(&record, &query.group), record.cell(eyes, &query.group)));
            Placed { group, key: key_of(&record, sort), record }
        })
        .collect();
    let order = |a: &Placed<'_>, b: &Placed<'_>| {
        let inner = a.key.partial_cmp(&b.key).unwrap_or(std::cmp::Ordering::Equal);
        // What has no value stands last in either direction.
        let inner = if query.descending && a.key != SortKey::Nothing && b.key != SortKey::Nothing {
            inner.reverse()
        } else {
            inner
        };
        let outer = a.group.partial_cmp(&b.group).unwrap_or(std::cmp::Ordering::Equal);
        outer.then(inner).then_with(|| a.record.number().cmp(&b.record.number()))
    };
    let found = keyed.len();
    // Without groups nobody looks beyond the page that is asked for: the rest need not be in order.
    let last = query.offset.saturating_add(PAGE);
    if query.group.is_empty() && last < found {
        keyed.select_nth_unstable_by(last, order);
        keyed.truncate(last);
    }
    keyed.sort_unstable_by(order);
    let more = (found > query.offset + PAGE).then(|| {
        let offset = (query.offset + PAGE).to_string();
        let path = query.href(kind, &format!("/{}/rows", about.path));
        words::address(&path, [("offset", offset.as_str())])
    });
    List { in_all, found, lines: lines(eyes, kind, columns, query, &keyed, may_change), more }
}

fn column<'a>(columns: &'a [Column], name: &str) -> Option<&'a Column> {
    columns.iter().find(|column| column.name == name)
}

fn lines(
    eyes: &Eyes<'_>,
    kind: Kind,
    columns: &[Column],
    query: &ListQuery,
    chosen: &[Placed<'_>],
    may_change: bool,
) -> Vec<Line> {
    let mut lines = Vec::new();
    for (at, Placed { group, record, .. }) in chosen.iter().enumerate().skip(query.offset).take(PAGE) {
        // A group's head stands above its first row.
        if let Some((_, raw)) = group
            && (at == 0 || chosen[at - 1].group != *group)
        {
            let members = chosen[at..].iter().take_while(|other| other.group == *group);
            let members: Vec<&Held<'_>> = members.map(|other| &other.record).collect();
            let label = match column(columns, &query.group) {
                Some(column) if raw.is_empty() => format!("No {}", column.label.to_lowercase()),
                Some(column) => shown(eyes.plan, column, raw),
                None => raw.clone(),
            };
            lines.push(Line::Head(label, members.len(), sums(eyes, columns, query, &members)));
        }
        lines.push(Line::Row(row(eyes, kind, columns, query, &**record, may_change)));
    }
    lines
}

/// `Estimate 120 h`, for every column of hours that is shown and adds up; limits do not.
fn sums(eyes: &Eyes<'_>, columns: &[Column], query: &ListQuery, members: &[&Held<'_>]) -> Vec<String> {
    let hours = query.columns.iter().filter_map(|name| column(columns, name)).filter(|column| column.adds_up);
    let sum = |column: &Column| {
        let hours = |record: &&Held<'_>| record.cell(eyes, &column.name).parse::<rust_decimal::Decimal>().ok();
        let sum: rust_decimal::Decimal = members.iter().filter_map(hours).sum();
        (!sum.is_zero()).then(|| format!("{} {} h", column.label, sum.round_dp(2).normalize()))
    };
    hours.filter_map(sum).collect()
}

/// One row as a list shows it.
pub fn row(
    eyes: &Eyes<'_>,
    kind: Kind,
    columns: &[Column],
    query: &ListQuery,
    record: &dyn AnyRecord,
    may_change: bool,
) -> Row {
    let (id, about) = (record.number(), kind.about());
    let shown_columns = query.columns.iter().filter_map(|name| column(columns, name));
    let cell = |column: &Column| {
        let raw = record.cell(eyes, &column.name);
        let is_title = column.name == about.title;
        let read = shown(eyes.plan, column, &raw);
        let opens = column.follows && !raw.is_empty() && kind == Kind::Task;
        let href = is_title
            .then(|| format!("/{}/{id}", about.path))
            .or_else(|| opens.then(|| format!("/schedule/gantt?row={id}")));
        Cell {
            href,
            is_typed: may_change && !column.follows,
            column: column.name.clone(),
            raw,
            shown: if is_title && read.is_empty() { "(no name)".to_owned() } else { read },
            is_figure: matches!(column.input, Input::Hours | Input::Number | Input::Whole),
            is_title,
        }
    };
    Row {
        id,
        name: record.called(),
        seen: if may_change { eyes.tag(record).map(|tag| tag.to_string()).unwrap_or_default() } else { String::new() },
        cells: shown_columns.map(cell).collect(),
    }
}

/// The values that records have in a column, each with its label; nothing where there are more than one can look through: a filter of
/// them helps nobody.
struct Gathered {
    column: String,
    values: Option<Vec<(String, String)>>,
}

/// What the records of one kind have in the columns that are filters.
type Values = Vec<Gathered>;

/// Gathers the values of these columns. Each record is looked at once for all of them: most of the time goes into fetching it from
/// memory.
fn values(eyes: &Eyes<'_>, columns: &[&Column], most: usize, everything: &[Held<'_>]) -> Values {
    let mut all: Vec<Option<HashSet<String>>> = columns.iter().map(|_| Some(HashSet::new())).collect();
    for record in everything {
        for (column, values) in columns.iter().zip(&mut all) {
            let Some(known) = values else { continue };
            if known.insert(record.cell(eyes, &column.name)) && known.len() > most {
                *values = None;
            }
        }
    }
    let labelled = |(column, values): (&&Column, Option<HashSet<String>>)| {
        let label = |raw: String| {
            let none = raw.is_empty().then(|| format!("no {}", column.label.to_lowercase()));
            let label = none.unwrap_or_else(|| shown(eyes.plan, column, &raw));
            (if raw.is_empty() { NOTHING.to_owned() } else { raw }, label)
        };
        let mut values: Option<Vec<_>> = values.map(|values| values.into_iter().map(label).collect());
        if let Some(values) = &mut values {
            values.sort_by_cached_key(|(raw, label)| (raw == NOTHING, label.to_lowercase()));
        }
        Gathered { column: column.name.clone(), values }
    };
    columns.iter().zip(all).map(labelled).collect()
}

/// The filters by value, each with the values that there are, which are gathered once for a plan and for whoever sees the same.
pub fn facets(kept: &Kept, eyes: &Eyes<'_>, kind: Kind, columns: &[Column], query: &ListQuery) -> Vec<Facet> {
    let own = columns.iter().filter(|it| !it.choices.is_empty() && it.is_own);
    let listed = kind.about().facets.iter().filter_map(|name| column(columns, name));
    let offered: Vec<&Column> = listed.chain(own).collect();
    let asked = offered.iter().map(|column| column.name.as_str()).collect::<Vec<_>>().join("\n");
    let asked = format!("{kind:?}\n{}\n{asked}", eyes.sight_of(kind));
    let found = kept.get(eyes.plan, asked, || values(eyes, &offered, MOST_VALUES, &eyes.all(kind)));
    let facet = |(column, gathered): (&&Column, &Gathered)| {
        let chosen = query.facet(&gathered.column);
        // One that is chosen is shown with all that could be chosen in its place.
        let all = || values(eyes, &[column], usize::MAX, &eyes.all(kind)).pop().and_then(|gathered| gathered.values);
        let found = match &gathered.values {
            Some(values) => values.clone(),
            None if chosen.is_empty() => return None,
            None => all()?,
        };
        // One with a single value helps nobody either.
        let useful = found.len() > 1 || !chosen.is_empty();
        let values = found.into_iter().map(|(raw, label)| (raw == chosen, raw, label));
        let values = values.map(|(on, raw, label)| (raw, label, on)).collect();
        useful.then(|| Facet { name: format!("is.{}", column.name), label: column.label.clone(), values })
    };
    offered.iter().zip(found.iter()).filter_map(facet).collect()
}

/// The heads of the columns shown.
pub fn heads(plan: &Plan, kind: Kind, columns: &[Column], query: &ListQuery) -> Vec<Head> {
    let head = |name: &String| {
        let column = column(columns, name)?.clone();
        let is_sorted = query.sort == *name || query.sort.is_empty() && *name == kind.about().title;
        let descending = is_sorted && !query.descending;
        let next = ListQuery { sort: name.clone(), descending, offset: 0, ..query.clone() };
        Some(Head {
            href: next.href(kind, &format!("/{}", kind.about().path)),
            sorted: match (is_sorted, query.descending) {
                (false, _) => "none",
                (true, false) => "ascending",
                (true, true) => "descending",
            },
            input: input_of(&column),
            choices: serde_json::to_string(&choices(plan, &column)).unwrap_or_default(),
            column,
        })
    };
    query.columns.iter().filter_map(head).collect()
}
