//! Earned value over a baseline of a project: what was planned to be done by a day (PV), what is done of it (EV), and what that took
//! (AC), all in minutes.

use super::bias::Ratio;
use crate::{
    Day, PersonId, Plan, ProjectId, TaskId,
    demand::left_of,
    kinds::{Baseline, BaselineItem, Kind, Record as _, Task, TrailId},
    network::{Calendars, Workdays},
};
use num_bigint::BigInt;
use num_rational::BigRational;
use rust_decimal::Decimal;
use std::{
    collections::{BTreeMap, BTreeSet, HashMap},
    rc::Rc,
};

/// What stands at the end of a day, in minutes; sums are exact until they are shown.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Point {
    /// The day.
    pub date: Day,
    /// What was planned to be done by then.
    pub planned: BigRational,
    /// What was done of it by then; `None` after today.
    pub earned: Option<BigRational>,
    /// What that took.
    pub actual: i64,
    /// What else was logged by then: on tasks that were added since, and in the project on no task.
    pub added: i64,
}

/// Half up to whole minutes.
#[must_use]
pub fn rounded(sum: &BigRational) -> i64 {
    let twice = (sum * BigRational::from(BigInt::from(2)) + BigRational::from(BigInt::from(1)))
        / BigRational::from(BigInt::from(2));
    i64::try_from(twice.floor().to_integer()).unwrap_or(i64::MAX)
}

/// The earned value of a project over one of its baselines.
#[derive(Clone, Debug)]
pub struct Earned {
    /// Budget at completion: Σ baseline effort.
    pub budget: i64,
    /// By ISO week's end from the week of the first baseline start, the last one today.
    pub points: Vec<Point>,
    /// By ISO week's end after today, to the last baseline finish: what was planned, alone.
    pub ahead: Vec<Point>,
}

impl Earned {
    fn today(&self) -> Option<(&Point, &BigRational)> {
        self.points.last().and_then(|point| Some((point, point.earned.as_ref()?)))
    }

    /// SPI = EV / PV; `None` for “not yet”.
    #[must_use]
    pub fn schedule_index(&self) -> Option<Ratio> {
        let (point, earned) = self.today()?;
        ratio(earned, &point.planned)
    }

    /// CPI = EV / AC; `None` for “not yet”.
    #[must_use]
    pub fn cost_index(&self) -> Option<Ratio> {
        let (point, earned) = self.today()?;
        ratio(earned, &whole(point.actual))
    }

    /// EAC = AC + (BAC − EV) / CPI in minutes; `None` for “not yet”.
    #[must_use]
    pub fn at_completion(&self) -> Option<i64> {
        let (point, earned) = self.today()?;
        let nothing = whole(0);
        if point.actual == 0 || *earned == nothing {
            return None;
        }
        let actual = whole(point.actual);
        Some(rounded(&(&actual + (whole(self.budget) - earned) * &actual / earned)))
    }
}

fn whole(minutes: i64) -> BigRational {
    BigRational::from(BigInt::from(minutes))
}

fn ratio(above: &BigRational, below: &BigRational) -> Option<Ratio> {
    if *below == whole(0) {
        return None;
    }
    let ratio = above / below;
    let [above, below] = [ratio.numer(), ratio.denom()].map(|it| i128::try_from(it).ok());
    Some(Ratio(above?, below?))
}

/// An item of the baseline, with the tasks that count with it today.
struct Item<'p> {
    effort: i64,
    /// First and last day, where it has both.
    dates: Option<(Day, Day)>,
    days: Rc<Workdays>,
    /// Its own task; `None` where that is gone.
    task: Option<&'p Task>,
    /// Its task, and what is inside that and no item of its own.
    tasks: Vec<&'p Task>,
}

impl Item<'_> {
    /// PV by the end of a day; `last` is when items without both dates are due.
    fn planned(&self, day: Day, last: Day) -> BigRational {
        let Some((start, finish)) = self.dates else { return whole(if day >= last { self.effort } else { 0 }) };
        let count = |to: Day| i64::from((self.days.number(to + 1) - self.days.number(start)).max(0));
        let all = count(finish);
        if day >= finish {
            return whole(self.effort);
        }
        if all == 0 || day < start {
            return whole(0);
        }
        BigRational::new((i128::from(self.effort) * i128::from(count(day))).into(), all.into())
    }

    /// How much of it is done at the end of a day, from 0 to 1: done, else as typed, else A / (A + R). `actual` is its A by then.
    fn progress(&self, plan: &Plan, day: Day, actual: i64, today: Day) -> BigRational {
        let Some(task) = self.task else { return whole(0) };
        let (done, typed, remaining);
        if day >= today {
            (done, typed) = (task.is_done(), task.progress);
            remaining = self.tasks.iter().filter_map(|task| left_of(plan, task)).sum();
        } else {
            let row = |task: &Task| plan.records.trails.get(&TrailId(task.id.0)).and_then(|trail| trail.on(day));
            let Some(own) = row(task) else { return whole(0) };
            (done, typed) = (&*own.stage == "done", own.progress);
            remaining = self.tasks.iter().filter_map(|task| row(task)?.remaining).sum::<i64>();
        }
        match typed {
            _ if done => whole(1),
            Some(percent) => exact(percent / Decimal::ONE_HUNDRED),
            None if actual + remaining > 0 => BigRational::new(actual.into(), (actual + remaining).into()),
            None => whole(0),
        }
    }
}

fn exact(number: Decimal) -> BigRational {
    BigRational::new(number.mantissa().into(), BigInt::from(10_i128.pow(number.scale())))
}

/// The items of a baseline, and which of them each task counts with: the nearest among itself and what it is inside.
fn items<'p>(plan: &'p Plan, baseline: &Baseline, today: Day) -> (Vec<Item<'p>>, HashMap<TaskId, usize>) {
    let calendars = Calendars::new(plan, today);
    let nobody = Task::blank();
    let of_baseline = plan.records.baseline_items.values().filter(|item| item.baseline == baseline.id);
    let mut found = Vec::new();
    let mut own: HashMap<TaskId, usize> = HashMap::new();
    for item in of_baseline {
        let item: &BaselineItem = item;
        let task = plan.tasks.get(&item.task).map(|task| &**task);
        own.insert(item.task, found.len());
        let (effort, dates) = (item.effort.unwrap_or(0), item.start.zip(item.finish));
        let days = calendars.of(task.unwrap_or(&nobody));
        found.push(Item { effort, dates, days, task, tasks: Vec::new() });
    }
    let mut counts = HashMap::new();
    for task in plan.tasks.values() {
        let mut line = std::iter::successors(Some(task.id), |id| plan.tasks.get(id)?.parent);
        if let Some(at) = line.find_map(|id| own.get(&id)) {
            found[*at].tasks.push(task);
            counts.insert(task.id, *at);
        }
    }
    (found, counts)
}

/// Everything that was logged on some tasks, and in a project with those inside it, by day: with which item it counts, and minutes.
fn log(
    plan: &Plan,
    counts: &HashMap<TaskId, usize>,
    projects: &BTreeSet<ProjectId>,
) -> BTreeMap<Day, Vec<(Option<usize>, i64)>> {
    let is_in = |project: Option<ProjectId>| project.is_some_and(|id| projects.contains(&id));
    let is_of = |id: TaskId| counts.contains_key(&id) || is_in(plan.tasks.get(&id).map(|task| task.project));
    let on_tasks = plan.logged.iter().filter(|(id, _)| is_of(**id)).flat_map(|(_, log)| log.iter().map(|it| it.person));
    let apart = plan.logged_apart.keys().filter(|(project, _)| is_in(*project)).map(|(_, person)| *person);
    let people: BTreeSet<PersonId> = on_tasks.chain(apart).collect();
    let mut found: BTreeMap<Day, Vec<(Option<usize>, i64)>> = BTreeMap::new();
    for row in people.into_iter().flat_map(|person| plan.log_of(person, Day::MIN, Day::MAX)) {
        let item = row.task.and_then(|id| counts.get(&id)).copied();
        if item.is_some() || is_in(row.subject(plan).0) {
            found.entry(row.date).or_default().push((item, i64::from(row.minutes)));
        }
    }
    found
}

/// The earned value of a project over one of its baselines, at the end of each week and today.
#[must_use]
pub fn earned(plan: &Plan, baseline: &Baseline, today: Day) -> Earned {
    let (items, counts) = items(plan, baseline, today);
    let project = plan.find(Kind::Project, &baseline.of).map(ProjectId);
    let projects = project.map(|id| plan.project_and_inner(id)).unwrap_or_default();
    let mut log = log(plan, &counts, &projects).into_iter().peekable();
    let dated = || items.iter().filter_map(|item| item.dates);
    let first = dated().map(|(start, _)| start).min().unwrap_or(baseline.date);
    let last = dated().map(|(_, finish)| finish).max().unwrap_or(baseline.date);
    let planned = |day: Day| items.iter().map(|item| item.planned(day, last)).fold(whole(0), |sum, part| sum + part);

    let mut actual = vec![0_i64; items.len()];
    let mut added = 0;
    let ends = || (0..).map(|week| first.monday() + 6 + 7 * week);
    let mut points = Vec::new();
    for date in ends().take_while(|end| *end < today).chain([today]) {
        while let Some((_, entries)) = log.next_if(|(day, _)| *day <= date) {
            for (item, minutes) in entries {
                *item.map_or(&mut added, |at| &mut actual[at]) += minutes;
            }
        }
        let of_item =
            |(item, actual): (&Item<'_>, &i64)| whole(item.effort) * item.progress(plan, date, *actual, today);
        let earned = items.iter().zip(&actual).map(of_item).fold(whole(0), |sum, part| sum + part);
        points.push(Point { date, planned: planned(date), earned: Some(earned), actual: actual.iter().sum(), added });
    }
    let (done, spent) = (actual.iter().sum(), added);
    let ahead = ends().skip_while(|end| *end <= today).take_while(|end| *end < last + 7);
    let ahead = ahead.map(|date| Point { date, planned: planned(date), earned: None, actual: done, added: spent });
    Earned { budget: items.iter().map(|item| item.effort).sum(), points, ahead: ahead.collect() }
}
