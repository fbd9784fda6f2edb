//! From an order to a schedule that fills days, and the search for a good one.

use super::{
    super::{
        breed::by_key,
        net::Net,
        search::{Draft, Made, Maker, bred},
    },
    Activity, Ground, Place, Problem, Progress, Score,
};

/// Makes drafts into schedules, and gives each that is better than all before the last touch.
struct Filled<'p> {
    problem: &'p Problem,
    ground: Ground<'p>,
    steps: u64,
    /// The best score of what was made, without the last touch.
    least: Option<Score>,
    /// The best of what had the last touch.
    best: Option<(Score, Vec<Option<Place>>)>,
    /// No schedule is better; not worked out for very many activities.
    bound: Option<Score>,
}

/// Up to so many activities it is worked out beforehand what each would do alone.
const LOOKED_AT_ALONE: usize = 1_000;

impl Maker for Filled<'_> {
    type Score = Score;

    fn net(&self) -> &Net {
        &self.problem.net
    }

    fn modes(&self, at: usize) -> usize {
        self.problem.activities[at].modes.len()
    }

    /// By due day, by weight and due day, by slack, the shortest first, and the longest way first; of the same the longer way.
    fn first(&self) -> Vec<Vec<usize>> {
        let (problem, net) = (self.problem, &self.problem.net);
        let due: Vec<i32> = problem.activities.iter().map(|it| due_of(problem, it)).collect();
        // What something due waits for is as urgent as that.
        let mut behind = due.clone();
        for at in by_key(net, &vec![0; net.len()]).into_iter().rev() {
            let next = net.behind[at].iter().map(|next| behind[*next]).min().unwrap_or(i32::MAX);
            behind[at] = behind[at].min(next);
        }
        let wished = |at: usize| problem.activities[at].wish.is_some();
        let weight = |at: usize| problem.activities[at].weight;
        let way = |at: usize| -net.ways[at];
        let all = 0..net.len();
        let keys: [Vec<(i64, i64)>; 6] = [
            all.clone().map(|at| (i64::from(due[at]), 0)).collect(),
            all.clone().map(|at| (i64::from(behind[at]), -weight(at))).collect(),
            all.clone().map(|at| (-weight(at) * i64::from(behind[at] != i32::MAX), i64::from(behind[at]))).collect(),
            all.clone().map(|at| (i64::from(behind[at].saturating_sub(net.ways[at])), 0)).collect(),
            all.clone().map(|at| (i64::from(wished(at)), i64::from(net.lengths[at]))).collect(),
            all.map(|at| (i64::from(wished(at)), i64::from(way(at)))).collect(),
        ];
        keys.iter()
            .map(|keys| {
                let keys: Vec<_> = keys.iter().enumerate().map(|(at, key)| (*key, way(at))).collect();
                by_key(net, &keys)
            })
            .collect()
    }

    fn made(&mut self, draft: Draft) -> Made<Score> {
        self.steps += 1;
        self.ground.make(&draft.order, &draft.modes);
        let made = self.ground.told(&draft.order);
        if self.least.is_none_or(|least| made.score < least) {
            self.least = Some(made.score);
            self.ground.settle(draft.modes.iter().all(Option::is_none));
            let score = self.ground.score();
            if self.best.as_ref().is_none_or(|(best, _)| score < *best) {
                self.best = Some((score, self.ground.places().to_vec()));
            }
        }
        made
    }

    fn pushed(&mut self, made: &Made<Score>) -> Option<Vec<usize>> {
        self.ground.push();
        let places = self.ground.places();
        let mut keys = vec![(usize::MAX, 0); places.len()];
        for (rank, at) in made.order.iter().enumerate() {
            keys[*at] = (places[*at].map_or(usize::MAX, |place| place.start), rank);
        }
        Some(by_key(&self.problem.net, &keys))
    }

    fn passes(&self) -> u64 {
        self.steps
    }

    fn is_best(&self, score: Score) -> bool {
        self.bound.is_some_and(|bound| score <= bound)
    }
}

/// The day from which it is late in its first mode.
fn due_of(problem: &Problem, activity: &Activity) -> i32 {
    let Some(mode) = activity.modes.first() else { return i32::MAX };
    let Some(late_from) = mode.late_from else { return i32::MAX };
    let day = problem.calendars[mode.calendar].day(late_from);
    if late_from < 0 { late_from } else { day.and_then(|day| i32::try_from(day).ok()).unwrap_or(i32::MAX) }
}

/// Looks for the schedule with the least score until `go_on` says no; the first one is made in any case. Each activity has its place,
/// or none where it had to be left out; none could finish earlier with everything else standing, nor, where that is wished, start later.
/// The same seed gives the same answer after the same number of steps.
pub fn search(problem: &Problem, seed: u64, go_on: &mut dyn FnMut(Progress) -> bool) -> (Vec<Option<Place>>, Score) {
    if problem.activities.is_empty() {
        return (Vec::new(), Score::default());
    }
    let ground = Ground::new(problem);
    let bound = (problem.activities.len() <= LOOKED_AT_ALONE).then(|| ground.alone());
    let mut maker = Filled { problem, ground, steps: 0, least: None, best: None, bound };
    bred(&mut maker, seed, &mut |steps, score| go_on(Progress { steps, score }));
    maker.best.map_or_else(Default::default, |(score, places)| (places, score))
}
