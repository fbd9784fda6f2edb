//! Where an activity finishes from a start, and from which start it finishes first.

use super::{
    Activity, End, Ground, Mode, Place,
    fit::{Laid, spread},
};
use crate::kinds::Contour;

/// What came of a start.
pub(super) enum From {
    /// It finishes on a day, its parts laid.
    Fits(usize, Vec<Laid>),
    /// There is no finish from this start.
    Nowhere,
    /// Nor from any other one whose run holds this day: it has too little room whatever day comes first or last.
    Blocked(usize),
}

/// Where a run is this much longer than what was looked at, a day that is too full for a contour now is tried for the whole of it.
const LONG: usize = 40;

/// The part of a spread so far, as its range grows day by day.
struct Run {
    /// Σ of what the resource gives on the days so far.
    given: i64,
    /// A flat spread fits on no days that give less than this in all.
    least: i64,
    /// What it gives in this week, and how much of that costs nothing.
    week: (i64, i64),
}

impl Ground<'_> {
    /// What a resource gives from a day to another one, both included.
    fn given(&self, resource: usize, from: usize, to: usize) -> i64 {
        let sums = &self.given_before[resource];
        sums[to + 1] - sums[from]
    }

    /// The first finish from a start, up to a last day that is tried; `end` is the last that could be tried at all. The start must be a day
    /// of the mode's calendar, and not behind the last.
    pub(super) fn first_finish(
        &self,
        activity: &Activity,
        mode: &Mode,
        start: usize,
        (last, end): (usize, usize),
    ) -> From {
        let calendar = &self.problem.calendars[mode.calendar];
        let finish_from = self.finish_from(activity, mode);
        let mut runs: Vec<Run> = mode.parts.iter().map(|_| Run { given: 0, least: 1, week: (0, 0) }).collect();
        let is_flat = activity.contour == Contour::Flat;
        for day in start..=last {
            for (part, run) in mode.parts.iter().zip(&mut runs).filter(|(part, _)| part.minutes > 0) {
                let given = i64::from(self.resources[part.resource].given[day]);
                if given > 0 {
                    run.given += given;
                    if is_flat {
                        let room = i64::from(self.room(part, day));
                        run.least = run.least.max(part.minutes.saturating_mul(given) / (room + 1) + 1);
                        if run.least > run.given + self.rest(part.resource, day, end) {
                            return From::Blocked(day);
                        }
                        if run.least > run.given + self.rest(part.resource, day, last) {
                            return From::Nowhere;
                        }
                        run.week.0 += given;
                        run.week.1 += i64::from(self.open(part, day));
                    }
                }
                if is_flat && day % 7 == 6 {
                    let free = i64::from(self.resources[part.resource].free_in_week[day / 7].max(0));
                    // Each of seven days may be rounded down by less than a minute.
                    let least = part.minutes.saturating_mul(run.week.0) / (free + run.week.1 + 8);
                    run.least = run.least.max(least);
                    run.week = (0, 0);
                    if run.least > run.given + self.rest(part.resource, day, last) {
                        return From::Nowhere;
                    }
                }
            }
            if day < finish_from || !calendar.has(day) {
                continue;
            }
            let may = mode.parts.iter().zip(&runs).all(|(part, run)| part.minutes == 0 || run.given >= run.least);
            if !may {
                continue;
            }
            match self.fits(activity, mode, start, day) {
                Ok(laid) => return From::Fits(day, laid),
                Err(full) if !is_flat && last > day + LONG => {
                    if full.is_some_and(|(part, full)| self.stays_full(activity, mode, part, (start, full, last))) {
                        return From::Nowhere;
                    }
                }
                Err(_) => {}
            }
        }
        From::Nowhere
    }

    /// What a resource gives behind a day, up to a last one.
    fn rest(&self, resource: usize, day: usize, last: usize) -> i64 {
        if day < last { self.given(resource, day + 1, last) } else { 0 }
    }

    /// Every part laid from a start to a finish where all of it fits; else a part and a day that is too full for it, if there is one.
    fn fits(
        &self,
        activity: &Activity,
        mode: &Mode,
        start: usize,
        finish: usize,
    ) -> Result<Vec<Laid>, Option<(usize, usize)>> {
        let mut all = Vec::with_capacity(mode.parts.len());
        for (at, part) in mode.parts.iter().enumerate() {
            let laid = spread(&self.resources[part.resource], part, activity.contour, start..=finish).ok_or(None)?;
            if !self.takes(part, &laid) {
                let full = laid.iter().find(|(day, minutes)| *minutes > self.room(part, *day));
                return Err(full.map(|(day, _)| (at, *day)));
            }
            all.push(laid);
        }
        Ok(all)
    }

    /// Whether a day that is too full for a shaped part now is so still when the run goes up to a last day: what a contour puts on a day
    /// rises and falls once as the run grows, so that it is least where the run is shortest or longest.
    fn stays_full(
        &self,
        activity: &Activity,
        mode: &Mode,
        part: usize,
        (start, day, last): (usize, usize, usize),
    ) -> bool {
        let part = &mode.parts[part];
        let laid = spread(&self.resources[part.resource], part, activity.contour, start..=last);
        let most = i64::from(self.room(part, day)) + 2;
        laid.is_some_and(|laid| {
            // With some to spare, as a run of days is not quite the curve that the contour is.
            laid.iter().any(|(at, minutes)| *at == day && i64::from(*minutes) * 4 / 5 > most)
        })
    }

    /// The first day on which the bonds and the mode let it finish.
    fn finish_from(&self, activity: &Activity, mode: &Mode) -> usize {
        self.bound(activity, mode, End::Finish).unwrap_or(usize::MAX)
    }

    /// The first day on which what is before lets an end be; `None` where that lies behind all days.
    pub(super) fn bound(&self, activity: &Activity, mode: &Mode, on: End) -> Option<usize> {
        let calendar = &self.problem.calendars[mode.calendar];
        let own = if on == End::Start { mode.start_from } else { mode.finish_from };
        let mut number = calendar.number(own);
        for bond in activity.bonds.iter().filter(|bond| bond.on == on) {
            let Some(place) = self.places[bond.from] else { continue };
            number = number.max(bond.asks(calendar, (place.start, place.finish)));
        }
        if on == End::Finish && number <= 0 { Some(0) } else { calendar.day(number) }
    }

    /// Whether what is behind an activity, as far as it is placed, keeps its bonds when the activity has these days.
    pub(super) fn leads(&self, at: usize, start: usize, finish: usize) -> bool {
        self.problem.onward[at].iter().all(|(behind, bond)| {
            let Some(place) = self.places[*behind] else { return true };
            let later = &self.problem.activities[*behind];
            if later.is_gate {
                let others =
                    later.bonds.iter().filter(|bond| bond.from != at).filter_map(|bond| self.places[bond.from]);
                let opens = others.map(|place| place.finish).fold(finish, usize::max);
                return self.leads(*behind, opens, opens);
            }
            let (bond, mode) = (&later.bonds[*bond], &later.modes[place.mode]);
            let calendar = &self.problem.calendars[mode.calendar];
            let end = if bond.on == End::Start { place.start } else { place.finish };
            calendar.number(end) >= bond.asks(calendar, (start, finish))
        })
    }

    /// Whether everything before an activity is placed.
    pub(super) fn is_open(&self, activity: &Activity) -> bool {
        activity.bonds.iter().all(|bond| self.places[bond.from].is_some())
    }

    /// The place in one mode that finishes first, and before a day; of several such the one with the last start, or, where bonds lead from
    /// its start, with the first one.
    pub(super) fn earliest(&self, at: usize, mode: usize, before: usize) -> Option<(Place, Vec<Laid>)> {
        let activity = &self.problem.activities[at];
        let way = &activity.modes[mode];
        let calendar = &self.problem.calendars[way.calendar];
        // Several may begin on different days: with one alone nothing begins before there is room.
        let open = match way.parts.as_slice() {
            [part] if part.minutes > 0 => self.open_from[part.resource],
            _ => 0,
        };
        let from = self.bound(activity, way, End::Start)?.max(open);
        let end = before.min(activity.finish_by + 1).checked_sub(1)?;
        let binds_by_start = self.binds_by_start(at);
        let mut best: Option<(Place, Vec<Laid>)> = None;
        let mut tried = 0;
        for run in self.runs(at) {
            // No run goes over it.
            let mut wall = None;
            for start in calendar.among(from..end.min(activity.start_by) + 1) {
                let last = match &best {
                    Some((place, _)) if binds_by_start => place.finish.checked_sub(1),
                    Some((place, _)) => Some(place.finish),
                    None => Some(end),
                };
                let Some(last) = last.filter(|last| start.saturating_add(tried) <= *last) else { break };
                let last = match wall {
                    Some(wall) if wall == start => continue,
                    Some(wall) if wall > start => last.min(wall - 1),
                    _ => last,
                };
                match self.first_finish(activity, way, start, (last.min(start.saturating_add(run)), end)) {
                    From::Fits(finish, laid) if self.leads(at, start, finish) => {
                        let is_better = |(place, _): &(Place, _)| finish < place.finish || start > place.start;
                        if best.as_ref().is_none_or(is_better) {
                            best = Some((Place { mode, start, finish }, laid));
                        }
                    }
                    From::Blocked(day) => wall = Some(day),
                    From::Fits(..) | From::Nowhere => {}
                }
            }
            tried = run;
        }
        best
    }

    /// How many days more than one a run has at most: at first little more than the work takes, so that a first finish is found soon, which
    /// rules out most of the longer ones.
    fn runs(&self, at: usize) -> [usize; 3] {
        let length = usize::try_from(self.problem.net.lengths[at]).unwrap_or(0);
        [2 * length + 5, 8 * length + 30, usize::MAX]
    }

    /// Whether something is bound by the start of an activity.
    fn binds_by_start(&self, at: usize) -> bool {
        let bond = |(behind, bond): &(usize, usize)| self.problem.activities[*behind].bonds[*bond];
        self.problem.onward[at].iter().any(|onward| bond(onward).of == End::Start)
    }
}
