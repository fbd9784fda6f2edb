//! Hours that were not worked, each with where they would be offered again.

use super::asked::Picked;
use crate::{fit::names::project_name, words};
use snug_core::{
    Day, PersonId, Plan,
    change::Change,
    even_out::{Offered, Unworked, offered, to_look_at, until},
};

/// A week to come, as it is drawn.
pub struct Week {
    /// Its first day, in words.
    pub name: String,
    /// Its room, and what of that is filled, in percent of the largest room.
    pub room: String,
    pub filled: String,
    pub hours: String,
}

/// What somebody did not work on a project.
pub struct Line {
    /// By which the form names it: person and project.
    pub key: String,
    pub person: String,
    pub project: String,
    pub hours: String,
    /// Until when it is offered; empty where nobody can say.
    pub until: String,
    pub weeks: Vec<Week>,
    /// Whether anything of it fits.
    pub is_any: bool,
    /// What does not fit, in a sentence; empty where everything does.
    pub left: String,
}

/// The most that is offered at once.
pub const MOST: usize = 100;

/// What the people who are seen did not work, the largest first; each is offered in the room that those before it leave.
pub fn each<'a>(
    plan: &'a Plan,
    picked: &'a Picked,
    today: Day,
    sees: impl Fn(PersonId) -> bool + 'a,
) -> Vec<(Unworked, Option<Day>)> {
    let people = picked.people.iter().copied().filter(move |person| sees(*person));
    let mut found: Vec<Unworked> = people.flat_map(|person| Unworked::of(plan, person, picked.days, today)).collect();
    found.sort_by_key(|it| (-it.minutes, it.person, it.project));
    found.truncate(MOST);
    found.into_iter().map(|it| (it, until(plan, it, today))).collect()
}

/// The key of a line.
pub fn key(of: Unworked) -> String {
    format!("{}-{}", of.person, of.project)
}

pub fn lines(plan: &Plan, picked: &Picked, today: Day, sees: impl Fn(PersonId) -> bool) -> Vec<Line> {
    let mut rest = plan.clone();
    let line = |(of, until): (Unworked, Option<Day>)| {
        let offer = until.map_or_else(
            || Offered { left: of.minutes, ..Offered::default() },
            |until| offered(&rest, of, until, today),
        );
        rest = rest.with(&to_look_at(&rest, &offer.changes(of)));
        let order = plan.settings.date_order;
        let most = offer.weeks.iter().map(|week| week.2).max().unwrap_or(0).max(1);
        #[allow(clippy::cast_precision_loss)] // minutes, as percent
        let percent = |minutes: i64| format!("{:.1}", 100.0 * minutes as f64 / most as f64);
        let week = |(from, _, room, minutes): &(Day, Day, i64, i64)| Week {
            name: words::day(*from, order),
            room: percent(*room),
            filled: percent(*minutes),
            hours: words::hours(*minutes),
        };
        let left = match (until, offer.left) {
            (None, _) => "Neither a booking nor the project lies ahead, so that nobody can say until when.".to_owned(),
            (_, 0) => String::new(),
            (_, left) => format!("{} of it do not fit.", words::hours(left)),
        };
        Line {
            key: key(of),
            person: plan.people.get(&of.person).map(|entry| entry.person.name.clone()).unwrap_or_default(),
            project: project_name(plan, Some(of.project)),
            hours: words::hours(of.minutes),
            until: until.map(|day| words::date(day, order)).unwrap_or_default(),
            weeks: offer.weeks.iter().map(week).collect(),
            is_any: offer.left < of.minutes,
            left,
        }
    };
    each(plan, picked, today, sees).into_iter().map(line).collect()
}

/// What is offered of the lines that are ticked, as changes, and how many minutes that are.
pub fn ticked(
    plan: &Plan,
    picked: &Picked,
    today: Day,
    sees: impl Fn(PersonId) -> bool,
    is_ticked: impl Fn(&str) -> bool,
) -> (Vec<Change>, i64) {
    let mut rest = plan.clone();
    let (mut changes, mut minutes) = (Vec::new(), 0);
    for (of, until) in each(plan, picked, today, sees) {
        let Some(until) = until.filter(|_| is_ticked(&key(of))) else { continue };
        let offer = offered(&rest, of, until, today);
        rest = rest.with(&to_look_at(&rest, &offer.changes(of)));
        minutes += of.minutes - offer.left;
        changes.extend(offer.changes(of));
    }
    (changes, minutes)
}
