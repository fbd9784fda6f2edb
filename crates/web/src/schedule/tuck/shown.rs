//! A proposal as it is shown: in sentences, and as lines with what was and what would be.

use super::{Span, asked::Asked, placed};
use crate::words;
use snug_core::{
    Day, Plan, Tag,
    kinds::Task,
    network::Dates,
    tuck_in::{Ask, Proposal, Row, Words, elsewhere as elsewhere_in, helps},
};
use std::time::{Duration, Instant};

/// The most days that are drawn; what lies behind is told in words alone.
const MOST_DAYS: i32 = 400;

/// A day with its name above the bars, and where it is across them, in percent.
pub struct Head {
    pub x: String,
    pub name: String,
}

/// Where something is drawn, in percent.
pub struct Bar {
    pub x: String,
    pub width: String,
}

/// A leaf with what would become of it.
pub struct Line {
    pub id: i32,
    pub tag: String,
    pub title: String,
    pub project: String,
    pub hue: usize,
    /// What becomes of it, in few words: `late by 2 days`, `given to Priya`, `stays out`.
    pub state: String,
    pub is_bad: bool,
    /// Its days in words; empty where it is left out.
    pub days: String,
    pub before: Option<Bar>,
    pub after: Option<Bar>,
    /// Why it is not earlier, or later, or left out.
    pub why: String,
    /// What would help it, a sentence each.
    pub helps: Vec<String>,
    /// The address that leaves it as it is; nothing where it stays anyway, or has no dates.
    pub pin: Option<String>,
    /// What is sent back when it is ticked: first and last day, and who was chosen; nothing where nothing is to be done.
    pub takes: Option<(Day, Day, String)>,
}

/// What is drawn: from the Monday before today, or before the earliest day, to the last one.
pub fn span(proposal: &Proposal, today: Day) -> Span {
    let days = || proposal.rows.iter().flat_map(|row| [row.before, row.dates]).flatten();
    let from = days().map(|dates| dates.0).min().unwrap_or(today).clamp(today - 28, today).monday();
    let to = days().map(|dates| dates.1).max().unwrap_or(today).max(today + 13);
    (from, to.min(from + MOST_DAYS - 1))
}

/// Percent of the span that lie before a day.
fn at(day: Day, (from, to): Span) -> f64 {
    100.0 * f64::from(day.since(from)) / f64::from(to.since(from) + 1)
}

fn bar(dates: Dates, span: Span) -> Option<Bar> {
    let (start, finish) = (dates.0.max(span.0), dates.1.min(span.1));
    let width = at(finish + 1, span) - at(start, span);
    (start <= finish).then(|| Bar { x: format!("{:.3}", at(start, span)), width: format!("{width:.3}") })
}

/// Mondays, as many as there is room for.
pub fn heads(plan: &Plan, span: Span) -> Vec<Head> {
    let weeks = (span.1.since(span.0) + 7) / 7;
    let every = usize::try_from((weeks + 7) / 8).unwrap_or(1).max(1);
    // The last one needs room for its name.
    let mondays = span.0.through(span.1).step_by(7).step_by(every).filter(|day| at(*day, span) < 90.0);
    let head = |day: Day| Head { x: format!("{:.3}", at(day, span)), name: words::day(day, plan.settings.date_order) };
    mondays.map(head).collect()
}

/// `12 tasks find a place, the last ends on 24 March 2026; 2 are late, 1 is left out, 3 wait for their size.`
pub fn says(plan: &Plan, proposal: &Proposal) -> String {
    if proposal.rows.is_empty() {
        return "There is nothing to place: everything that is meant has dates, is done or is fixed.".to_owned();
    }
    let last = proposal.score.last.map(|day| words::date(day, plan.settings.date_order));
    let last = last.map(|day| format!(", the last ends on {day}")).unwrap_or_default();
    let said = words::count(placed(proposal), "task finds a place", "tasks find a place") + &last;
    let late = proposal.rows.iter().filter(|row| row.dates.is_some() && row.late_days > 0).count();
    let sizeless = proposal.rows.iter().filter(|row| row.is_sizeless).count();
    let more = [
        (late, "is late", "are late"),
        (proposal.score.left_out, "is left out", "are left out"),
        (sizeless, "waits for its size", "wait for their size"),
    ];
    let more: Vec<String> = more
        .into_iter()
        .filter(|(count, ..)| *count > 0)
        .map(|(count, one, many)| words::count(count, one, many))
        .collect();
    if more.is_empty() { format!("{said}.") } else { format!("{said}; {}.", more.join(", ")) }
}

/// What becomes of a leaf, in few words, and whether that is bad.
fn state(plan: &Plan, task: &Task, row: &Row) -> (String, bool) {
    let Some(dates) = row.dates else {
        return (if row.is_sizeless { "waits for its size" } else { "stays out" }.to_owned(), !row.is_sizeless);
    };
    let mut said = Vec::new();
    if row.late_days > 0 {
        said.push(format!("late by {}", words::days(i32::try_from(row.late_days).unwrap_or(i32::MAX))));
    }
    match row.before {
        None => said.push("new".to_owned()),
        Some(before) if before == dates => said.push("stays".to_owned()),
        Some(before) => {
            let by = dates.1.since(before.1);
            let way = if by < 0 { "earlier" } else { "later" };
            said.push(if by == 0 { "moved".to_owned() } else { format!("{} {way}", words::days(by.abs())) });
        }
    }
    if row.assignees != task.assignees {
        let names = row.assignees.people().filter_map(|id| plan.people.get(&id)).map(|it| it.person.name.clone());
        said.push(format!("given to {}", names.collect::<Vec<_>>().join(", ")));
    }
    (said.join(", "), row.late_days > 0)
}

/// By what rows are in order: left out first, then late, then by day.
pub fn order(plan: &Plan, row: &Row) -> (u8, i64, Option<Dates>, String) {
    let rank = match row.dates {
        None if !row.is_sizeless => 0,
        Some(_) if row.late_days > 0 => 1,
        Some(_) => 2,
        None => 3,
    };
    let title = plan.tasks.get(&row.task).map(|task| task.title.clone()).unwrap_or_default();
    (rank, -row.late_days, row.dates, title)
}

/// A row as a line.
pub fn line(plan: &Plan, row: &Row, span: Span, hue: &dyn Fn(&Task) -> usize, asked: &Asked) -> Option<Line> {
    let task = plan.tasks.get(&row.task)?;
    let order = plan.settings.date_order;
    let why = Words { day: &|day| words::day(day, order), hours: &words::hours }.of(plan, &row.why);
    let (state, is_bad) = state(plan, task, row);
    let is_new = row.dates.is_some() && (row.dates != row.before || row.assignees != task.assignees);
    let chosen = if row.assignees == task.assignees { None } else { row.assignees.people().next() };
    Some(Line {
        id: task.id.0,
        tag: Tag::of(&**task).to_string(),
        title: task.title.clone(),
        project: plan.records.projects.get(&task.project).map(|it| it.name.clone()).unwrap_or_default(),
        hue: hue(task),
        state,
        is_bad,
        days: row.dates.map(|(start, finish)| words::range(start, finish, order)).unwrap_or_default(),
        before: row.before.filter(|before| Some(*before) != row.dates).and_then(|dates| bar(dates, span)),
        after: row.dates.and_then(|dates| bar(dates, span)),
        why: if why.is_empty() && row.dates.is_some() {
            "Nothing holds it: it is over today".to_owned()
        } else {
            words::capital(&why)
        },
        helps: Vec::new(),
        pin: row
            .before
            .filter(|before| Some(*before) != row.dates && row.dates.is_some())
            .map(|_| asked.pinning(task.id)),
        takes: row
            .dates
            .filter(|_| is_new)
            .map(|(start, finish)| (start, finish, chosen.map(|id| id.0.to_string()).unwrap_or_default())),
    })
}

/// How many lines are told what would help, and how long that may take.
const HELPED: usize = 8;
const PATIENCE: Duration = Duration::from_millis(600);

/// Says what would help those that are left out or late, which stand first.
pub fn add_help(lines: &mut [Line], (plan, ask, proposal): (&Plan, &Ask, &Proposal), rows: &[&Row]) {
    let order = plan.settings.date_order;
    let words = Words { day: &|day| words::day(day, order), hours: &words::hours };
    let begun = Instant::now();
    for (line, row) in lines.iter_mut().zip(rows).take(HELPED) {
        if begun.elapsed() > PATIENCE {
            return;
        }
        line.helps = helps(plan, ask, proposal, row).iter().map(|help| words.help(plan, help)).collect();
    }
}

/// `Other work counts, too: 24 h of Oona Varga, 12 h of Dov Anker.`
pub fn elsewhere(plan: &Plan, ask: &Ask, proposal: &Proposal) -> String {
    /// Of more people only the number is told.
    const TOLD: usize = 6;
    let mut others: Vec<_> = elsewhere_in(plan, ask, proposal).into_iter().collect();
    if others.is_empty() {
        return String::new();
    }
    others.sort_by_key(|(id, minutes)| (-minutes, *id));
    let told = others.iter().take(TOLD).filter_map(|(id, minutes)| {
        let name = &plan.people.get(id)?.person.name;
        Some(format!("{} of {name}", words::hours(*minutes)))
    });
    let told = told.collect::<Vec<_>>().join(", ");
    let more = others.len().saturating_sub(TOLD);
    let more =
        if more == 0 { String::new() } else { format!(" and {}", words::count(more, "other person", "other people")) };
    format!("Work that is not looked at here stands and counts: {told}{more}.")
}
