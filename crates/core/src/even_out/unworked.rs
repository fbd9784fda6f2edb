//! Hours that were booked on past days and not worked, offered again in the room of the weeks to come.

use super::to_look_at;
use crate::{
    BookingId, Day, PersonId, Plan, ProjectId,
    cells::Grain,
    change::{Change, Edit},
    demand::Window,
    hours::worked::{Meant, of_person},
    kinds::{Amount, Booking, Certainty, Unit, Who},
    load::PersonCells,
    rules::LONGEST_DAYS,
    spread::largest_remainder,
};

/// What of a person's booked hours on a project was not worked.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Unworked {
    /// Whose.
    pub person: PersonId,
    /// On which project.
    pub project: ProjectId,
    /// max(0, firm booked − logged), in minutes.
    pub minutes: i64,
}

impl Unworked {
    /// What somebody did not work from a day to another one, both before today.
    #[must_use]
    pub fn of(plan: &Plan, person: PersonId, past: (Day, Day), today: Day) -> Vec<Self> {
        let Some(entry) = plan.people.get(&person) else { return Vec::new() };
        let worked = of_person(plan, &Meant::for_one(plan, entry), entry, past, today);
        let unworked = worked
            .into_iter()
            .filter_map(|(project, worked)| Some(Self { person, project: project?, minutes: worked.unworked() }));
        unworked.filter(|it| it.minutes > 0).collect()
    }
}

/// Hours offered again.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Offered {
    /// The weeks, or what lies of them in the time: first and last day, their room, and what is offered there, in minutes.
    pub weeks: Vec<(Day, Day, i64, i64)>,
    /// What does not fit, in minutes.
    pub left: i64,
}

impl Offered {
    /// The bookings that it comes to.
    #[must_use]
    pub fn changes(&self, of: Unworked) -> Vec<Change> {
        let weeks = self.weeks.iter().filter(|(.., minutes)| *minutes > 0);
        let booking = |(from, to, _, minutes): &(Day, Day, i64, i64)| {
            Change::Booking(Edit::new(Booking {
                id: BookingId(0),
                reference: String::new(),
                who: Who::Person(of.person),
                project: Some(of.project),
                start: *from,
                end: *to,
                amount: Amount { value: i32::try_from(*minutes).unwrap_or(i32::MAX), unit: Unit::Total },
                certainty: Certainty::Firm,
                days_off: false,
                note: String::new(),
                line: String::new(),
            }))
        };
        weeks.map(booking).collect()
    }
}

/// What several people did not work from a day to another one, both before today; the largest first.
#[must_use]
pub fn unworked(
    plan: &Plan,
    people: impl IntoIterator<Item = PersonId>,
    past: (Day, Day),
    today: Day,
) -> Vec<Unworked> {
    let mut all: Vec<Unworked> =
        people.into_iter().flat_map(|person| Unworked::of(plan, person, past, today)).collect();
    all.sort_by_key(|it| (-it.minutes, it.person, it.project));
    all
}

/// Offers hours again, one after the other, each up to its day and in the room that those before it leave; what has no such day does
/// not fit at all.
#[must_use]
pub fn in_turn(
    plan: &Plan,
    wanted: impl IntoIterator<Item = (Unworked, Option<Day>)>,
    today: Day,
) -> Vec<(Unworked, Offered)> {
    let mut rest = plan.clone();
    let offer = |(of, until): (Unworked, Option<Day>)| {
        let nothing = || Offered { left: of.minutes, ..Offered::default() };
        let offer = until.map_or_else(nothing, |until| offered(&rest, of, until, today));
        rest = rest.with(&to_look_at(&rest, &offer.changes(of)));
        (of, offer)
    };
    wanted.into_iter().map(offer).collect()
}

/// Until when hours are offered where nobody says: to the end of the person's last firm booking on the project, or the project's finish;
/// `None` where neither lies ahead.
#[must_use]
pub fn until(plan: &Plan, of: Unworked, today: Day) -> Option<Day> {
    let entry = plan.people.get(&of.person)?;
    let own = entry.bookings().filter(|row| row.project == Some(of.project));
    let firm = own.filter(|row| row.brick.certainty() == Certainty::Firm).map(|row| row.brick.end);
    let booked = firm.max().filter(|end| *end >= today);
    booked.or_else(|| plan.records.projects.get(&of.project)?.finish.filter(|finish| *finish >= today))
}

/// Offers hours again from today to a last day: of each week's room the same share is filled.
#[must_use]
pub fn offered(plan: &Plan, of: Unworked, until: Day, today: Day) -> Offered {
    let Some(entry) = plan.people.get(&of.person) else { return Offered { left: of.minutes, ..Offered::default() } };
    let until = until.clamp(today, today + LONGEST_DAYS);
    let window = Window::new(today, until, today);
    let cells = PersonCells::of(plan, entry, &window, Grain::Week, false);
    let buckets = Grain::Week.buckets(today, until, &plan.settings);
    let room = |bucket| {
        let cell = cells.cell(bucket);
        (cell.limit.unwrap_or(0) - cell.load).max(0)
    };
    let rooms: Vec<i64> = buckets.iter().map(|bucket| room(*bucket)).collect();
    let fits = of.minutes.min(rooms.iter().sum());
    let parts = largest_remainder(fits, &rooms).unwrap_or_else(|| vec![0; rooms.len()]);
    let weeks = buckets.iter().zip(rooms).zip(parts).map(|((bucket, room), part)| (bucket.from, bucket.to, room, part));
    Offered { weeks: weeks.collect(), left: of.minutes - fits }
}
