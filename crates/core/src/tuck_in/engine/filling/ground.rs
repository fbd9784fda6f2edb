//! The days of resources while activities are placed on them.

use super::{super::search::Made, Part, Place, Problem, Resource, Score, fit::Laid};

/// How placed activities fill the days of resources.
pub struct Ground<'p> {
    pub(super) problem: &'p Problem,
    /// The resources as they are filled now.
    pub(super) resources: Vec<Resource>,
    /// Σ of what each resource gives on the days before each day.
    pub(super) given_before: Vec<Vec<i64>>,
    /// The first day of each resource on which there may be room.
    pub(super) open_from: Vec<usize>,
    pub(super) places: Vec<Option<Place>>,
    pub(super) laid: Vec<Vec<Laid>>,
}

impl<'p> Ground<'p> {
    /// Nothing is placed yet.
    #[must_use]
    pub fn new(problem: &'p Problem) -> Self {
        let sums = |resource: &Resource| {
            let mut sum = 0;
            let days = resource.given.iter().map(|minutes| {
                sum += i64::from(*minutes);
                sum
            });
            std::iter::once(0).chain(days).collect()
        };
        let count = problem.activities.len();
        Self {
            problem,
            resources: problem.resources.clone(),
            given_before: problem.resources.iter().map(sums).collect(),
            open_from: vec![0; problem.resources.len()],
            places: vec![None; count],
            laid: vec![Vec::new(); count],
        }
    }

    /// Where everything is.
    #[must_use]
    pub fn places(&self) -> &[Option<Place>] {
        &self.places
    }

    fn parts(&self, at: usize, mode: usize) -> &'p [Part] {
        &self.problem.activities[at].modes[mode].parts
    }

    /// Puts an activity on its days.
    pub(super) fn put(&mut self, at: usize, place: Place, laid: Vec<Laid>) {
        for (part, laid) in self.parts(at, place.mode).iter().zip(&laid) {
            self.lay(part, laid, false);
        }
        self.places[at] = Some(place);
        self.laid[at] = laid;
        self.open_gates(at);
    }

    /// Takes an activity off its days.
    pub(super) fn take(&mut self, at: usize) -> Option<(Place, Vec<Laid>)> {
        let place = self.places[at].take()?;
        let laid = std::mem::take(&mut self.laid[at]);
        for (part, laid) in self.parts(at, place.mode).iter().zip(&laid) {
            self.lay(part, laid, true);
        }
        Some((place, laid))
    }

    /// The gates behind an activity that are open move with what is before them.
    fn open_gates(&mut self, at: usize) {
        let problem = self.problem;
        for (gate, _) in &problem.onward[at] {
            if problem.activities[*gate].is_gate && self.places[*gate].is_some() {
                self.places[*gate] = self.gate(*gate);
            }
        }
    }

    /// When a gate is passed: when everything before it is over.
    fn gate(&self, at: usize) -> Option<Place> {
        let before = self.problem.activities[at].bonds.iter().map(|bond| self.places[bond.from].map(|it| it.finish));
        let day = before.collect::<Option<Vec<usize>>>()?.into_iter().max().unwrap_or(0);
        Some(Place { mode: 0, start: day, finish: day })
    }

    /// Places everything anew, one after the other: in the mode that is asked for, if that can be, else in the one that finishes first,
    /// of several the one it is in now, then the first.
    pub(super) fn make(&mut self, order: &[usize], modes: &[Option<usize>]) {
        (0..self.places.len()).for_each(|at| drop(self.take(at)));
        for at in order {
            let wanted = modes.get(*at).copied().flatten();
            self.place(*at, wanted);
        }
    }

    /// Places one activity, if it can be.
    pub(super) fn place(&mut self, at: usize, wanted: Option<usize>) {
        let activity = &self.problem.activities[at];
        if !self.is_open(activity) {
            return;
        }
        if activity.is_gate {
            self.places[at] = self.gate(at);
            return;
        }
        let asked = wanted.filter(|mode| *mode < activity.modes.len());
        let found = asked.and_then(|mode| self.earliest(at, mode, usize::MAX)).or_else(|| self.first_of_modes(at));
        if let Some((place, laid)) = found {
            self.put(at, place, laid);
        }
    }

    /// The place that finishes first of all modes.
    pub(super) fn first_of_modes(&self, at: usize) -> Option<(Place, Vec<Laid>)> {
        let activity = &self.problem.activities[at];
        let now = activity.now.map(|(mode, ..)| mode);
        let mut best: Option<(Place, Vec<Laid>)> = None;
        for mode in now.into_iter().chain((0..activity.modes.len()).filter(|mode| Some(*mode) != now)) {
            let before = best.as_ref().map_or(usize::MAX, |(place, _)| place.finish);
            if let Some(found) = self.earliest(at, mode, before) {
                best = Some(found);
            }
        }
        best
    }

    /// What the places come to.
    #[must_use]
    pub fn score(&self) -> Score {
        let mut score = Score::default();
        for (activity, place) in self.problem.activities.iter().zip(&self.places).filter(|(it, _)| !it.is_gate) {
            let Some(place) = place else {
                score.miss(activity);
                continue;
            };
            let mode = &activity.modes[place.mode];
            score.late += activity.weight * self.problem.late_days(mode, place.finish);
            if activity.wish.is_none() {
                score.last = score.last.max(place.finish);
                score.sum += days_from(self.problem.today, place.finish);
            }
            score.changed += usize::from(activity.now != Some((place.mode, place.start, place.finish)));
        }
        score
    }

    /// What the schedule would come to if each activity were the only one: no schedule comes to less.
    pub(super) fn alone(&self) -> Score {
        let mut score = Score::default();
        for (at, activity) in self.problem.activities.iter().enumerate().filter(|(_, it)| !it.is_gate) {
            let modes = 0..activity.modes.len();
            let found: Vec<Place> =
                modes.filter_map(|mode| self.earliest(at, mode, usize::MAX)).map(|it| it.0).collect();
            let Some(finish) = found.iter().map(|place| place.finish).min() else {
                score.miss(activity);
                continue;
            };
            let late = |place: &Place| self.problem.late_days(&activity.modes[place.mode], place.finish);
            score.late += activity.weight * found.iter().map(late).min().unwrap_or(0);
            if activity.wish.is_none() {
                score.last = score.last.max(finish);
                score.sum += days_from(self.problem.today, finish);
            }
            score.changed += usize::from(activity.now.is_none());
        }
        score
    }

    /// The schedule as the search keeps it.
    pub(super) fn told(&self, order: &[usize]) -> Made<Score> {
        let problem = self.problem;
        let day = |of: fn(&Place) -> usize| {
            let days = self.places.iter().map(move |place| place.as_ref().map_or(0, of));
            days.map(|day| i32::try_from(day).unwrap_or(i32::MAX)).collect()
        };
        let cost = |(activity, place): (&super::Activity, &Option<Place>)| match place {
            _ if activity.is_gate => 0,
            None => i64::MAX,
            Some(place) => {
                let late = activity.weight * problem.late_days(&activity.modes[place.mode], place.finish);
                late * 1_000 + days_from(problem.today, place.finish)
            }
        };
        Made {
            order: order.to_vec(),
            modes: self.places.iter().map(|place| place.map_or(0, |it| it.mode)).collect(),
            starts: day(|place| place.start),
            ends: day(|place| place.finish + 1),
            costs: problem.activities.iter().zip(&self.places).map(cost).collect(),
            score: self.score(),
        }
    }
}

fn days_from(today: usize, day: usize) -> i64 {
    i64::try_from(day).unwrap_or(i64::MAX) - i64::try_from(today).unwrap_or(0)
}
