//! The cells of people, teams and roles against an oracle that knows no difference arrays, no shared sums and no shortcuts: it asks each
//! day anew and adds fractions as fractions.
#![allow(clippy::unwrap_used, clippy::cast_precision_loss)] // a test may fail where it stands; minutes are small

mod support;

use num_rational::Ratio;
use proptest::prelude::*;
use snug_core::{
    AbsenceId, Day, HolidayId, PersonId, Plan, ProjectId, TaskId, TeamId,
    availability::Days,
    cells::{Bucket, Cell, Grain},
    change::{Change, Edit},
    demand::Window,
    load::{Group, Measure, Query, table},
    people::{Absence, DatedPattern, Holiday, Pattern, Person},
    work::{Assignees, Booking, Certainty, Contour, Task, Unit, Who},
};
use support::{booking, day, new_task, person, project, task, team};

type Part = Ratio<i128>;

/// What somebody is like, in small numbers.
#[derive(Clone, Debug)]
struct Somebody {
    hours: [i32; 5],
    day_limit: Option<i32>,
    week_limit: Option<i32>,
    off: Option<(i32, i32, Option<i32>)>,
    share: i32,
}

fn somebody() -> impl Strategy<Value = Somebody> {
    let off = prop::option::of((0..28, 0..5, prop::option::of(30..300)));
    let limits = (prop::option::of(200..500), prop::option::of(600..2_400));
    (prop::array::uniform5(prop_oneof![Just(480), Just(0), 120..600]), limits, off, 1..=100i32).prop_map(
        |(hours, (day_limit, week_limit), off, share)| Somebody {
            hours,
            day_limit,
            week_limit,
            off,
            share: share * 100,
        },
    )
}

/// Hours a day, on one of two projects, firm or pencilled; also seats of a role or a team.
fn booked() -> impl Strategy<Value = (usize, i32, i32, i32, i32, bool)> {
    (0usize..4, 11..=12, -3..28, 0..12, 10..500, prop::bool::ANY)
}

fn plan(people: &[Somebody], bookings: &[(usize, i32, i32, i32, i32, bool)]) -> Plan {
    let mut changes = vec![Change::Project(Edit::new(project(11))), Change::Project(Edit::new(project(12)))];
    let holiday =
        Holiday { id: HolidayId(90), calendar: "c".into(), date: day(8), name: String::new(), fraction: 500_000 };
    changes.push(Change::Holiday(Edit::new(holiday)));
    let mut members = Vec::new();
    for (at, one) in people.iter().enumerate() {
        let id = i32::try_from(at).unwrap() + 1;
        let mut week = [0; 7];
        week[..5].copy_from_slice(&one.hours);
        let pattern = DatedPattern { from: None, pattern: Pattern(vec![week]) };
        changes.push(Change::Person(Edit::new(Person {
            patterns: vec![pattern],
            day_limit: one.day_limit,
            week_limit: one.week_limit,
            calendar: "c".into(),
            ..person(id)
        })));
        if let Some((start, length, minutes)) = one.off {
            changes.push(Change::Absence(Edit::new(Absence {
                id: AbsenceId(70 + id),
                reference: String::new(),
                person: PersonId(id),
                start: day(start),
                end: day(start + length),
                kind: String::new(),
                minutes,
                at: None,
            })));
        }
        members.push((PersonId(id), one.share));
    }
    changes.push(Change::Team(Edit::new(team(61, members))));
    for (at, (who, project, start, length, minutes, firm)) in bookings.iter().enumerate() {
        let who = match who {
            0 => Who::Role("rigger".into()),
            1 => Who::Team(TeamId(61)),
            other => Who::Person(PersonId(i32::try_from(other - 1).unwrap().min(i32::try_from(people.len()).unwrap()))),
        };
        changes.push(Change::Booking(Edit::new(Booking {
            who,
            project: Some(ProjectId(*project)),
            certainty: if *firm { Certainty::Firm } else { Certainty::Pencilled },
            ..booking(100 + i32::try_from(at).unwrap(), 0, *start, start + length, *minutes, Unit::PerDay)
        })));
    }
    Plan::empty().with(&changes)
}

fn part(minutes: i64) -> Part {
    Part::from(i128::from(minutes))
}

fn half_up(value: Part) -> i64 {
    i64::try_from((value + Ratio::new(1, 2)).floor().to_integer()).unwrap()
}

/// One person's day: available, limit, firm and all load, each asked anew.
struct Oracle<'a> {
    plan: &'a Plan,
}

impl Oracle<'_> {
    fn days(&self, id: PersonId, date: Day) -> (i64, i64, i64) {
        let entry = &self.plan.people[&id];
        let days = Days::of_person(&entry.person, self.plan.holidays_of(&entry.person), &entry.absences, date, date);
        (days.pattern[0].into(), days.available[0].into(), days.limit[0].into())
    }

    fn load(&self, id: PersonId, date: Day) -> (i64, i64) {
        let (pattern, available, _) = self.days(id, date);
        let (mut firm, mut all) = (0, 0);
        for booking in self.plan.bookings().filter(|booking| booking.who == Who::Person(id)) {
            if (booking.start..=booking.end).contains(&date) && available > 0 {
                let minutes = (2 * i64::from(booking.amount.value) * available + pattern) / (2 * pattern);
                all += minutes;
                firm += if booking.certainty == Certainty::Firm { minutes } else { 0 };
            }
        }
        (firm, all)
    }

    /// Load of seats, over the workspace's Monday to Friday.
    fn seats(&self, who: &Who, bucket: Bucket) -> (i64, i64) {
        let (mut firm, mut all) = (0, 0);
        for booking in self.plan.bookings().filter(|booking| booking.who == *who) {
            let days = bucket.from.through(bucket.to).filter(|date| (booking.start..=booking.end).contains(date));
            let minutes = i64::try_from(days.filter(|date| date.weekday() < 5).count()).unwrap()
                * i64::from(booking.amount.value);
            all += minutes;
            firm += if booking.certainty == Certainty::Firm { minutes } else { 0 };
        }
        (firm, all)
    }

    /// Limit, firm, load and peak of a share of somebody's time in a bucket.
    fn person(&self, id: PersonId, share: Part, bucket: Bucket, grain: Grain) -> [Part; 4] {
        let long = !matches!(grain, Grain::Day | Grain::Week);
        let [mut limit, mut firm, mut load, mut peak] = [part(0); 4];
        let mut monday = bucket.from.monday();
        while monday <= bucket.to {
            let week: Vec<Day> = monday.through(monday + 6).collect();
            let inside: Vec<Day> = week.iter().copied().filter(|d| (bucket.from..=bucket.to).contains(d)).collect();
            let sum = |days: &[Day], of: &dyn Fn(Day) -> i64| part(days.iter().map(|d| of(*d)).sum());
            let day_limit = |date: Day| self.days(id, date).2;
            let plain = sum(&inside, &day_limit);
            let most = self.plan.people[&id].person.week_limit.filter(|_| grain != Grain::Day).map(|most| {
                let whole = sum(&week, &|date| self.days(id, date).1);
                let covered = sum(&inside, &|date| self.days(id, date).1);
                if inside.len() == 7 {
                    part(most.into())
                } else if whole == part(0) {
                    part(0)
                } else {
                    part(most.into()) * covered / whole
                }
            });
            let week_limit = most.map_or(plain, |most| most.min(plain)) * share;
            let week_load = sum(&inside, &|date| self.load(id, date).1) * share;
            let days_over: Part =
                inside.iter().map(|d| (part(self.load(id, *d).1 - day_limit(*d)).max(part(0))) * share).sum();
            limit += week_limit;
            load += week_load;
            firm += sum(&inside, &|date| self.load(id, date).0) * share;
            peak += if long { (week_load - week_limit).max(days_over) } else { days_over };
            monday = monday + 7;
        }
        [limit, firm, load, peak]
    }

    /// A row of several people and seats.
    fn row(&self, people: &[(PersonId, Part)], seats: &Who, bucket: Bucket, grain: Grain) -> Cell {
        let [mut limit, mut firm, mut load, mut peak, mut room, mut spill] = [part(0); 6];
        let mut over = 0;
        for (id, share) in people {
            let [l, f, a, p] = self.person(*id, *share, bucket, grain);
            limit += l;
            firm += f;
            load += a;
            peak += p;
            room += (l - a).max(part(0));
            spill += (a - l).max(part(0));
            over += u32::from(a > l || p > part(0));
        }
        let (seat_firm, seat_load) = self.seats(seats, bucket);
        let taken = part(seat_load).min(room);
        Cell {
            limit: Some(half_up(limit)),
            load: half_up(load + part(seat_load)),
            firm: half_up(firm + part(seat_firm)),
            room: half_up(room - taken),
            spill: half_up(spill + part(seat_load) - taken),
            peak: half_up(peak),
            over,
        }
    }
}

fn cells(plan: &Plan, group: Group, grain: Grain, key: &str) -> (Vec<Bucket>, Vec<Cell>) {
    let window = Window::new(day(2), day(24), day(-30));
    let table = table(plan, &Query { window, grain, group, measure: Measure::Minutes });
    let row = table.rows.into_iter().find(|row| row.key == key).unwrap();
    (table.buckets, row.band_cells)
}

const GRAINS: [Grain; 3] = [Grain::Day, Grain::Week, Grain::Month];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn a_persons_cells_are_what_the_days_say(one in somebody(), list in prop::collection::vec(booked(), 0..6)) {
        let plan = plan(&[one], &list);
        for grain in GRAINS {
            let (buckets, got) = cells(&plan, Group::Person, grain, "p1@example.test");
            for (bucket, cell) in buckets.into_iter().zip(got) {
                let expected = Oracle { plan: &plan }.row(&[(PersonId(1), part(1))], &Who::Role("nobody".into()), bucket, grain);
                prop_assert_eq!(cell, expected, "{} {:?}", grain, bucket);
            }
        }
    }

    #[test]
    fn a_teams_cells_are_the_shares_of_its_people_and_its_own_seats(
        people in prop::collection::vec(somebody(), 2..4),
        list in prop::collection::vec(booked(), 0..8),
    ) {
        let plan = plan(&people, &list);
        let shares: Vec<(PersonId, Part)> = people
            .iter()
            .enumerate()
            .map(|(at, one)| (PersonId(i32::try_from(at).unwrap() + 1), Part::new(i128::from(one.share), 10_000)))
            .collect();
        for grain in GRAINS {
            let (buckets, got) = cells(&plan, Group::Team, grain, "t61");
            for (bucket, cell) in buckets.into_iter().zip(got) {
                let expected = Oracle { plan: &plan }.row(&shares, &Who::Team(TeamId(61)), bucket, grain);
                prop_assert_eq!(cell, expected, "{} {:?}", grain, bucket);
            }
        }
    }

    #[test]
    fn a_roles_cells_are_its_people_and_open_seats(
        people in prop::collection::vec(somebody(), 1..4),
        list in prop::collection::vec(booked(), 0..8),
    ) {
        let plan = plan(&people, &list);
        let all: Vec<(PersonId, Part)> = plan.people.keys().map(|id| (*id, part(1))).collect();
        for grain in GRAINS {
            let (buckets, got) = cells(&plan, Group::Role, grain, "rigger");
            for (bucket, cell) in buckets.into_iter().zip(got) {
                let expected = Oracle { plan: &plan }.row(&all, &Who::Role("rigger".into()), bucket, grain);
                prop_assert_eq!(cell, expected, "{} {:?}", grain, bucket);
            }
        }
    }

    /// However a task lies, each day has its share by the contour's own formula, within a minute, and no minute is lost.
    #[test]
    fn a_tasks_minutes_follow_its_contour(
        estimate in 1i64..6_000,
        start in 0i32..10,
        length in 0i32..15,
        contour in prop_oneof![Just(Contour::Flat), Just(Contour::Front), Just(Contour::Back), Just(Contour::Bell)],
        one in somebody(),
    ) {
        let work = Task { contour, start: Some(day(start)), finish: Some(day(start + length)), ..task(41, &[1], Some(estimate)) };
        let plan = plan(&[one], &[]).with(&[new_task(work)]);
        let window = Window::new(day(0), day(27), day(-1));
        let load = snug_core::demand::person_load(&plan, &plan.people[&PersonId(1)], &window, true);
        let Some(part) = load.tasks.first() else { return Ok(()) };
        let oracle = Oracle { plan: &plan };
        let run: Vec<(Day, f64)> = day(start).through(day(start + length)).map(|d| (d, oracle.days(PersonId(1), d).1 as f64)).collect();
        let total: f64 = run.iter().map(|(_, minutes)| minutes).sum();
        prop_assert_eq!(part.stranded, total == 0.0);
        if total > 0.0 {
            prop_assert_eq!(part.minutes.iter().map(|m| i64::from(*m)).sum::<i64>(), estimate);
            let mut before = 0.0;
            let mut weights = Vec::new();
            for (_, minutes) in &run {
                let x = (before + minutes / 2.0) / total;
                before += minutes;
                weights.push(minutes * match contour {
                    Contour::Flat => 1.0,
                    Contour::Front => 2.0 * (1.0 - x),
                    Contour::Back => 2.0 * x,
                    Contour::Bell => 2.0 - (4.0 * x - 2.0).abs(),
                });
            }
            let sum: f64 = weights.iter().sum();
            for ((date, _), weight) in run.iter().zip(weights) {
                let got = f64::from(part.minutes[load.days.index(*date).unwrap()]);
                prop_assert!((got - estimate as f64 * weight / sum).abs() < 1.0 + 1e-6, "{date}: {got}");
            }
        }
    }

    /// Between several people no minute is lost, whatever each has logged and whatever was typed.
    #[test]
    fn effort_is_cut_without_a_rest(
        estimate in 0i64..5_000,
        typed in prop::option::of(0i64..5_000),
        shares in prop::collection::vec(1i32..100, 2..4),
        log in prop::collection::vec((0usize..3, 1i32..600), 0..4),
    ) {
        let sum: i32 = shares.iter().sum();
        let mut parts: Vec<i32> = shares.iter().map(|share| share * 10_000 / sum).collect();
        let rest = 10_000 - parts.iter().sum::<i32>();
        parts[0] += rest;
        let people = parts.iter().enumerate().map(|(at, share)| (PersonId(i32::try_from(at).unwrap() + 1), *share)).collect();
        let mut plan = plan(&vec![Somebody { hours: [480; 5], day_limit: None, week_limit: None, off: None, share: 10_000 }; shares.len()], &[]);
        plan.apply(&new_task(Task { assignees: Assignees::Shares(people), remaining: typed, ..task(41, &[], Some(estimate)) }));
        for (at, (who, minutes)) in log.iter().enumerate() {
            let who = i32::try_from(who % shares.len()).unwrap() + 1;
            plan.apply(&support::logged(support::entry(200 + i32::try_from(at).unwrap(), who, Some(41), *minutes)));
        }
        let effort = snug_core::demand::effort_of(&plan, &plan.tasks[&TaskId(41)]).unwrap();
        prop_assert_eq!(effort.parts.iter().map(|(_, minutes)| minutes).sum::<i64>(), effort.minutes);
        prop_assert!(effort.parts.iter().all(|(_, minutes)| *minutes >= 0));
        if let Some(typed) = typed {
            prop_assert_eq!(effort.minutes, typed);
        } else {
            let logged: i64 = log.iter().map(|(_, minutes)| i64::from(*minutes)).sum();
            prop_assert!(effort.minutes >= (estimate - logged).max(0) && effort.minutes <= estimate);
        }
    }
}
