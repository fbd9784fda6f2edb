//! The scheduler on problems that chance makes: what it says is sound, and on small ones the best there is.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use proptest::{collection::vec, prelude::*};
use snug_core::tuck_in::engine::{
    Fault,
    fixed::{Activity, Problem, Schedule, search},
};

/// Activities that are behind earlier ones, over five resources of some capacity: two words a day.
fn problem(most: usize) -> impl Strategy<Value = (Vec<Activity>, Vec<u16>)> {
    let one = (0..5u16, vec(0..4u16, 5), vec(any::<prop::sample::Index>(), 0..3));
    (vec(one, 1..=most), vec(3..6u16, 5)).prop_map(|(activities, capacities)| {
        let made = activities.iter().enumerate().map(|(at, (length, needs, after))| {
            let mut after: Vec<usize> = after.iter().filter(|_| at > 0).map(|it| it.index(at)).collect();
            after.sort_unstable();
            after.dedup();
            Activity { length: *length, needs: needs.iter().copied().enumerate().collect(), after }
        });
        (made.collect(), capacities)
    })
}

fn finish(activities: &[Activity], starts: &[i32], at: usize) -> i32 {
    starts[at] + i32::from(activities[at].length)
}

/// Whether everything is behind what it is to be behind, and no day needs more than there is; day by day.
fn is_sound(activities: &[Activity], capacities: &[u16], starts: &[i32]) -> bool {
    let in_order = |(at, activity): (usize, &Activity)| {
        starts[at] >= 0 && activity.after.iter().all(|before| finish(activities, starts, *before) <= starts[at])
    };
    let end = (0..activities.len()).map(|at| finish(activities, starts, at)).max().unwrap_or(0);
    let fits = |day: i32, resource: usize| {
        let runs = |at: &usize| (starts[*at]..finish(activities, starts, *at)).contains(&day);
        let of =
            |at: usize| activities[at].needs.iter().filter(|(it, _)| *it == resource).map(|(_, it)| *it).sum::<u16>();
        (0..activities.len()).filter(runs).map(of).sum::<u16>() <= capacities[resource]
    };
    activities.iter().enumerate().all(in_order)
        && (0..end).all(|day| (0..capacities.len()).all(|resource| fits(day, resource)))
}

/// The shortest of all schedules in which each activity in turn is placed as early as it can be; one of them is the best there is.
fn shortest(activities: &[Activity], capacities: &[u16]) -> i32 {
    fn go(activities: &[Activity], capacities: &[u16], placed: &mut Vec<Option<i32>>, end: i32, best: &mut i32) {
        if placed.iter().all(Option::is_some) {
            *best = end.min(*best);
        }
        for at in 0..activities.len() {
            let ready = activities[at]
                .after
                .iter()
                .map(|before| placed[*before].map(|it| it + i32::from(activities[*before].length)));
            let Some(earliest) = ready.collect::<Option<Vec<i32>>>().filter(|_| placed[at].is_none()) else { continue };
            let earliest = earliest.into_iter().max().unwrap_or(0);
            let with = |start: i32| {
                let own: Vec<usize> = (0..activities.len()).filter(|it| placed[*it].is_some() || *it == at).collect();
                let some: Vec<Activity> =
                    own.iter().map(|it| Activity { after: Vec::new(), ..activities[*it].clone() }).collect();
                let starts: Vec<i32> = own.iter().map(|it| placed[*it].unwrap_or(start)).collect();
                is_sound(&some, capacities, &starts)
            };
            let start = (earliest..1_000).find(|start| with(*start)).unwrap();
            placed[at] = Some(start);
            go(activities, capacities, placed, end.max(start + i32::from(activities[at].length)), best);
            placed[at] = None;
        }
    }
    let mut best = i32::MAX;
    go(activities, capacities, &mut vec![None; activities.len()], 0, &mut best);
    best
}

fn after_passes(problem: &Problem, seed: u64, passes: u64) -> Schedule {
    search(problem, seed, &mut |progress| progress.passes < passes)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn a_schedule_keeps_the_order_and_every_capacity((activities, capacities) in problem(25), seed in any::<u64>()) {
        let problem = Problem::new(&activities, &capacities).unwrap();
        let mut told = Vec::new();
        let found = search(&problem, seed, &mut |progress| {
            told.push(progress);
            progress.passes < 400
        });
        prop_assert!(is_sound(&activities, &capacities, &found.starts));
        prop_assert_eq!((0..activities.len()).map(|at| finish(&activities, &found.starts, at)).max().unwrap(), found.end);
        prop_assert!(found.end >= problem.lower_bound());
        prop_assert!(told.windows(2).all(|pair| pair[0].end >= pair[1].end && pair[0].passes < pair[1].passes));
        prop_assert!(told.iter().all(|it| it.end > problem.lower_bound()), "once nothing can be shorter it stops");
        prop_assert_eq!(&after_passes(&problem, seed, 400), &found, "the same seed, the same answer");
        prop_assert!(after_passes(&problem, seed, 50).end >= found.end, "more passes are never worse");
    }

    #[test]
    fn a_small_one_is_as_short_as_it_can_be((activities, capacities) in problem(5), seed in any::<u64>()) {
        let problem = Problem::new(&activities, &capacities).unwrap();
        let best = shortest(&activities, &capacities);
        prop_assert!(problem.lower_bound() <= best);
        prop_assert_eq!(after_passes(&problem, seed, 2_000).end, best);
    }
}

#[test]
fn what_is_no_problem_is_told() {
    let one =
        |needs: &[(usize, u16)], after: &[usize]| Activity { length: 1, needs: needs.to_vec(), after: after.to_vec() };
    let told = |activities: &[Activity]| Problem::new(activities, &[4]).map(|it| it.len());
    assert_eq!(told(&[one(&[], &[1]), one(&[], &[0])]), Err(Fault::Cycle(0)));
    assert_eq!(told(&[one(&[], &[7])]), Err(Fault::Unknown(0)));
    assert_eq!(told(&[one(&[(3, 1)], &[])]), Err(Fault::Unknown(0)));
    assert_eq!(told(&[one(&[], &[]), one(&[(0, 5)], &[])]), Err(Fault::TooMuch(1)));
    assert_eq!(told(&[one(&[(0, 3), (0, 3)], &[])]), Err(Fault::TooMuch(0)), "of one resource twice");
    assert_eq!(told(&vec![Activity::default(); 70_000]), Err(Fault::TooLarge));
    assert_eq!(after_passes(&Problem::new(&[], &[]).unwrap(), 1, 9), Schedule::default(), "nothing takes no time");
}
