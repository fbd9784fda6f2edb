//! Flattened weeks as they are shown: what is over before and after, what moves, and what cannot be mended.

use super::{
    STEPS,
    asked::{Asked, Picked},
};
use crate::{columns::booked_for, fit::names::project_name, words};
use snug_core::{
    Day, PersonId, Plan, ProjectId, TaskId,
    demand::Window,
    even_out::{Evened, Holder, Left, Spills, flatten, left_over, spills, to_look_at},
    kinds::Certainty,
};
use std::collections::BTreeSet;

/// What is over in a week before and after, in hours and in percent of the worst week.
pub struct Week {
    pub before: String,
    pub after: String,
    pub tall_before: String,
    pub tall_after: String,
    /// What it is in words.
    pub says: String,
    pub is_over: bool,
}

/// Somebody's weeks.
pub struct Row {
    pub name: String,
    pub weeks: Vec<Option<Week>>,
}

/// Something that moves, or is cut.
pub struct Moved {
    pub title: String,
    pub href: String,
    pub says: String,
    /// The address under which it stays; nothing for bookings, which are ticked.
    pub pin: Option<String>,
}

/// A booking that could be cut.
pub struct Offer {
    pub id: i32,
    pub says: String,
    pub on: bool,
}

pub struct Flat {
    pub says: String,
    /// Mondays.
    pub heads: Vec<String>,
    pub rows: Vec<Row>,
    pub moved: Vec<Moved>,
    pub left: Vec<(String, Vec<String>)>,
    pub offers: Vec<Offer>,
    pub is_any: bool,
}

/// More rows than these nobody reads.
const MOST: usize = 60;

/// What flattening comes to.
pub fn evened(plan: &Plan, picked: &Picked, today: Day) -> Evened {
    flatten(plan, &picked.flatten(today), STEPS)
}

pub fn flat(plan: &Plan, picked: &Picked, asked: &Asked, today: Day) -> Flat {
    let evened = evened(plan, picked, today);
    let after = plan.with(&to_look_at(plan, &evened.changes));
    let order = plan.settings.date_order;
    let sum = |spills: &Spills| spills.values().sum::<i64>();
    let (before, then) = (sum(&evened.before), sum(&evened.after));
    let mondays: Vec<Day> = (0..picked.weeks).map(|week| picked.days.0 + 7 * week).collect();
    let left = left_over(&after, &picked.flatten(today), &evened.after);
    Flat {
        says: match (before, then) {
            (0, _) => "Nobody is over in these weeks: there is nothing to flatten.".to_owned(),
            (before, 0) => format!("{} over before, nothing after.", words::hours(before)),
            (before, after) if before == after => {
                format!("{} over, and nothing that may move mends it.", words::hours(before))
            }
            (before, after) => format!("{} over before, {} after.", words::hours(before), words::hours(after)),
        },
        heads: mondays.iter().map(|monday| words::day(*monday, order)).collect(),
        rows: rows(plan, &evened, &mondays),
        moved: moved(plan, &evened, asked),
        left: left.iter().take(MOST).map(|left| left_in_words(&after, left)).collect(),
        offers: offers(plan, picked, today),
        is_any: !evened.changes.is_empty(),
    }
}

fn rows(plan: &Plan, evened: &Evened, mondays: &[Day]) -> Vec<Row> {
    let all = || evened.before.iter().chain(&evened.after);
    let people: BTreeSet<PersonId> = all().map(|((person, _), _)| *person).collect();
    let most = all().map(|(_, minutes)| *minutes).max().unwrap_or(1).max(1);
    #[allow(clippy::cast_precision_loss)] // minutes, as percent
    let percent = |minutes: i64| format!("{:.1}", 100.0 * minutes as f64 / most as f64);
    let week = |person: PersonId, monday: Day| {
        let of = |spills: &Spills| spills.get(&(person, monday)).copied().unwrap_or(0);
        let (before, after) = (of(&evened.before), of(&evened.after));
        (before > 0 || after > 0).then(|| Week {
            before: words::hours(before),
            after: if after == 0 { "0 h".to_owned() } else { format!("+{}", words::hours(after)) },
            tall_before: percent(before),
            tall_after: percent(after),
            says: format!("{} over before, {} after", words::hours(before), words::hours(after)),
            is_over: after > 0,
        })
    };
    let row = |person: PersonId| Row {
        name: plan.people.get(&person).map(|entry| entry.person.name.clone()).unwrap_or_default(),
        weeks: mondays.iter().map(|monday| week(person, *monday)).collect(),
    };
    let mut rows: Vec<Row> = people.into_iter().map(row).collect();
    rows.sort_by_cached_key(|row| row.name.to_lowercase());
    rows.truncate(MOST);
    rows
}

fn moved(plan: &Plan, evened: &Evened, asked: &Asked) -> Vec<Moved> {
    let order = plan.settings.date_order;
    let tasks = evened.moved.iter().map(|(id, before, after)| {
        let by = after.0.since(before.0);
        let way = if by < 0 { "earlier" } else { "later" };
        let (from, to) = (words::range(before.0, before.1, order), words::range(after.0, after.1, order));
        Moved {
            title: title(plan, *id),
            href: format!("/tasks/{id}"),
            says: format!("{} {way}: {from} → {to}", words::days(by.abs())),
            pin: Some(asked.pinning(*id)),
        }
    });
    let cut = evened.cut.iter().map(|(id, slices)| {
        let slices = slices.iter().filter(|slice| slice.2 > 0);
        let weeks: Vec<String> = slices
            .map(|(from, _, minutes)| format!("{} from {}", words::hours(*minutes), words::day(*from, order)))
            .collect();
        let booking = plan.booking(*id);
        let project = booking.as_ref().map(|booking| project_name(plan, booking.project)).unwrap_or_default();
        Moved {
            title: booking
                .as_ref()
                .map_or(project.clone(), |booking| format!("{project}, {}", booked_for(plan, &booking.who))),
            href: format!("/bookings/{id}"),
            says: format!("cut into weeks: {}", weeks.join(", ")),
            pin: None,
        }
    });
    tasks.chain(cut).collect()
}

fn title(plan: &Plan, id: TaskId) -> String {
    plan.tasks.get(&id).map(|task| task.title.clone()).unwrap_or_default()
}

/// `Greta Sund, 16 March: 3 h over`, and what keeps it there.
fn left_in_words(plan: &Plan, left: &Left) -> (String, Vec<String>) {
    let name = |id: PersonId| plan.people.get(&id).map(|entry| entry.person.name.clone()).unwrap_or_default();
    let booked = |project: Option<ProjectId>| format!("Booked on {}", project_name(plan, project));
    let holder = |holder: &Holder| match *holder {
        Holder::Begun(id) => format!("“{}” is begun", title(plan, id)),
        Holder::Fixed(id) => format!("“{}” has fixed dates", title(plan, id)),
        Holder::Pinned(id) => format!("“{}” was to stay", title(plan, id)),
        Holder::Link(id, other) => {
            format!("“{}” has no float: “{}” is behind it by a link", title(plan, id), title(plan, other))
        }
        Holder::Due(id) => format!("“{}” has no float: it is due, or ends its project", title(plan, id)),
        Holder::Level(id) => format!("“{}” has no better place", title(plan, id)),
        Holder::Booking(_, project) => format!("{}, which was not to be cut", booked(project)),
        Holder::Cut(_, project) => format!("{}, cut as far as it goes", booked(project)),
    };
    let mut says: Vec<String> = left.holders.iter().map(holder).collect();
    if !left.others.is_empty() {
        let names: Vec<String> = left.others.iter().map(|id| name(*id)).collect();
        says.push(format!("Could take some of it: {}", names.join(", ")));
    }
    let when = words::day(left.week, plan.settings.date_order);
    (format!("{}, {when}: {} over", name(left.person), words::hours(left.minutes)), says)
}

/// Bookings of people who are over that lie ahead in these weeks, and in more than one week.
fn offers(plan: &Plan, picked: &Picked, today: Day) -> Vec<Offer> {
    let order = plan.settings.date_order;
    let window = Window::new(picked.days.0, picked.days.1, today);
    let over = spills(plan, picked.people.iter().copied(), &window);
    let over: BTreeSet<PersonId> = over.into_keys().map(|(person, _)| person).collect();
    let people = over.iter().filter_map(|id| plan.people.get(id));
    let mut found: Vec<Offer> = people
        .flat_map(|entry| {
            let rows = entry.bookings().filter(move |row| {
                let (start, end) = (row.brick.start, row.brick.end);
                start >= today && start.monday() != end.monday() && row.brick.touches(picked.days.0, picked.days.1)
            });
            rows.map(move |row| Offer {
                id: row.id.0,
                on: picked.movable.contains(&row.id),
                says: format!(
                    "{}, {}, {}{}",
                    entry.person.name,
                    project_name(plan, row.project),
                    words::range(row.brick.start, row.brick.end, order),
                    if row.brick.certainty() == Certainty::Pencilled { ", pencilled" } else { "" }
                ),
            })
        })
        .collect();
    found.truncate(MOST);
    found
}
