//! The chart of a report: one figure of each group. Every value comes from here; the script draws it.

use super::shown;
use serde_json::json;
use snug_core::{
    reports::{Column, Report, Value},
    settings::DateOrder,
};
use snug_exchange::report::number;

/// A chart as the script reads it.
pub struct Chart {
    /// Labels, values and how they are drawn, as JSON.
    pub data: String,
    /// What it shows, in words.
    pub says: String,
    /// How high it is, in pixels.
    pub height: usize,
}

/// As many groups as one tells apart; by size, or of days the last ones.
const MOST: usize = 30;

impl Chart {
    /// The chart of a figure; `None` where there is nothing to draw.
    pub fn of(report: &Report<'_>, column: &Column, kind: &str, order: DateOrder) -> Option<Self> {
        let at = report.columns.iter().position(|known| known.name == column.name)?;
        let keys = report.inside.unwrap_or(report.keys);
        // Days stand side by side; what is told apart by two things has too long a name for that.
        let is_of_days = keys == 1 && matches!(report.rows.first()?.first()?, Value::Day(_));
        let mut bars: Vec<(String, f64, String)> = Vec::new();
        for row in &report.rows {
            let names = row[..keys]
                .iter()
                .map(|value| shown(value, order))
                .map(|name| if name.is_empty() { "none".to_owned() } else { name });
            bars.push((
                names.collect::<Vec<_>>().join(" · "),
                number(&row[at]).unwrap_or_default(),
                shown(&row[at], order),
            ));
        }
        let in_all = bars.len();
        if is_of_days {
            bars.drain(..in_all.saturating_sub(MOST));
        } else {
            bars.sort_by(|a, b| b.1.total_cmp(&a.1));
            bars.truncate(MOST);
        }
        let is_line = kind == "line" && is_of_days;
        let labels: Vec<&str> = bars.iter().map(|(name, ..)| name.as_str()).collect();
        let values: Vec<f64> = bars.iter().map(|(_, value, _)| *value).collect();
        let words: Vec<&str> = bars.iter().map(|(.., words)| words.as_str()).collect();
        let data = json!({ "labels": labels, "values": values, "words": words, "line": is_line, "upright": is_of_days, "label": column.label });
        let left_out = in_all - bars.len();
        let cut = if left_out > 0 { format!("; {left_out} more are in the table") } else { String::new() };
        Some(Self {
            data: data.to_string(),
            says: format!("{}, {} of {in_all}{cut}. The table below says the same.", column.label, bars.len()),
            height: if is_of_days { 280 } else { 60 + bars.len() * 26 },
        })
    }
}
