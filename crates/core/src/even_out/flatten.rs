//! Flattening: open tasks that are not begun move inside what the network leaves to them, and bookings that may be cut are, so that the
//! least is over anybody's limit, and then that everything is as level as can be.

use super::{
    cut::{Cut, Slice},
    weeks::{Spills, Week, spills, weeks_of},
};
use crate::{
    BookingId, Day, PersonId, Plan, TaskId,
    change::{Change, Edit},
    demand::{Window, is_parent, left_of},
    kinds::Task,
    network::{Dates, Ends, Ground, LastFinishes, Leaf, broken, figures_of, last_finishes},
    rules::LONGEST_DAYS,
};
use rand::{Rng as _, SeedableRng as _};
use rand_xoshiro::Xoshiro256PlusPlus as Chance;
use std::collections::{BTreeMap, BTreeSet};

/// What is to be flattened.
#[derive(Clone, Debug)]
pub struct Flatten {
    /// Today: nothing moves to before.
    pub today: Day,
    /// Whose weeks.
    pub people: BTreeSet<PersonId>,
    /// The first Monday and the last Sunday of the weeks.
    pub weeks: (Day, Day),
    /// Tasks that stay.
    pub pinned: BTreeSet<TaskId>,
    /// Bookings that may be cut.
    pub movable: BTreeSet<BookingId>,
}

/// What came of it.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Evened {
    /// Tasks that move, with their dates before and after.
    pub moved: Vec<(TaskId, Dates, Dates)>,
    /// Bookings that are cut, and into what.
    pub cut: Vec<(BookingId, Vec<Slice>)>,
    /// What is over in the weeks before.
    pub before: Spills,
    /// The same after.
    pub after: Spills,
    /// What it comes to.
    pub changes: Vec<Change>,
}

/// What is to be little: Σ spill² of the weeks, then Σ load².
type Score = (i128, i128);

/// The last day that anything that moves can touch, from today on.
const FARTHEST: i32 = 2 * 365;
/// The most tasks and bookings that are moved at once, each.
const MOST: usize = 500;
/// Of so many disturbed at once the search tries its way down again.
const SHAKEN: usize = 3;

/// A plan on the way.
#[derive(Clone)]
struct State {
    plan: Plan,
    cuts: Vec<Cut>,
    weeks: BTreeMap<PersonId, Vec<Week>>,
    score: Score,
}

struct Search<'a> {
    ask: &'a Flatten,
    window: Window,
    tasks: Vec<TaskId>,
    last: LastFinishes,
    /// The weeks as they were, of everybody whose weeks may change.
    was: BTreeMap<PersonId, Vec<Week>>,
    steps: u64,
    most: u64,
}

/// Flattens, in so many steps at most, each a look at one other place; the same plan, question and number give the same answer.
#[must_use]
pub fn flatten(plan: &Plan, ask: &Flatten, steps: u64) -> Evened {
    let window = window_of(ask);
    let tasks = movable(plan, ask, &window);
    let cuts: Vec<Cut> = cuts(plan, ask, &window);
    let mut people: BTreeSet<PersonId> = ask.people.clone();
    people.extend(cuts.iter().map(|cut| cut.person));
    people.extend(tasks.iter().filter_map(|id| plan.tasks.get(id)).flat_map(|task| task.assignees.people()));
    let was: BTreeMap<PersonId, Vec<Week>> =
        people.iter().map(|person| (*person, weeks_of(plan, *person, &window))).collect();
    let last = last_finishes(plan);
    let mut search = Search { ask, window, tasks, last, was: was.clone(), steps: 0, most: steps };
    let mut state = State { plan: plan.clone(), cuts, weeks: was, score: (0, 0) };
    state.score = search.score(&state.weeks);
    let best = search.run(state);
    let weeks = Window::new(ask.weeks.0, ask.weeks.1, ask.today);
    let moved: Vec<(TaskId, Dates, Dates)> = search
        .tasks
        .iter()
        .filter_map(|id| Some((*id, dates(plan.tasks.get(id)?)?, dates(best.plan.tasks.get(id)?)?)))
        .filter(|(_, before, after)| before != after)
        .collect();
    let change = |(id, _, (start, finish)): &(TaskId, Dates, Dates)| {
        let before = plan.tasks.get(id)?;
        let after = Task { start: Some(*start), finish: Some(*finish), ..(**before).clone() };
        Some(Change::Task(Edit::alter((**before).clone(), after)))
    };
    let of_tasks = moved.iter().filter_map(change);
    Evened {
        changes: of_tasks.chain(best.cuts.iter().flat_map(Cut::edits)).collect(),
        cut: best.cuts.iter().filter(|cut| cut.is_changed).map(|cut| (cut.booking.id, cut.slices.clone())).collect(),
        before: spills(plan, ask.people.iter().copied(), &weeks),
        after: spills(&best.plan, ask.people.iter().copied(), &weeks),
        moved,
    }
}

/// Whole weeks from today's on, as far as anything that moves can reach.
fn window_of(ask: &Flatten) -> Window {
    let from = ask.today.monday().min(ask.weeks.0.monday());
    let to = (ask.today + FARTHEST.min(LONGEST_DAYS)).max(ask.weeks.1);
    Window::new(from, to.monday() + 6, ask.today)
}

fn dates(task: &Task) -> Option<Dates> {
    task.start.zip(task.finish)
}

/// Open leaves of the people that lie in the weeks, are not begun, fixed or pinned, and have something left.
fn movable(plan: &Plan, ask: &Flatten, window: &Window) -> Vec<TaskId> {
    let ground = Ground::new(plan, ask.today);
    let of_people = ask.people.iter().filter_map(|id| plan.people.get(id)).flat_map(|entry| entry.tasks.iter());
    let tasks: BTreeSet<TaskId> = of_people.copied().collect();
    let moves = |id: &TaskId| {
        let Some(leaf) = ground.leaf(*id).filter(|_| !is_parent(plan, *id)) else { return false };
        let in_weeks = leaf.dates.is_some_and(|(start, finish)| {
            start >= ask.today && start <= ask.weeks.1 && finish >= ask.weeks.0 && finish <= window.to
        });
        in_weeks
            && leaf.stays().is_none()
            && !ask.pinned.contains(id)
            && left_of(plan, leaf.task).is_some_and(|it| it > 0)
    };
    tasks.into_iter().filter(moves).take(MOST).collect()
}

fn cuts(plan: &Plan, ask: &Flatten, window: &Window) -> Vec<Cut> {
    let mut first = plan.next_id();
    let mut found = Vec::new();
    for id in ask.movable.iter().take(MOST) {
        let Some(cut) = Cut::new(plan, *id, window, first).filter(|cut| ask.people.contains(&cut.person)) else {
            continue;
        };
        first = first.saturating_add(i32::try_from(cut.slices.len()).unwrap_or(i32::MAX));
        found.push(cut);
    }
    found
}

impl Search<'_> {
    /// The weeks that are asked for, in a person's row.
    fn is_asked(&self, person: PersonId, at: usize) -> bool {
        let monday = self.window.from + 7 * i32::try_from(at).unwrap_or(0);
        self.ask.people.contains(&person) && (self.ask.weeks.0..=self.ask.weeks.1).contains(&monday)
    }

    fn score(&self, weeks: &BTreeMap<PersonId, Vec<Week>>) -> Score {
        let mut score = (0, 0);
        for (person, weeks) in weeks {
            for (_, week) in weeks.iter().enumerate().filter(|(at, _)| self.is_asked(*person, *at)) {
                score.0 += i128::from(week.spill()).pow(2);
                score.1 += i128::from(week.load).pow(2);
            }
        }
        score
    }

    /// The state with another plan in which some people's days differ; `None` where somebody gets spill who had none, or more of it
    /// in a week that is not looked at.
    fn with(&self, state: &State, plan: Plan, people: impl IntoIterator<Item = PersonId>) -> Option<State> {
        let mut weeks = state.weeks.clone();
        for person in people {
            let now = weeks_of(&plan, person, &self.window);
            let was = self.was.get(&person)?;
            let is_worse = |(at, (now, was)): (usize, (&Week, &Week))| {
                let free = self.is_asked(person, at) && was.spill() > 0;
                !free && now.spill() > was.spill()
            };
            if now.iter().zip(was).enumerate().any(is_worse) {
                return None;
            }
            weeks.insert(person, now);
        }
        let score = self.score(&weeks);
        Some(State { plan, weeks, score, cuts: state.cuts.clone() })
    }

    fn goes_on(&self) -> bool {
        self.steps < self.most
    }

    /// Downhill from where everything stands; then a few things are put elsewhere by chance, and downhill again, as long as there are steps.
    fn run(&mut self, state: State) -> State {
        let mut chance = Chance::seed_from_u64(1);
        let mut best = self.down(state);
        while self.goes_on() && best.score.0 + best.score.1 > 0 && !self.tasks.is_empty() {
            self.steps += 1;
            let mut shaken = best.clone();
            for _ in 0..SHAKEN {
                let task = self.tasks[chance.random_range(0..self.tasks.len())];
                let places = self.places(&shaken.plan, task);
                if places.is_empty() {
                    continue;
                }
                let place = places[chance.random_range(0..places.len())];
                if let Some(next) = self.moved(&shaken, task, place) {
                    shaken = next;
                }
            }
            let found = self.down(shaken);
            if found.score < best.score {
                best = found;
            }
        }
        best
    }

    /// Moves one thing after the other to its best place until nothing gets better.
    fn down(&mut self, mut state: State) -> State {
        loop {
            let before = state.score;
            for at in 0..self.tasks.len() {
                state = self.best_place(state, self.tasks[at]);
            }
            for at in 0..state.cuts.len() {
                state = self.levelled(state, at);
            }
            if state.score >= before || !self.goes_on() {
                return state;
            }
        }
    }

    fn best_place(&mut self, state: State, task: TaskId) -> State {
        let mut best = None::<State>;
        for place in self.places(&state.plan, task) {
            if !self.goes_on() {
                break;
            }
            self.steps += 1;
            let Some(next) = self.moved(&state, task, place) else { continue };
            if next.score < best.as_ref().map_or(state.score, |best| best.score) {
                best = Some(next);
            }
        }
        best.unwrap_or(state)
    }

    fn moved(&self, state: &State, task: TaskId, (start, finish): Dates) -> Option<State> {
        let before = state.plan.tasks.get(&task)?;
        let after = Task { start: Some(start), finish: Some(finish), ..(**before).clone() };
        let plan = state.plan.with(&[Change::Task(Edit::alter((**before).clone(), after))]);
        self.with(state, plan, before.assignees.people())
    }

    /// Where a task may lie with its length, everything else standing: between its earliest and its latest dates, inside its links and
    /// constraints, and not past its due day where it was in time.
    fn places(&self, plan: &Plan, task: TaskId) -> Vec<Dates> {
        let ground = Ground::new(plan, self.ask.today);
        let Some(figures) = figures_of(&ground, &[task], &self.last).pop() else { return Vec::new() };
        let (Some(leaf), Some(earliest), Some(latest), Some((_, finish))) =
            (ground.leaf(task), figures.earliest, figures.latest, figures.dates)
        else {
            return Vec::new();
        };
        // What is behind it stands where it is: it slips as far as nothing else has to move.
        let free = leaf.days.number(finish) + figures.free_float.unwrap_or(0).max(0);
        let last = free.min(leaf.days.number(latest.1)) - leaf.length + 1;
        let places = leaf.days.number(earliest.0)..=last;
        let due = leaf.holds.due.unwrap_or(Day::MAX).max(finish);
        let place = |number: i32| {
            let dates = leaf.from(number);
            let holds = leaf.holds.not_before.is_none_or(|day| dates.0 >= day)
                && leaf.holds.not_after.is_none_or(|day| dates.1 <= day);
            (holds && dates.1 <= due && dates.1 <= self.window.to && keeps_links(&ground, &leaf, dates))
                .then_some(dates)
        };
        places.filter_map(place).filter(|place| Some(*place) != figures.dates).collect()
    }

    /// A booking's minutes from its fullest weeks to its emptiest, ever fewer at a time.
    fn levelled(&mut self, mut state: State, at: usize) -> State {
        let mut minutes = state.cuts[at].slices.iter().map(|slice| slice.2).max().unwrap_or(0);
        while minutes > 0 && self.goes_on() {
            self.steps += 1;
            let cut = &state.cuts[at];
            let next = cut.levelled(&state.plan, &self.window, minutes).and_then(|slices| {
                let mut next = self.with(&state, cut.sliced(&state.plan, &slices), [cut.person])?;
                (next.cuts[at].slices, next.cuts[at].is_changed) = (slices, true);
                Some(next)
            });
            match next.filter(|next| next.score < state.score) {
                Some(next) => state = next,
                None => minutes /= 2,
            }
        }
        state
    }
}

/// Whether a leaf keeps all links into it on other dates, everything else standing.
fn keeps_links<'p>(ground: &Ground<'p>, leaf: &Leaf<'p>, dates: Dates) -> bool {
    let there = Leaf { dates: Some(dates), ..leaf.clone() };
    broken(ground, &mut Ends::default(), &there).next().is_none()
}
