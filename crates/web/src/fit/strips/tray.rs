//! The tray at the foot of the room: tasks that stand nowhere yet, and open seats.

use crate::{
    fit::{
        address::query::FitQuery,
        names::project_name,
        picture::palette::{NONE, Palette},
    },
    kept::Kept,
    words,
};
use askama::Template;
use snug_core::{
    Plan, Tag,
    kinds::{Booking, Certainty, Task, Who},
    tray::{Lacks, Waiting, presses, waiting},
};
use std::{collections::BTreeSet, sync::Arc};

/// Something that can be dragged into the plan.
#[derive(Clone)]
pub struct Slip {
    /// The tag of the task or booking as it is shown.
    pub tag: Tag,
    pub is_seat: bool,
    pub hue: usize,
    pub hours: String,
    pub name: String,
    pub says: String,
    pub presses: bool,
    pub href: String,
    pub start: String,
}

#[derive(Clone, Template)]
#[template(path = "fit/strips/tray.html")]
pub struct TrayView {
    pub slips: Vec<Slip>,
    pub more: usize,
    pub says: String,
    pub may_book: bool,
}

/// The most slips that lie in the tray at once; the lists have the rest.
const MOST: usize = 40;

/// The tray of the project in view, or of all.
pub fn view(kept: &Kept, plan: &Plan, query: &FitQuery, may_book: bool) -> Arc<TrayView> {
    let asked = format!("{} {:?} {} {may_book}", query.today, query.project, query.colour_word);
    kept.get(plan, asked, || fill(plan, query, may_book))
}

fn fill(plan: &Plan, query: &FitQuery, may_book: bool) -> TrayView {
    let palette = Palette::new(plan, query.colour, None);
    let projects: Option<BTreeSet<_>> = query.project.map(|one| {
        let inside = plan.records.projects.keys().filter(|id| plan.project_line(**id).any(|above| above.id == one));
        inside.copied().collect()
    });
    let in_view = |id| projects.as_ref().is_none_or(|inside| inside.contains(&id));
    let mut slips = Vec::new();
    let (mut count, mut minutes, mut unsized_tasks) = (0_usize, 0, 0_usize);
    for waits in waiting(plan, query.today) {
        let (slip, size): (Box<dyn Fn() -> Option<Slip>>, Option<i64>) = match waits {
            Waiting::Seat(id) => {
                let Some(seat) = plan.seats.get(&id).filter(|seat| seat.project.is_none_or(in_view)) else { continue };
                let (_, landed, _) = snug_core::demand::landed(plan, seat);
                let size = landed.sum(0..landed.len());
                let palette = &palette;
                (Box::new(move || Some(of_seat(plan, seat, size, query, palette))), Some(size))
            }
            Waiting::Task { id, minutes, lacks } => {
                let Some(task) = plan.tasks.get(&id).filter(|task| in_view(task.project)) else { continue };
                let palette = &palette;
                (Box::new(move || Some(of_task(plan, task, minutes, lacks, query, palette))), minutes)
            }
        };
        count += 1;
        minutes += size.unwrap_or(0);
        unsized_tasks += usize::from(size.is_none());
        if slips.len() < MOST {
            slips.extend(slip());
        }
    }
    let without = match unsized_tasks {
        0 => String::new(),
        many => format!(" · {many} without an estimate"),
    };
    TrayView {
        more: count.saturating_sub(slips.len()),
        says: if count == 0 {
            "Nothing waits".to_owned()
        } else {
            format!("{count} unplaced · {}{without}", words::hours(minutes))
        },
        slips,
        may_book,
    }
}

fn of_task(
    plan: &Plan,
    task: &Task,
    minutes: Option<i64>,
    lacks: Lacks,
    query: &FitQuery,
    palette: &Palette<'_>,
) -> Slip {
    let due = task.due.map(|due| format!(", due {}", words::day(due, query.order))).unwrap_or_default();
    let lack = words::lacking(lacks);
    Slip {
        tag: Tag::of(task),
        is_seat: false,
        hue: palette.of_task(task),
        hours: minutes.map_or_else(|| "? h".to_owned(), words::hours),
        name: task.title.clone(),
        says: format!("{}: {lack}{due}", project_name(plan, Some(task.project))),
        presses: presses(task, query.today),
        href: format!("/tasks/{}", task.id),
        start: String::new(),
    }
}

fn of_seat(plan: &Plan, seat: &Booking, size: i64, query: &FitQuery, palette: &Palette<'_>) -> Slip {
    let role = match &seat.who {
        Who::Role(role) => role.as_str(),
        _ => "",
    };
    Slip {
        tag: Tag::of(seat),
        is_seat: true,
        hue: seat.project.map_or(NONE, |_| palette.of_booking(seat.project, Certainty::Firm)),
        hours: words::hours(size),
        name: format!("Open seat: {role}"),
        says: format!(
            "{}, {}, {}",
            project_name(plan, seat.project),
            words::amount(seat.amount),
            words::range(seat.start, seat.end, query.order)
        ),
        presses: seat.start <= query.today,
        href: FitQuery { group: format!("seat:{}", seat.id), person: None, at: None, ..query.clone() }.href("/fit"),
        start: seat.start.to_string(),
    }
}
