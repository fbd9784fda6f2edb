//! Hours that were not worked, each with where they would be offered again.

use super::asked::Picked;
use crate::{fit::names::project_name, words};
use snug_core::{
    Day, PersonId, Plan,
    change::Change,
    even_out::{Offered, Unworked, in_turn, until, unworked},
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
const MOST: usize = 100;

/// What the people who are seen did not work, the largest first, each with the day until which it is offered.
fn each(plan: &Plan, picked: &Picked, today: Day, sees: impl Fn(PersonId) -> bool) -> Vec<(Unworked, Option<Day>)> {
    let people = picked.people.iter().copied().filter(|person| sees(*person));
    let found = unworked(plan, people, picked.days, today).into_iter().take(MOST);
    found.map(|it| (it, until(plan, it, today))).collect()
}

/// The key of a line.
fn key(of: Unworked) -> String {
    format!("{}-{}", of.person, of.project)
}

pub fn lines(plan: &Plan, picked: &Picked, today: Day, sees: impl Fn(PersonId) -> bool) -> Vec<Line> {
    let line = |((of, offer), until): ((Unworked, Offered), Option<Day>)| {
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
    let wanted = each(plan, picked, today, sees);
    let until = wanted.iter().map(|(_, until)| *until).collect::<Vec<_>>();
    in_turn(plan, wanted, today).into_iter().zip(until).map(line).collect()
}

/// What is offered of the lines that are ticked, as changes, and how many minutes that are.
pub fn ticked(
    plan: &Plan,
    picked: &Picked,
    today: Day,
    sees: impl Fn(PersonId) -> bool,
    is_ticked: impl Fn(&str) -> bool,
) -> (Vec<Change>, i64) {
    let wanted = each(plan, picked, today, sees).into_iter().filter(|(of, _)| is_ticked(&key(*of)));
    let offers = in_turn(plan, wanted, today);
    let minutes = offers.iter().map(|(of, offer)| of.minutes - offer.left).sum();
    (offers.iter().flat_map(|(of, offer)| offer.changes(*of)).collect(), minutes)
}
