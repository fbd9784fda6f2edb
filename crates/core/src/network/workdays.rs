//! The working days of a task, W(t) of the network's rules, numbered one after the other: `k` working days later is an addition.

use crate::{
    Day, Plan,
    availability::Days,
    kinds::{Assignees, PersonId, Task, TeamId},
};
use std::{cell::RefCell, collections::HashMap, rc::Rc};

/// How far before and after today somebody's days are looked at; beyond, every Monday to Friday counts.
const REACH: i32 = 1_096;

/// The days that are looked at.
const LOOKED_AT: i32 = 2 * REACH + 1;

/// So many days stand in a word.
const WORD: usize = 64;

const WORDS: usize = LOOKED_AT.unsigned_abs().div_ceil(64) as usize;

/// A bit a day from the first that is looked at.
type Bits = [u64; WORDS];

/// Days on which a task can be worked on. Each has a number: 0 for the first one that is looked at, negative before that.
#[derive(Clone, Debug)]
pub struct Workdays {
    first: Day,
    days: Bits,
    /// How many there are before each word.
    before: [i32; WORDS],
    total: i32,
}

/// How many Mondays to Fridays lie between a Monday long ago and a day, that one left out.
fn weekdays_before(day: Day) -> i32 {
    let since = day.since(Day::from_number(4));
    since.div_euclid(7) * 5 + since.rem_euclid(7).min(5)
}

/// The Monday to Friday before which so many lie.
fn weekday_at(number: i32) -> Day {
    Day::from_number(4) + number.div_euclid(5) * 7 + number.rem_euclid(5)
}

impl Workdays {
    fn new(first: Day, mut days: Bits) -> Self {
        if days.iter().all(|word| *word == 0) {
            // Nobody works at all: the week that everybody knows.
            for at in 0..LOOKED_AT {
                if (first + at).weekday() < 5 {
                    set(&mut days, at);
                }
            }
        }
        let mut total = 0;
        let before = days.map(|word| {
            let before = total;
            total += i32::try_from(word.count_ones()).unwrap_or_default();
            before
        });
        Self { first, days, before, total }
    }

    /// The number that the first working day on or after a day has: how many lie before it.
    #[must_use]
    pub fn number(&self, day: Day) -> i32 {
        let at = day.since(self.first);
        if at < 0 {
            return weekdays_before(day) - weekdays_before(self.first);
        }
        if at >= LOOKED_AT {
            return self.total + weekdays_before(day) - weekdays_before(self.first + LOOKED_AT);
        }
        let at = usize::try_from(at).unwrap_or_default();
        let below = self.days[at / WORD] & ((1 << (at % WORD)) - 1);
        self.before[at / WORD] + i32::try_from(below.count_ones()).unwrap_or_default()
    }

    /// The number of the last working day on or before a day.
    #[must_use]
    pub fn number_until(&self, day: Day) -> i32 {
        self.number(day + 1) - 1
    }

    /// The working day of a number.
    #[must_use]
    pub fn day(&self, number: i32) -> Day {
        if number < 0 {
            return weekday_at(weekdays_before(self.first) + number);
        }
        if number >= self.total {
            return weekday_at(weekdays_before(self.first + LOOKED_AT) + number - self.total);
        }
        let word = self.before.partition_point(|before| *before <= number) - 1;
        let mut left = self.days[word];
        for _ in self.before[word]..number {
            left &= left - 1;
        }
        let at = word * WORD + usize::try_from(left.trailing_zeros()).unwrap_or_default();
        self.first + i32::try_from(at).unwrap_or_default()
    }

    /// Whether a day is one of them.
    #[must_use]
    pub fn has(&self, day: Day) -> bool {
        self.number(day + 1) > self.number(day)
    }

    /// How many lie from a day to another one, both included; at least 1.
    #[must_use]
    pub fn between(&self, start: Day, finish: Day) -> i32 {
        (self.number(finish + 1) - self.number(start)).max(1)
    }
}

fn set(days: &mut Bits, at: i32) {
    let at = usize::try_from(at).unwrap_or_default();
    days[at / WORD] |= 1 << (at % WORD);
}

/// Whose days count for a task.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
enum Whose {
    /// Of any of these people.
    People(Vec<PersonId>),
    /// Of any member of the team, or of teams inside it.
    Team(TeamId),
    /// Nobody is named.
    Nobody,
}

/// The working days of tasks, worked out once for each group of people.
#[derive(Debug)]
pub struct Calendars<'p> {
    plan: &'p Plan,
    first: Day,
    people: RefCell<HashMap<PersonId, Rc<Bits>>>,
    known: RefCell<HashMap<Whose, Rc<Workdays>>>,
}

impl<'p> Calendars<'p> {
    /// Those of a plan around today.
    #[must_use]
    pub fn new(plan: &'p Plan, today: Day) -> Self {
        Self { plan, first: today - REACH, people: RefCell::default(), known: RefCell::default() }
    }

    /// The working days of a task.
    #[must_use]
    pub fn of(&self, task: &Task) -> Rc<Workdays> {
        self.of_those(&task.assignees, task.team)
    }

    /// The working days of a task that these people do, or, where there are none, this team.
    #[must_use]
    pub fn of_those(&self, people: &Assignees, team: Option<TeamId>) -> Rc<Workdays> {
        let mut people: Vec<PersonId> = people.people().collect();
        people.sort_unstable();
        let whose = match team {
            _ if !people.is_empty() => Whose::People(people),
            Some(team) => Whose::Team(team),
            None => Whose::Nobody,
        };
        if let Some(known) = self.known.borrow().get(&whose) {
            return Rc::clone(known);
        }
        let made = Rc::new(Workdays::new(self.first, self.days_of(&whose)));
        self.known.borrow_mut().insert(whose, Rc::clone(&made));
        made
    }

    fn days_of(&self, whose: &Whose) -> Bits {
        let mut days = [0; WORDS];
        let mut add = |person: PersonId| {
            days.iter_mut().zip(self.of_person(person).iter()).for_each(|(sum, days)| *sum |= days);
        };
        match whose {
            Whose::People(people) => people.iter().copied().for_each(&mut add),
            Whose::Team(team) => {
                let teams = self.plan.team_and_inner(*team);
                let members = teams.iter().filter_map(|id| self.plan.records.teams.get(id)).flat_map(|it| &it.members);
                members.for_each(|(person, _)| add(*person));
            }
            Whose::Nobody => {}
        }
        days
    }

    fn of_person(&self, person: PersonId) -> Rc<Bits> {
        if let Some(known) = self.people.borrow().get(&person) {
            return Rc::clone(known);
        }
        let mut bits = [0; WORDS];
        if let Some(entry) = self.plan.people.get(&person) {
            let days = Days::of(self.plan, entry, self.first, self.first + LOOKED_AT - 1);
            let skipped = usize::try_from(self.first.since(days.first)).unwrap_or_default();
            for at in 0..LOOKED_AT {
                if days.available[skipped + usize::try_from(at).unwrap_or_default()] > 0 {
                    set(&mut bits, at);
                }
            }
        }
        let bits = Rc::new(bits);
        self.people.borrow_mut().insert(person, Rc::clone(&bits));
        bits
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Counted day by day.
    fn slow(days: &Workdays, from: Day, to: Day) -> i32 {
        i32::try_from(from.through(to - 1).filter(|day| days.has(*day)).count()).unwrap_or_default()
    }

    proptest! {
        #[test]
        fn numbers_and_days_are_each_others_inverse(
            seed in prop::collection::vec(any::<u64>(), WORDS),
            first in 10_000..20_000,
            at in -300..LOOKED_AT + 300,
            more in 0..200,
        ) {
            let mut bits: Bits = seed.try_into().unwrap_or([0; WORDS]);
            bits[WORDS - 1] &= (1 << (LOOKED_AT.unsigned_abs() as usize % WORD)) - 1;
            let days = Workdays::new(Day::from_number(first), bits);
            let day = Day::from_number(first + at);
            let number = days.number(day);
            let next = days.day(number);
            prop_assert!(next >= day && days.has(next), "the first working day on or after it");
            prop_assert!(day.through(next - 1).all(|between| !days.has(between)));
            prop_assert_eq!(days.number(day + more) - number, slow(&days, day, day + more));
            prop_assert_eq!(days.number(days.day(number + more)), number + more);
        }
    }

    #[test]
    fn where_nobody_works_monday_to_friday_count() {
        let days = Workdays::new(Day::from_number(20_500), [0; WORDS]);
        let monday = Day::from_number(20_500).monday() + 70;
        for week in [-400, 0, 50, 400] {
            let monday = monday + week * 7;
            assert_eq!(days.between(monday, monday + 6), 5);
            assert_eq!(days.day(days.number(monday + 5)), monday + 7);
            assert_eq!(days.day(days.number_until(monday + 6)), monday + 4);
        }
    }
}
