//! What work costs and what is billed: minutes × the rate of whoever did it, or will do it, on the day.

use super::heaps::{Heap, heaps_of};
use crate::{
    Day, Plan, ProjectId, TeamId,
    availability::Days,
    demand::{Slot, Window, end_of_queue, end_of_teams_queue, person_load, seat_loads},
    kinds::Person,
    parts::in_parts,
    plan::Entry,
};
use rust_decimal::{Decimal, RoundingStrategy};
use std::collections::{BTreeMap, BTreeSet};

/// Which of the two rates.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Rate {
    /// What an hour costs.
    Cost,
    /// What an hour is billed at.
    Bill,
}

/// The rate of somebody, an hour, that is in force on a day: the last one before it or on it that says something; `None` where none
/// does.
#[must_use]
pub fn rate_on(person: &Person, rate: Rate, day: Day) -> Option<Decimal> {
    let before = person.rates.iter().filter(|dated| dated.from.is_none_or(|from| from <= day));
    before.rev().find_map(|dated| match rate {
        Rate::Cost => dated.cost,
        Rate::Bill => dated.bill,
    })
}

/// Money and minutes of whatever is looked at. Sums are exact; money is rounded half up to cents as it is shown.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Money {
    /// Minutes × cost rate of what was logged.
    cost: Decimal,
    /// Minutes × bill rate of what was logged as billable.
    billed: Decimal,
    /// Minutes × cost rate of the load to come, firm and pencilled.
    planned_cost: Decimal,
    /// What was spent besides work, in money.
    spent: Decimal,
    /// Minutes that were logged without a cost rate.
    pub unrated: i64,
    /// Minutes to come without a cost rate; work of nobody has none.
    pub planned_unrated: i64,
}

/// Minutes × rate, in money, half up to cents.
pub(super) fn cents(sum: Decimal) -> Decimal {
    let mut cents = (sum / Decimal::from(60)).round_dp_with_strategy(2, RoundingStrategy::MidpointAwayFromZero);
    cents.rescale(2);
    cents
}

impl Money {
    /// What the work that was logged cost, in money with cents.
    #[must_use]
    pub fn cost(&self) -> Decimal {
        cents(self.cost)
    }

    /// What of it is billed.
    #[must_use]
    pub fn billed(&self) -> Decimal {
        cents(self.billed)
    }

    /// What the work to come will cost.
    #[must_use]
    pub fn planned_cost(&self) -> Decimal {
        cents(self.planned_cost)
    }

    /// What was spent besides work.
    #[must_use]
    pub fn spent(&self) -> Decimal {
        self.spent
    }

    /// What is billed less what work cost and what was spent, so far.
    #[must_use]
    pub fn margin(&self) -> Decimal {
        self.billed() - self.cost() - self.spent
    }

    /// An expense, or several.
    #[must_use]
    pub fn of_expense(sum: Decimal) -> Self {
        Self { spent: sum, ..Self::default() }
    }

    /// Takes other figures in.
    pub fn add(&mut self, other: &Self) {
        let sums = [
            (&mut self.cost, other.cost),
            (&mut self.billed, other.billed),
            (&mut self.planned_cost, other.planned_cost),
            (&mut self.spent, other.spent),
        ];
        // Where very many are added up, most have only one of these.
        for (sum, more) in sums.into_iter().filter(|(_, more)| !more.is_zero()) {
            *sum += more;
        }
        self.unrated += other.unrated;
        self.planned_unrated += other.planned_unrated;
    }

    /// What minutes come to that somebody logged on a day, or on days of the same rates.
    #[must_use]
    pub fn of_logged(person: Option<&Person>, day: Day, minutes: i64, billable: bool) -> Self {
        let mut money = Self::default();
        match person.and_then(|person| rate_on(person, Rate::Cost, day)) {
            Some(rate) => money.cost = rate * Decimal::from(minutes),
            None => money.unrated = minutes,
        }
        if let Some(rate) = person.and_then(|person| rate_on(person, Rate::Bill, day)).filter(|_| billable) {
            money.billed = rate * Decimal::from(minutes);
        }
        money
    }

    /// What a heap of logged work comes to.
    pub(crate) fn of_heap(plan: &Plan, heap: &Heap) -> Self {
        let person = plan.people.get(&heap.person).map(|entry| &*entry.person);
        Self::of_logged(person, heap.day, heap.minutes, heap.billable)
    }

    /// What minutes to come of somebody, or of nobody, on a day come to.
    #[must_use]
    pub fn to_come(person: Option<&Person>, day: Day, minutes: i64) -> Self {
        let mut money = Self::default();
        match person.and_then(|person| rate_on(person, Rate::Cost, day)) {
            Some(rate) => money.planned_cost = rate * Decimal::from(minutes),
            None => money.planned_unrated = minutes,
        }
        money
    }
}

/// Shows what minutes of somebody, or of nobody, from today on come to, by project; holds are none of a project's.
fn each_project(
    person: Option<&Person>,
    slots: &[Slot],
    days: &Days,
    today: Day,
    see: &mut impl FnMut(ProjectId, &Money),
) {
    // Days with the same rates are priced as one.
    let later = person.map_or(&[] as &[_], |person| person.rates.as_slice()).iter().filter_map(|rate| rate.from);
    let begins: Vec<Day> = std::iter::once(today).chain(later.filter(|from| *from > today)).collect();
    for (project, load) in slots.iter().filter_map(|slot| Some((slot.project?, &slot.load))) {
        for (at, from) in begins.iter().enumerate() {
            let to = begins.get(at + 1).map_or(days.last(), |next| *next - 1);
            let minutes = load.sum(days.indexes(*from, to));
            if minutes != 0 {
                see(project, &Money::to_come(person, *from, minutes));
            }
        }
    }
}

/// The last day on which one person has anything, or today.
pub(super) fn end_of_person(plan: &Plan, entry: &Entry, today: Day) -> Day {
    let bookings = entry.numbers.bricks().iter().map(|brick| brick.end);
    let tasks = entry.tasks.iter().filter_map(|id| plan.tasks.get(id)?.finish);
    let late = end_of_queue(plan, entry.person.id, today);
    bookings.chain(tasks).fold(late, Ord::max)
}

/// Shows what one person's minutes from today on come to, by project.
fn each_of_person(plan: &Plan, entry: &Entry, today: Day, see: &mut impl FnMut(ProjectId, &Money)) {
    let window = Window::new(today, end_of_person(plan, entry, today), today);
    let load = person_load(plan, entry, &window, true);
    each_project(Some(&entry.person), &load.slots, &load.days, today, see);
}

/// The last day on which there is work that no person carries, or today.
pub(super) fn end_unnamed(plan: &Plan, today: Day) -> Day {
    let tasks = || plan.nameless_tasks.iter().filter_map(|id| plan.tasks.get(id));
    let teams: BTreeSet<TeamId> = tasks().filter(|task| task.is_late(today)).filter_map(|task| task.team).collect();
    let late = teams.into_iter().map(|team| end_of_teams_queue(plan, team, today));
    let ends = plan.seats.values().map(|seat| seat.end).chain(tasks().filter_map(|task| task.finish));
    ends.chain(late).fold(today, Ord::max)
}

/// Shows what minutes from today on come to that no person carries, by project.
fn each_unnamed(plan: &Plan, today: Day, see: &mut impl FnMut(ProjectId, &Money)) {
    let window = Window::new(today, end_unnamed(plan, today), today);
    let days = Days::of_workspace(&plan.settings, window.span().0, window.span().1);
    for seat in seat_loads(plan, &window) {
        each_project(None, &seat.slots, &days, today, see);
    }
}

/// Figures of each project for itself, and of none.
type Sums = BTreeMap<Option<ProjectId>, Money>;

/// What some people logged, and what lies ahead of them.
fn of_people(plan: &Plan, people: &[&Entry], today: Day) -> Sums {
    let mut own = Sums::new();
    for entry in people {
        let log = (entry.person.id, plan.log_of(entry.person.id, Day::MIN, Day::MAX));
        heaps_of(plan, log, &|_| (), &mut |heap| {
            own.entry(heap.project).or_default().add(&Money::of_heap(plan, heap));
        });
        each_of_person(plan, entry, today, &mut |project, money| own.entry(Some(project)).or_default().add(money));
    }
    own
}

/// What no person carries, and expenses.
fn of_nobody(plan: &Plan, today: Day) -> Sums {
    let mut own = Sums::new();
    for expense in plan.records.expenses.values() {
        own.entry(Some(expense.project)).or_default().add(&Money::of_expense(expense.sum()));
    }
    each_unnamed(plan, today, &mut |project, money| own.entry(Some(project)).or_default().add(money));
    own
}

/// The figures of every project, with those inside it, and of what was logged on none: a row for each with a figure.
#[must_use]
pub fn table(plan: &Plan, today: Day) -> BTreeMap<Option<ProjectId>, Money> {
    let mut sums = Sums::new();
    let parts = in_parts(&plan.everybody(), |people| of_people(plan, people, today));
    for (project, money) in parts.into_iter().chain([of_nobody(plan, today)]).flatten() {
        match project {
            None => sums.entry(None).or_default().add(&money),
            Some(id) => {
                plan.project_line(id).for_each(|above| sums.entry(Some(above.id)).or_default().add(&money));
            }
        }
    }
    sums
}
