//! The last touch: nothing could finish earlier with everything else standing, and what is to be late is as late as it can be.

use super::{Activity, Ground, Mode, Place, fit::Laid, place::From};

impl Ground<'_> {
    /// Moves one after the other until nothing moves any more: what wishes to be late later, and then, as that leaves room, what was left out
    /// in and what can finish earlier earlier. Both come to an end, as no day is passed twice. Where each was placed in the mode that is
    /// best for it, nothing can finish earlier before something has moved, as whatever was placed after it only takes room.
    pub(super) fn settle(&mut self, in_best_modes: bool) {
        let mut is_open = !in_best_modes;
        while self.delay() || is_open {
            is_open = false;
            while self.pull() {}
        }
    }

    /// Those that are placed, by start, then the others, which may be placed by now.
    fn in_order(&self) -> Vec<usize> {
        let mut order: Vec<usize> = (0..self.places.len()).filter(|at| !self.problem.activities[*at].is_gate).collect();
        order.sort_by_key(|at| (self.places[*at].map_or(usize::MAX, |place| place.start), *at));
        order
    }

    /// Pulls everything without the wish to be late to where it finishes first, and places what can be placed.
    fn pull(&mut self) -> bool {
        let mut has_moved = false;
        for at in self.in_order() {
            match self.take(at) {
                None => {
                    self.place(at, None);
                    if self.places[at].is_some() {
                        has_moved = true;
                        self.pass_gates();
                    }
                }
                Some((place, laid)) => {
                    let earlier = self.earlier(at, place);
                    has_moved |= earlier.is_some();
                    let (place, laid) = earlier.unwrap_or((place, laid));
                    self.put(at, place, laid);
                }
            }
        }
        has_moved
    }

    /// Gates are passed once everything before them is placed.
    fn pass_gates(&mut self) {
        for gate in 0..self.places.len() {
            if self.problem.activities[gate].is_gate && self.places[gate].is_none() {
                self.place(gate, None);
            }
        }
    }

    /// Where an activity that is taken off its days would finish earlier, or, where it wishes to be late, what is left of its days when it
    /// keeps its start.
    fn earlier(&self, at: usize, place: Place) -> Option<(Place, Vec<Laid>)> {
        let activity = &self.problem.activities[at];
        let mut found = None;
        let mut before = place.finish;
        if activity.wish.is_none() {
            for mode in 0..activity.modes.len() {
                if let Some(better) = self.earliest(at, mode, before) {
                    before = better.0.finish;
                    found = Some(better);
                }
            }
        }
        found.or_else(|| {
            let mode = &activity.modes[place.mode];
            let last = place.finish.checked_sub(1).filter(|last| *last >= place.start)?;
            match self.first_finish(activity, mode, place.start, (last, last)) {
                From::Fits(finish, laid) if self.leads(at, place.start, finish) => {
                    Some((Place { finish, ..place }, laid))
                }
                _ => None,
            }
        })
    }

    /// Moves what wishes to be late to its latest starts, until none can start later.
    fn delay(&mut self) -> bool {
        let wished: Vec<usize> =
            (0..self.places.len()).filter(|at| self.problem.activities[*at].wish.is_some()).collect();
        let mut has_moved = false;
        loop {
            let mut moved = false;
            let mut order: Vec<usize> = wished.iter().copied().filter(|at| self.places[*at].is_some()).collect();
            // The last first: what is behind makes way for what is before it.
            order.sort_by_key(|at| std::cmp::Reverse(self.places[*at].map(|place| place.start)));
            for at in order {
                let Some((place, laid)) = self.take(at) else { continue };
                let activity = &self.problem.activities[at];
                let by = activity.wish.and_then(|wish| wish.by).or_else(|| self.last_of_others());
                let later = self.latest(at, place, by.unwrap_or(place.finish));
                moved |= later.is_some();
                let (place, laid) = later.unwrap_or((place, laid));
                self.put(at, place, laid);
            }
            if !moved {
                return has_moved;
            }
            has_moved = true;
        }
    }

    /// Pushes everything against the end: each, what finishes last first, to its latest start with which nothing ends later than the last
    /// does, nor later than it is due. The order of those starts is often better than the one that they came from.
    pub(super) fn push(&mut self) {
        let Some(end) = self.places.iter().flatten().map(|place| place.finish).max() else { return };
        let mut order: Vec<usize> = (0..self.places.len()).filter(|at| !self.problem.activities[*at].is_gate).collect();
        order.sort_by_key(|at| (std::cmp::Reverse(self.places[*at].map(|place| place.finish)), *at));
        for at in order {
            let Some((place, laid)) = self.take(at) else { continue };
            let (place, laid) = self.latest(at, place, end).unwrap_or((place, laid));
            self.put(at, place, laid);
        }
    }

    /// Where an activity that is taken off its days would start latest up to a day, if that is later than it did, and not more late.
    fn latest(&self, at: usize, place: Place, by: usize) -> Option<(Place, Vec<Laid>)> {
        let activity: &Activity = &self.problem.activities[at];
        let mode: &Mode = &activity.modes[place.mode];
        let top = by.max(place.finish).min(activity.finish_by);
        let late = self.problem.late_days(mode, place.finish);
        let from = self.bound(activity, mode, super::End::Start)?.max(place.start + 1);
        let last_start = top.min(activity.start_by);
        let starts = self.problem.calendars[mode.calendar].among(from..last_start + 1);
        starts.rev().find_map(|start| match self.first_finish(activity, mode, start, (top, top)) {
            From::Fits(finish, laid)
                if self.problem.late_days(mode, finish) <= late && self.leads(at, start, finish) =>
            {
                Some((Place { start, finish, ..place }, laid))
            }
            _ => None,
        })
    }

    /// The last finish of those without the wish to be late, if there are any.
    fn last_of_others(&self) -> Option<usize> {
        let others =
            self.problem.activities.iter().zip(&self.places).filter(|(it, _)| !it.is_gate && it.wish.is_none());
        others.filter_map(|(_, place)| place.map(|it| it.finish)).chain(self.problem.stands_until).max()
    }
}
