//! Any small plan: every unit, pattern, setting and kind of task that the rules speak of.

use super::{absence, booking, day, entry, logged, new_task, person, project, task, team};
use proptest::{
    collection::{btree_set, vec},
    option,
    prelude::*,
    sample::select,
};
use snug_core::{
    HolidayId, PersonId, Plan, ProjectId, TaskId, TeamId,
    change::{Change, Edit},
    kinds::{
        Absence, Amount, Assignees, Booking, Certainty, Contour, DatedPattern, Holiday, Pattern, Person, Project,
        ProjectStatus, Task, Team, Unit, Who,
    },
    settings::{Envelope, Settings},
};

/// Three people, five projects of which 12 lies in 11, 13 in 12 and the last is closed, and three teams of which the second lies in
/// the first and the third in the second.
const PROJECTS: std::ops::RangeInclusive<i32> = 11..=15;
const WORDS: [&str; 4] = ["rigger", " Rigger", "smith", ""];

fn week() -> impl Strategy<Value = [i32; 7]> {
    let usual = prop_oneof![3 => Just(480), 1 => Just(0), 2 => 100..600i32];
    (prop::array::uniform5(usual), prop_oneof![3 => Just(0), 1 => 60..400i32])
        .prop_map(|(w, saturday)| [w[0], w[1], w[2], w[3], w[4], saturday, 0])
}

fn patterns() -> impl Strategy<Value = Vec<DatedPattern>> {
    let first = vec(week(), 1..3);
    (first, option::of((-3..30i32, vec(week(), 1..3)))).prop_map(|(first, later)| {
        let later = later.map(|(from, weeks)| DatedPattern { from: Some(day(from)), pattern: Pattern(weeks) });
        std::iter::once(DatedPattern { from: None, pattern: Pattern(first) }).chain(later).collect()
    })
}

pub fn somebody(id: i32) -> impl Strategy<Value = Vec<Change>> {
    let limits = (option::of(120..500i32), option::of(500..2_400i32));
    let off = vec((-2..30i32, 0..6i32, option::of((30..400i32, option::of(0..900i32)))), 0..3);
    let words = (select(&WORDS[..]), vec(select(&WORDS[..]), 0..3), prop::bool::ANY);
    (patterns(), limits, off, words).prop_map(
        move |(patterns, (day_limit, week_limit), off, (role, skills, is_local))| {
            let one = Person {
                patterns,
                day_limit,
                week_limit,
                role: role.into(),
                skills: skills.into_iter().map(str::to_owned).collect(),
                calendar: if is_local { "c".into() } else { String::new() },
                ..person(id)
            };
            let off = (id * 10..).zip(off).map(|(number, (start, more, part))| {
                let minutes = part.map(|(minutes, _)| minutes);
                let at = part.and_then(|(_, at)| at);
                Change::Absence(Edit::new(Absence { at, ..absence(number, id, start, start + more, minutes) }))
            });
            std::iter::once(Change::Person(Edit::new(one))).chain(off).collect()
        },
    )
}

fn bookings() -> impl Strategy<Value = Vec<Change>> {
    let who = prop_oneof![
        4 => (1..=3i32).prop_map(|id| Who::Person(PersonId(id))),
        1 => (61..=63i32).prop_map(|id| Who::Team(TeamId(id))),
        1 => select(&["rigger", "Smith "][..]).prop_map(|word| Who::Role(word.into())),
    ];
    let amount = prop_oneof![
        (10..700i32).prop_map(|value| Amount { value, unit: Unit::PerDay }),
        (10..3_000i32).prop_map(|value| Amount { value, unit: Unit::PerWeek }),
        (1..9_000i32).prop_map(|value| Amount { value, unit: Unit::Total }),
        (100..15_000i32).prop_map(|value| Amount { value, unit: Unit::Percent }),
    ];
    let one = (who, 10..=14i32, -9..40i32, 0..20i32, amount, prop::bool::ANY, prop::bool::weighted(0.3));
    vec(one, 0..8).prop_map(|list| {
        let numbered = (100..).zip(list);
        let changes = numbered.map(|(id, (who, on, from, more, amount, firm, days_off))| {
            Change::Booking(Edit::new(Booking {
                who,
                project: PROJECTS.contains(&on).then_some(ProjectId(on)),
                amount,
                certainty: if firm { Certainty::Firm } else { Certainty::Pencilled },
                days_off,
                ..booking(id, 0, from, from + more, 1, Unit::PerDay)
            }))
        });
        changes.collect()
    })
}

fn assignees() -> impl Strategy<Value = Assignees> {
    let ids = btree_set(1..=3i32, 1..4).prop_map(|ids| ids.into_iter().map(PersonId).collect::<Vec<_>>());
    prop_oneof![
        1 => Just(Assignees::Even(Vec::new())),
        3 => ids.clone().prop_map(Assignees::Even),
        1 => ids.prop_map(Assignees::Full),
        1 => (1..10_000i32).prop_map(|share| Assignees::Shares(vec![(PersonId(2), share), (PersonId(1), 10_000 - share)])),
    ]
}

/// Up to eight tasks, any of which may lie in one before it, and what is logged on them.
fn tasks() -> impl Strategy<Value = Vec<Change>> {
    let when = option::weighted(0.9, (-12..40i32, 0..15i32));
    let size = (option::weighted(0.7, 0..4_000i64), option::weighted(0.3, 0..3_000i64), 0..600i64);
    let place = (11..=15i32, option::of(0..8usize), option::weighted(0.4, 61..=63i32));
    let shape = (select(Contour::ALL), prop::bool::weighted(0.15), select(&["T2", "T10", "T9"][..]));
    let log = vec((0..8usize, 1..=3i32, 1..600i32), 0..6);
    (vec((assignees(), when, size, place, shape), 0..9), log).prop_map(|(list, log)| {
        let count = list.len();
        let one = |at: usize| 201 + i32::try_from(at).unwrap();
        let mut changes: Vec<Change> = Vec::new();
        for (at, (assignees, when, size, place, shape)) in list.into_iter().enumerate() {
            changes.push(new_task(Task {
                reference: format!("{}-{at}", shape.2),
                project: ProjectId(place.0),
                parent: place.1.filter(|parent| *parent < at).map(|parent| TaskId(one(parent))),
                team: place.2.map(TeamId),
                assignees,
                contour: shape.0,
                estimate: size.0,
                remaining: size.1,
                logged_then: size.1.map_or(0, |_| size.2),
                start: when.map(|(from, _)| day(from)),
                finish: when.map(|(from, more)| day(from + more)),
                stage: if shape.1 { "done".into() } else { "to do".into() },
                ..task(one(at), &[], None)
            }));
        }
        for (id, (on, who, minutes)) in (300..).zip(log).filter(|(_, (on, ..))| *on < count) {
            changes.push(logged(entry(id, who, Some(one(on)), minutes)));
        }
        changes
    })
}

fn ground() -> impl Strategy<Value = Vec<Change>> {
    let shares = prop::array::uniform3((0..=60i32, 0..=25i32, 0..=15i32));
    let capacity = prop::array::uniform3(option::weighted(0.3, 300..9_000i32));
    let holidays = vec((0..30i32, select(&[250_000, 500_000, 1_000_000][..])), 0..4);
    let settings = (select(Envelope::ALL), 0..7usize, 1..13u32, week());
    (shares, capacity, holidays, settings).prop_map(|(shares, capacity, holidays, settings)| {
        let (envelope, first_weekday, fiscal_start, week) = settings;
        let pattern = Pattern(vec![week]);
        let settings =
            Settings { envelope, first_weekday, fiscal_start, pattern, day_minutes: 450, ..Settings::default() };
        let mut changes = vec![Change::Settings(Edit::new(settings))];
        for id in PROJECTS {
            let parent = (id == 12 || id == 13).then_some(ProjectId(id - 1));
            let status = if id == 15 { ProjectStatus::Closed } else { ProjectStatus::Active };
            changes.push(Change::Project(Edit::new(Project { parent, status, ..project(id) })));
        }
        for (at, capacity) in capacity.into_iter().enumerate() {
            let of = |share: (i32, i32, i32)| [share.0, share.1, share.2][at] * 100;
            let members =
                (1..).zip(shares).map(|(id, share)| (PersonId(id), of(share))).filter(|(_, share)| *share > 0);
            let id = 61 + i32::try_from(at).unwrap();
            let parent = (at > 0).then_some(TeamId(id - 1));
            let team = Team { parent, week_capacity: capacity, ..team(id, members.collect()) };
            changes.push(Change::Team(Edit::new(team)));
        }
        for (id, (date, fraction)) in (400..).zip(holidays) {
            let holiday =
                Holiday { id: HolidayId(id), calendar: "c".into(), date: day(date), name: String::new(), fraction };
            changes.push(Change::Holiday(Edit::new(holiday)));
        }
        changes
    })
}

pub fn plan() -> impl Strategy<Value = Plan> {
    let people = (somebody(1), somebody(2), somebody(3));
    (ground(), people, bookings(), tasks()).prop_map(|(ground, people, bookings, tasks)| {
        let parts = [ground, people.0, people.1, people.2, bookings, tasks];
        parts.iter().fold(Plan::empty(), |plan, part| plan.with(part))
    })
}
