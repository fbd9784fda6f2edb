//! What could be done about a cell: each way with its effect said before it is done.

use crate::{effects::says, fit::names::project_name, words};
use snug_core::{
    Day, Plan, Tag,
    by_day::ByDay,
    cells::{Bucket, Grain},
    change::{Change, Edit},
    craft::is_same,
    kinds::{Booking, Certainty},
    load::PersonCells,
    reshape::{self, Part, minutes_between},
    takers::{Due, Need, best_move, latest_day, takers},
};

/// One way: a form that does it.
pub struct OptionView {
    pub title: String,
    /// Why it is a way at all: `electronics ✓ · 28 h of room · ends at 68 %`.
    pub reason: String,
    /// What it would do, in sentences.
    pub says: Vec<String>,
    pub action: &'static str,
    pub fields: Vec<(&'static str, String)>,
    pub button: &'static str,
    pub first: bool,
}

/// The most people that are offered.
const MOST_TAKERS: usize = 5;

/// Which booking of a cell one would move first: a pencilled one, then the one with the most hours there.
pub fn first_to_go<'a>(bookings: &'a [(Booking, ByDay)], here: &dyn Fn(&ByDay) -> i64) -> Option<&'a Booking> {
    let in_cell = bookings.iter().filter(|(_, minutes)| here(minutes) > 0);
    let by = |(booking, minutes): &&(Booking, ByDay)| (booking.certainty == Certainty::Pencilled, here(minutes));
    in_cell.max_by_key(by).map(|(booking, _)| booking)
}

/// People who could take a booking's hours in a cell, the best first.
pub fn hand_overs(
    plan: &Plan,
    booking: &Booking,
    bucket: Bucket,
    minutes: i64,
    grain: Grain,
    today: Day,
) -> Vec<OptionView> {
    let need = Need::of_booking(plan, booking, bucket, minutes);
    let there = minutes_between(plan, booking, bucket.from, bucket.to);
    let found = takers(plan, &need, grain, today, MOST_TAKERS);
    let option = |(at, taker): (usize, snug_core::takers::Taker)| {
        let entry = plan.people.get(&taker.person)?;
        let limit = taker.cell.limit.unwrap_or(0).max(1);
        let ends = snug_core::spread::round_half_up(100 * (taker.cell.load + taker.takes), limit);
        let mut reason: Vec<String> = taker.skills.iter().map(|skill| format!("{skill} ✓")).collect();
        if taker.same_role && !taker.skills.iter().any(|skill| is_same(skill, &entry.person.role)) {
            reason.insert(0, format!("{} ✓", entry.person.role));
        }
        if taker.on_project {
            reason.push("on the project already".to_owned());
        }
        reason.push(format!("{} of room", words::hours(taker.room)));
        reason.push(format!("ends at {ends} %"));
        let whole = taker.takes >= there;
        let part = Part { from: bucket.from, to: bucket.to, minutes: (!whole).then_some(taker.takes) };
        let edits = reshape::hand_over(plan, booking, part, taker.person).ok()?;
        let mut fields = vec![
            ("seen", Tag::of(booking).to_string()),
            ("to", taker.person.to_string()),
            ("from", bucket.from.to_string()),
            ("until", bucket.to.to_string()),
        ];
        if !whole {
            fields.push(("hours", format!("{}m", taker.takes)));
        }
        let what = if taker.takes < minutes { "a part, " } else { "" };
        Some(OptionView {
            title: format!("{}: {what}{}", entry.person.name, words::hours(taker.takes)),
            reason: reason.join(" · "),
            says: effect(plan, edits, today),
            action: "/bookings/hand-over",
            fields,
            button: "Hand over",
            first: at == 0,
        })
    };
    found.into_iter().enumerate().filter_map(option).collect()
}

/// Everything that could be done about a cell that is over: people who could take some of it, then the booking itself.
pub struct Ways {
    pub title: String,
    pub options: Vec<OptionView>,
    /// What was looked for in vain.
    pub notes: Vec<String>,
}

/// The ways out of a cell that is over, for the booking that one would move first.
pub fn ways(plan: &Plan, booking: &Booking, bucket: Bucket, cells: &PersonCells<'_>, grain: Grain, today: Day) -> Ways {
    let cell = cells.cell(bucket);
    let there = minutes_between(plan, booking, bucket.from, bucket.to);
    let need = cell.spill.max(cell.peak).min(there);
    let name = project_name(plan, booking.project);
    let mut options = hand_overs(plan, booking, bucket, need, grain, today);
    let mut notes = Vec::new();
    let title = if options.is_empty() {
        notes.push("Nobody else with the role or one of the skills has room there.".to_owned());
        format!("What could be done about {name}")
    } else {
        format!("Who could take {} of {name}", words::hours(need))
    };
    let in_place = in_place(plan, booking, bucket, cells, today);
    if !in_place.iter().any(|option| option.action == "/bookings/move") {
        let bound = latest_day(plan, booking).map(|(day, _)| words::day(day, plan.settings.date_order));
        let within = bound.map_or_else(String::new, |day| format!(", as it has to end by {day}"));
        notes.push(format!("No move in time helps{within}; six weeks either way were tried."));
    }
    options.extend(in_place);
    Ways { title, options, notes }
}

/// What can be done with the booking itself: move it in time, trim it, split it.
fn in_place(plan: &Plan, booking: &Booking, bucket: Bucket, cells: &PersonCells<'_>, today: Day) -> Vec<OptionView> {
    let mut options = Vec::new();
    let order = plan.settings.date_order;
    let name = project_name(plan, booking.project);
    if let Some(found) = best_move(plan, booking, today) {
        let to = Booking { start: booking.start + found.shift, end: booking.end + found.shift, ..booking.clone() };
        let days = found.shift.unsigned_abs();
        let which = if found.shift > 0 { "later" } else { "earlier" };
        let bound = match &found.latest {
            Some((day, Due::Task(title))) => format!("within the due date of “{title}”, {}", words::day(*day, order)),
            Some((day, Due::Project(project))) => {
                format!("within the finish of {project}, {}", words::day(*day, order))
            }
            None => "no due date bounds it".to_owned(),
        };
        options.push(OptionView {
            title: format!("Move {name} {days} {} {which}", if days == 1 { "day" } else { "days" }),
            reason: format!(
                "to {} · {bound}; links between tasks are not looked at yet",
                words::range(to.start, to.end, order)
            ),
            says: effect(plan, vec![Edit::alter(booking.clone(), to)], today),
            action: "/bookings/move",
            fields: vec![("seen", Tag::of(booking).to_string()), ("shift", found.shift.to_string())],
            button: "Move",
            first: false,
        });
    }
    let cell = cells.cell(bucket);
    let over = cell.spill.max(cell.peak);
    let there = minutes_between(plan, booking, bucket.from, bucket.to);
    let off = over.min(there);
    if off > 0 {
        let part = Part { from: bucket.from, to: bucket.to, minutes: (off < there).then_some(off) };
        if let Ok(edits) = reshape::trim(plan, booking, part) {
            options.push(OptionView {
                title: format!("Trim {name} by {}", words::hours(off)),
                reason: format!("{} of {} stay there", words::hours(there - off), words::hours(there)),
                says: effect(plan, edits, today),
                action: "/bookings/trim",
                fields: vec![
                    ("seen", Tag::of(booking).to_string()),
                    ("from", bucket.from.to_string()),
                    ("until", bucket.to.to_string()),
                    ("hours", if off < there { format!("{off}m") } else { String::new() }),
                ],
                button: "Trim",
                first: false,
            });
        }
    }
    let cut = if booking.start < bucket.from {
        Some(bucket.from)
    } else {
        Some(bucket.to + 1).filter(|day| *day <= booking.end)
    };
    if let Some(day) = cut.filter(|day| *day > booking.start && *day <= booking.end)
        && let Ok(edits) = reshape::split(plan, booking, day)
    {
        options.push(OptionView {
            title: format!("Split {name} at {}", words::weekday(day, order)),
            reason: "so that each piece can be moved, trimmed or handed over alone".to_owned(),
            says: match effect(plan, edits, today) {
                none if none.is_empty() => vec!["No hour moves: two bookings in place of one.".to_owned()],
                says => says,
            },
            action: "/bookings/split",
            fields: vec![("seen", Tag::of(booking).to_string()), ("at", day.to_string())],
            button: "Split",
            first: false,
        });
    }
    options
}

/// The sentences of what edits would do.
fn effect(plan: &Plan, edits: Vec<Edit<Booking>>, today: Day) -> Vec<String> {
    let changes: Vec<Change> = edits.into_iter().map(Change::Booking).collect();
    // New pieces have no identity yet; one is enough for a plan that is looked at once.
    let mut next = plan.next_id();
    let numbered = changes.into_iter().map(|change| match change {
        Change::Booking(Edit { before: None, after: Some(booking) }) => {
            next += 1;
            Change::Booking(Edit::new(Booking { id: snug_core::BookingId(next - 1), ..booking }))
        }
        change => change,
    });
    let changes: Vec<Change> = numbered.collect();
    says(plan, &plan.with(&changes), &changes, today)
}
