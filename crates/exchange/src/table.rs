//! The load table as text: CSV, JSON, and columns to read.

use rust_decimal::{Decimal, prelude::ToPrimitive as _};
use serde::Serialize;
use snug_core::{
    cells::Cell,
    load::{Measure, Query, Row, Table},
    settings::Settings,
};

/// A CSV text with a header row; lines end in a bare line feed.
pub fn text<const N: usize>(header: [&str; N], rows: impl IntoIterator<Item = [String; N]>) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    // Writing into memory cannot fail, and every row has the header's length.
    let _ = writer.write_record(header);
    for row in rows {
        let _ = writer.write_record(&row);
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}

/// Columns to read, each as wide as its widest cell.
pub fn aligned<const N: usize>(header: [&str; N], rows: &[[String; N]]) -> String {
    let width = |at: usize| rows.iter().map(|row| row[at].chars().count()).max().unwrap_or(0).max(header[at].len());
    let widths: [usize; N] = std::array::from_fn(width);
    let line = |cells: [&str; N]| {
        let cells = cells.iter().zip(widths).map(|(cell, width)| format!("{cell:width$}"));
        cells.collect::<Vec<_>>().join("  ").trim_end().to_owned() + "\n"
    };
    let rows = rows.iter().map(|row| line(row.each_ref().map(String::as_str)));
    std::iter::once(line(header)).chain(rows).collect()
}

/// A cell of the load table with the figures as they are shown; empty where there is none.
#[derive(Debug, Serialize)]
pub struct Figures {
    /// The row's key.
    pub key: String,
    /// The bucket's first day inside the window.
    pub start: String,
    /// The figures in the order of the columns: limit, load, firm, pencilled, room, spill, peak.
    #[serde(flatten)]
    values: Values,
    /// The band, in the measures that have one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub band: Option<String>,
}

#[derive(Debug, Serialize)]
#[serde(untagged)]
enum Values {
    Minutes {
        limit_min: Option<i64>,
        load_min: Option<i64>,
        firm_min: Option<i64>,
        pencilled_min: Option<i64>,
        room_min: Option<i64>,
        spill_min: Option<i64>,
        peak_min: Option<i64>,
    },
    Other {
        limit: Option<Count>,
        load: Option<Count>,
        firm: Option<Count>,
        pencilled: Option<Count>,
        room: Option<Count>,
        spill: Option<Count>,
        peak: Option<Count>,
    },
}

/// A figure of a measure that is no time: a whole number, or hundredths of one.
#[derive(Clone, Copy, Debug)]
struct Count {
    figure: i64,
    hundredths: bool,
}

impl Count {
    fn decimal(self) -> Decimal {
        Decimal::new(self.figure, if self.hundredths { 2 } else { 0 }).normalize()
    }
}

impl Serialize for Count {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        match self.decimal() {
            whole if whole.is_integer() => to.serialize_i64(whole.to_i64().unwrap_or(self.figure)),
            part => to.serialize_f64(part.to_f64().unwrap_or_default()),
        }
    }
}

/// The table as a list of cells, sorted by key, then start.
#[must_use]
pub fn figures(table: &Table, query: &Query, settings: &Settings) -> Vec<Figures> {
    let mut list = Vec::with_capacity(table.rows.len() * table.buckets.len());
    for row in &table.rows {
        for (index, bucket) in table.buckets.iter().enumerate() {
            let values = seven(row, index);
            let [limit, load, firm, pencilled, room, spill, peak] = values;
            let minutes = query.measure == Measure::Minutes;
            list.push(Figures {
                key: row.key.clone(),
                start: bucket.from.to_string(),
                values: if minutes {
                    Values::Minutes {
                        limit_min: limit,
                        load_min: load,
                        firm_min: firm,
                        pencilled_min: pencilled,
                        room_min: room,
                        spill_min: spill,
                        peak_min: peak,
                    }
                } else {
                    let hundredths = query.measure.in_hundredths();
                    let count = |figure: Option<i64>| figure.map(|figure| Count { figure, hundredths });
                    let [limit, load, firm, pencilled, room, spill, peak] = values.map(count);
                    Values::Other { limit, load, firm, pencilled, room, spill, peak }
                },
                band: band(row, index, query.measure, settings),
            });
        }
    }
    list
}

fn seven(row: &Row, index: usize) -> [Option<i64>; 7] {
    let Some(cell) = row.cells[index] else { return [None; 7] };
    let Cell { limit, load, firm, room, spill, peak, .. } = cell;
    let limited = |value: i64| limit.map(|_| value);
    [limit, Some(load), Some(firm), Some(cell.pencilled()), limited(room), limited(spill), limited(peak)]
}

fn band(row: &Row, index: usize, measure: Measure, settings: &Settings) -> Option<String> {
    (measure == Measure::Minutes)
        .then(|| row.band_cells[index].band(settings.snug_mark).map_or_else(String::new, |band| band.to_string()))
}

/// The table as CSV.
#[must_use]
pub fn csv(table: &Table, query: &Query, settings: &Settings) -> String {
    let cells = table.rows.iter().flat_map(|row| (0..table.buckets.len()).map(move |index| (row, index)));
    let values = |row: &Row, index: usize| {
        let hundredths = query.measure.in_hundredths();
        let text = |figure: i64| Count { figure, hundredths }.decimal().to_string();
        seven(row, index).map(|value| value.map(text).unwrap_or_default())
    };
    if query.measure == Measure::Minutes {
        let header = [
            "key",
            "start",
            "limit_min",
            "load_min",
            "firm_min",
            "pencilled_min",
            "room_min",
            "spill_min",
            "peak_min",
            "band",
        ];
        return text(
            header,
            cells.map(|(row, index)| {
                let [limit, load, firm, pencilled, room, spill, peak] = values(row, index);
                [
                    row.key.clone(),
                    table.buckets[index].from.to_string(),
                    limit,
                    load,
                    firm,
                    pencilled,
                    room,
                    spill,
                    peak,
                    band(row, index, query.measure, settings).unwrap_or_default(),
                ]
            }),
        );
    }
    let header = ["key", "start", "limit", "load", "firm", "pencilled", "room", "spill", "peak"];
    text(
        header,
        cells.map(|(row, index)| {
            let [limit, load, firm, pencilled, room, spill, peak] = values(row, index);
            [row.key.clone(), table.buckets[index].from.to_string(), limit, load, firm, pencilled, room, spill, peak]
        }),
    )
}

/// The table as columns to read: one line a cell, in hours where the measure is minutes.
#[must_use]
pub fn columns(table: &Table, query: &Query, settings: &Settings) -> String {
    use std::fmt::Write as _;
    let width = table.rows.iter().map(|row| row.key.chars().count()).max().unwrap_or(3).max(3);
    let unit = match query.measure {
        Measure::Minutes => "h",
        Measure::Percent => "%",
        Measure::Projects | Measure::Tasks | Measure::Points | Measure::Field(_) => "",
    };
    let mut out = format!(
        "{:width$}  {:10}  {:>8} {:>8} {:>8} {:>8} {:>8}  state\n",
        "row", "from", "limit", "load", "room", "spill", "peak"
    );
    for row in &table.rows {
        for (index, bucket) in table.buckets.iter().enumerate() {
            let shown = |value: Option<i64>| match value {
                Some(minutes) if query.measure == Measure::Minutes => format!("{} {unit}", hours_short(minutes)),
                Some(figure) => {
                    format!("{} {unit}", Count { figure, hundredths: query.measure.in_hundredths() }.decimal())
                }
                None => "-".to_owned(),
            };
            let [limit, load, _, _, room, spill, peak] = seven(row, index);
            let state = match row.band_cells[index].band(settings.snug_mark) {
                Some(snug_core::cells::Band::Over) if row.band_cells[index].spill == 0 => "over (peak)".to_owned(),
                Some(band) if query.measure == Measure::Minutes => band.to_string(),
                _ => String::new(),
            };
            let _ = writeln!(
                out,
                "{:width$}  {:10}  {:>8} {:>8} {:>8} {:>8} {:>8}  {state}",
                row.key,
                bucket.from.to_string(),
                shown(limit),
                shown(load),
                shown(room),
                shown(spill),
                shown(peak)
            );
        }
    }
    out
}

/// Minutes as hours to read, `7.5` or `0.25`, at most two digits after the point, half up.
#[must_use]
pub fn hours_short(minutes: i64) -> String {
    rust_decimal::Decimal::new(snug_core::spread::round_half_up(minutes * 100, 60), 2).normalize().to_string()
}
