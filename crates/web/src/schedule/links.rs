//! The links between rows that are seen, routed so that each can be followed: out of the end that binds, along it, and into the end
//! that is bound, from above or from below.

use super::{outline::Outline, picture::PICTURE, query::GanttQuery};
use snug_core::{
    Day,
    kinds::{Link, LinkKind},
    network::{Dates, Ground, dates_of, sets_dates},
};
use std::ops::Range;

/// The height of a row with its line, in pixels.
pub const ROW: f64 = PICTURE + 1.0;
/// Where the middle of a bar lies in its row, and how far from there a link meets it.
const MIDDLE: f64 = 15.0;
const REACH: f64 = 10.0;
/// How far in days a link leaves a bar before it turns, and how far inside one it arrives.
const STUB: f64 = 0.3;

/// A link as it is drawn in a chunk of rows.
pub struct LinkView {
    /// The path, in days and in pixels from the top of the chunk.
    pub path: String,
    /// Its head: percent of the width, pixels from the top, and whether it points up.
    pub head: Option<(String, String, bool)>,
    /// Whether its dates are not kept.
    pub broken: bool,
    /// The keys of its two rows.
    pub rows: (String, String),
}

/// The links that are seen in these rows of the outline.
pub fn links(ground: &Ground<'_>, query: &GanttQuery, outline: &Outline, rows: &Range<usize>) -> Vec<LinkView> {
    let plan = ground.plan;
    let view = |link: &Link| {
        let (from, to) = (*outline.places.get(&link.from)?, *outline.places.get(&link.to)?);
        let touched = from.min(to)..from.max(to) + 1;
        if from == to || touched.end <= rows.start || touched.start >= rows.end {
            return None;
        }
        let (from_dates, to_dates) = (dates_of(plan, link.from)?, dates_of(plan, link.to)?);
        drawn(ground, query, outline, rows, link, (from, from_dates), (to, to_dates))
    };
    plan.records.links.values().filter(|link| sets_dates(link.kind)).filter_map(|link| view(link)).collect()
}

fn drawn(
    ground: &Ground<'_>,
    query: &GanttQuery,
    outline: &Outline,
    rows: &Range<usize>,
    link: &Link,
    (from, from_dates): (usize, Dates),
    (to, to_dates): (usize, Dates),
) -> Option<LinkView> {
    let last = f64::from(query.days()) + 1.0;
    let x = |day: Day| f64::from(day.since(query.from)).clamp(-1.0, last);
    let binds_start = matches!(link.kind, LinkKind::StartStart | LinkKind::StartFinish);
    let bound_start = matches!(link.kind, LinkKind::FinishStart | LinkKind::StartStart);
    let leaves_at = if binds_start { x(from_dates.0) } else { x(from_dates.1 + 1) };
    let arrives = if bound_start { x(to_dates.0) + STUB } else { x(to_dates.1 + 1) - STUB };
    // Nothing of it would be seen.
    if leaves_at.max(arrives) < 0.0 || leaves_at.min(arrives) > f64::from(query.days()) {
        return None;
    }
    #[allow(clippy::cast_precision_loss)] // rows of a list, as pixels
    let top = |row: usize| (row as f64 - rows.start as f64) * ROW;
    let down = to > from;
    let begins = top(from) + MIDDLE;
    let ends = top(to) + MIDDLE + if down { -REACH } else { REACH };
    let turn = if binds_start { leaves_at - STUB } else { leaves_at + STUB };
    // Where it does not lie ahead, the way goes along the line between two rows.
    let ahead = if binds_start { arrives <= turn } else { arrives >= turn };
    let path = if ahead {
        format!("M{leaves_at:.2} {begins:.1}H{arrives:.2}V{ends:.1}")
    } else {
        let between = if down { top(to) - 1.0 } else { top(to) + ROW - 1.0 };
        format!("M{leaves_at:.2} {begins:.1}H{turn:.2}V{between:.1}H{arrives:.2}V{ends:.1}")
    };
    let seen = (0.0..=f64::from(query.days())).contains(&arrives) && rows.contains(&to);
    let key = |row: usize| outline.lines.get(row).map_or_else(String::new, |line| line.of.key());
    Some(LinkView {
        path,
        head: seen.then(|| (format!("{:.2}", 100.0 * arrives / f64::from(query.days())), format!("{ends:.1}"), !down)),
        broken: !ground.keeps(link),
        rows: (key(from), key(to)),
    })
}
