//! The rows of the Gantt as they are drawn: bars as thick as their hours a day, braces for what is whole, floats, what is critical, a
//! baseline beneath, and where things would be while something is in the hand.

use super::{
    columns::Value,
    outline::{Line, Of},
    query::GanttQuery,
    says::{broken, float, slip},
};
use crate::{
    fit,
    grid::{CellView, Rect, Shapes},
    kept::Kept,
    words,
};
use snug_core::{
    Day, Plan, ProjectId, TaskId,
    cells::Bucket,
    demand::{is_parent, left_of},
    kinds::{BaselineId, Milestone, Task},
    network::{Dates, Figures, Ground, Whole, dates_of, figures_of, last_finishes, leaves, progress, span, wholes},
};
use std::{
    collections::{BTreeMap, HashMap},
    sync::Arc,
};

/// The height of a row's picture in pixels, and where the middle of its bar lies.
pub const PICTURE: f64 = 35.0;
const MIDDLE: f64 = 15.0;
/// Pixels of an hour a day, and how thin and thick a bar is.
const HOUR: f64 = 3.0;
const THICKNESS: (f64, f64) = (6.0, 20.0);

/// What all rows of a view are drawn from, while a request is answered.
pub struct Drawing<'a> {
    pub plan: &'a Plan,
    pub query: &'a GanttQuery,
    /// What the network says of each leaf.
    pub figures: HashMap<TaskId, Figures>,
    /// Where the baseline has leaves and parents, if one is chosen.
    pub beside: HashMap<TaskId, Dates>,
    pub ground: Ground<'a>,
    /// What each project comes to, with the projects inside it.
    pub projects: Arc<HashMap<ProjectId, Whole>>,
    /// Where leaves would be if what is in the hand were dropped.
    pub would: HashMap<TaskId, Dates>,
    pub may_change: bool,
}

/// The dates of a baseline by task.
fn beside(plan: &Plan, baseline: Option<BaselineId>) -> HashMap<TaskId, Dates> {
    let Some(baseline) = baseline else { return HashMap::new() };
    let items = plan.records.baseline_items.values().filter(|item| item.baseline == baseline);
    items.filter_map(|item| Some((item.task, item.start.zip(item.finish)?))).collect()
}

/// A bar, or the brace of what is whole.
pub struct Bar {
    /// The path that is held; nothing where it lies outside the window.
    pub shape: Shapes,
    /// The part that is done, as a path.
    pub done: String,
    /// Whether it began before the window, and whether it goes on after it.
    pub cut: (bool, bool),
    pub title: String,
    /// The dotted tail of its float, as a path.
    pub float: String,
    /// The double line of what is critical, as a path.
    pub critical: String,
    /// What waits for its turn to move, as a path: where it would be.
    pub would: String,
    /// Where the baseline has it, as a path.
    pub beside: String,
    /// Where the live plan has it, if a draft is shown that has it elsewhere, as a path.
    pub live: String,
}

/// A row.
pub struct RowView {
    /// Lines between the columns, as a path.
    pub columns: String,
    pub key: String,
    pub kind: &'static str,
    pub depth: usize,
    pub name: String,
    /// Whether it is folded; nothing where there is nothing to fold.
    pub folded: Option<bool>,
    /// What stands in the columns of the outline that are chosen.
    pub values: Vec<Value>,
    /// The tag of the record; empty where it may not be changed.
    pub tag: String,
    pub hue: usize,
    /// Days on which nobody who does it works.
    pub off: Shapes,
    pub bar: Option<Bar>,
    /// Percent of the width at which links can be drawn out of its beginning and its end.
    pub ends: Option<(String, String)>,
    /// A milestone: percent of the width, and its day.
    pub diamond: Option<(String, String)>,
    /// A mark that one should look at: percent of the width, and its words.
    pub flag: Option<(String, String)>,
    /// By how many days it finishes otherwise than the baseline has it: percent of the width at which that stands, and the days.
    pub slip: Option<(String, String)>,
    pub cells: Vec<CellView>,
}

/// A day in days from the beginning of the window, cut to it.
fn inside(query: &GanttQuery, day: Day) -> usize {
    usize::try_from(day.since(query.from).clamp(0, query.days())).unwrap_or(0)
}

/// The part of dates that lies in the window, in days; nothing where none does.
fn part(query: &GanttQuery, (start, finish): Dates) -> Option<(usize, usize)> {
    let (from, to) = (inside(query, start), inside(query, finish + 1));
    (from < to).then_some((from, to))
}

fn rect(from: f64, width: f64, top: f64, floor: f64) -> String {
    format!("M{from:.2} {floor:.1}V{top:.1}h{width:.2}V{floor:.1}z")
}

/// How thick a bar is, in pixels, from the minutes of each of its days.
fn thickness(minutes: i64, days: i32) -> f64 {
    let a_day = minutes / i64::from(days.max(1));
    #[allow(clippy::cast_precision_loss)] // minutes of a day, as pixels
    let pixels = a_day as f64 / 60.0 * HOUR;
    pixels.clamp(THICKNESS.0, THICKNESS.1)
}

impl<'a> Drawing<'a> {
    /// For drawing these tasks: what the network says is worked out of them alone, and what projects come to once for a plan.
    pub fn new(kept: &Kept, plan: &'a Plan, query: &'a GanttQuery, tasks: &[TaskId], may_change: bool) -> Self {
        let ground = Ground::new(plan, query.today);
        let last = kept.get(plan, String::new(), || last_finishes(plan));
        let leaves: Vec<TaskId> = tasks.iter().copied().filter(|id| !is_parent(plan, *id)).collect();
        Self {
            figures: figures_of(&ground, &leaves, &last).into_iter().map(|it| (it.task, it)).collect(),
            beside: beside(plan, query.beside),
            ground,
            projects: kept.get(plan, String::new(), || wholes(plan)),
            would: HashMap::new(),
            plan,
            query,
            may_change,
        }
    }

    /// A row as it is drawn.
    pub fn row(&self, line: Line) -> Option<RowView> {
        match line.of {
            Of::Project(id) => self.project(id, line),
            Of::Task(id) => self.task(self.plan.tasks.get(&id)?, line),
            Of::Milestone(id) => Some(self.milestone(self.plan.records.milestones.get(&id)?, line)),
        }
    }

    fn blank(&self, line: Line, kind: &'static str, name: String) -> RowView {
        let key = line.of.key();
        let folded = line.is_whole.then(|| self.query.fold.contains(&key));
        RowView {
            columns: self.columns(),
            kind,
            depth: line.depth,
            name,
            folded,
            values: self.values(line),
            tag: String::new(),
            hue: 9,
            off: self.weekends(),
            bar: None,
            ends: None,
            diamond: None,
            flag: None,
            slip: None,
            cells: Vec::new(),
            key,
        }
    }

    fn project(&self, id: ProjectId, line: Line) -> Option<RowView> {
        let project = self.plan.records.projects.get(&id)?;
        let dates = self.projects.get(&id).and_then(|whole| whole.dates);
        let mut row = self.blank(line, "project", project.name.clone());
        row.hue = fit::hue(self.plan, id);
        row.bar = dates.and_then(|dates| self.brace(dates, &project.name));
        row.cells = self.cells(dates, &|_| "work on it".to_owned());
        Some(row)
    }

    fn milestone(&self, milestone: &Milestone, line: Line) -> RowView {
        let mut row = self.blank(line, "milestone", milestone.name.clone());
        let dates = (milestone.date, milestone.date);
        if part(self.query, dates).is_some() {
            let x = f64::from(milestone.date.since(self.query.from)) + 1.0;
            row.diamond = Some((self.percent(x), words::day(milestone.date, self.query.order)));
        }
        row.cells =
            self.cells(Some(dates), &|_| format!("milestone on {}", words::day(milestone.date, self.query.order)));
        row
    }

    fn percent(&self, days: f64) -> String {
        format!("{:.2}", 100.0 * days / f64::from(self.query.days()))
    }

    fn task(&self, task: &Task, line: Line) -> Option<RowView> {
        let mut row = self.blank(line, if line.is_whole { "parent" } else { "leaf" }, task.title.clone());
        row.hue = task.colour.map_or_else(|| fit::hue(self.plan, task.project), |hue| hue as usize);
        row.tag = if self.may_change { snug_core::Tag::of(task).to_string() } else { String::new() };
        if line.is_whole {
            let leaves = leaves(self.plan, task.id);
            let leaves: Vec<&Task> =
                leaves.iter().filter_map(|id| self.plan.tasks.get(id)).map(|leaf| &**leaf).collect();
            let dates = span(leaves.iter().filter_map(|task| task.start.zip(task.finish)));
            row.bar = dates.and_then(|dates| self.brace(dates, &task.title));
            if let Some(bar) = &mut row.bar {
                let would = leaves.iter().filter_map(|task| self.would.get(&task.id).copied());
                let moved = would.clone().next().is_some();
                let all =
                    leaves.iter().filter_map(|task| self.would.get(&task.id).copied().or(task.start.zip(task.finish)));
                bar.would = span(all).filter(|_| moved).map_or_else(String::new, |dates| self.outline(dates, 8.0));
                bar.beside = self.ghost(task.id);
                bar.live = dates.map_or_else(String::new, |dates| self.in_live(task.id, dates, 8.0));
            }
            row.ends = dates.filter(|_| self.may_change).map(|dates| self.ends(dates));
            row.slip = dates.and_then(|dates| self.slipped(task.id, dates));
            row.cells = self.cells(dates, &|_| "a whole".to_owned());
            return Some(row);
        }
        let leaf = self.ground.leaf(task.id)?;
        row.off = self.off(&leaf);
        let figures = self.figures.get(&task.id);
        let stuck = task.is_stuck().then(|| format!("stuck: {}", task.stuck));
        let flags = figures.filter(|it| it.broken > 0).map(|it| broken(it.broken)).into_iter().chain(stuck);
        let flag = Some(flags.collect::<Vec<_>>().join("; ")).filter(|flag| !flag.is_empty());
        // It stands where the bar is seen to begin, and of what has no dates at the edge.
        let at = leaf.dates.map_or(0, |(start, _)| start.since(self.query.from).clamp(0, self.query.days()));
        row.flag = flag.map(|flag| (self.percent(f64::from(at).max(0.012 * f64::from(self.query.days()))), flag));
        let Some(dates) = leaf.dates else {
            row.cells = self.cells(None, &|_| "no dates yet".to_owned());
            return Some(row);
        };
        row.bar = self.bar(task, dates, leaf.length, figures);
        row.ends = Some(dates).filter(|_| self.may_change).map(|dates| self.ends(dates));
        row.slip = self.slipped(task.id, dates);
        let says = self.says(task, dates, figures);
        row.cells = self.cells(Some(dates), &|_| says.clone());
        Some(row)
    }

    /// `18 h left, critical`: what a screen reader says of a bar.
    fn says(&self, task: &Task, dates: Dates, figures: Option<&Figures>) -> String {
        let mut parts = vec![words::range(dates.0, dates.1, self.query.order)];
        match left_of(self.plan, task) {
            _ if task.is_done() => parts.push("done".to_owned()),
            Some(left) => parts.push(format!("{} left", words::hours(left))),
            None => {}
        }
        if self.query.shows_network()
            && let Some(figures) = figures
        {
            match figures.total_float {
                Some(days) if days <= 0 => parts.push("critical".to_owned()),
                Some(days) => parts.push(float(days)),
                None => {}
            }
            if figures.broken > 0 {
                parts.push(broken(figures.broken));
            }
        }
        if task.is_stuck() {
            parts.push(format!("stuck: {}", task.stuck));
        }
        if let Some((_, planned)) = self.beside.get(&task.id) {
            parts.push(slip(dates.1.since(*planned)));
        }
        parts.join(", ")
    }

    fn bar(&self, task: &Task, dates: Dates, length: i32, figures: Option<&Figures>) -> Option<Bar> {
        let query = self.query;
        let thick = self.thick(task, dates, length);
        let (top, floor) = (MIDDLE - thick / 2.0, MIDDLE + thick / 2.0);
        let network = figures.filter(|_| query.shows_network());
        let ghost = self.ghost(task.id);
        let would = self.would.get(&task.id).map_or_else(String::new, |dates| self.outline(*dates, thick));
        let live = self.in_live(task.id, dates, thick);
        let seen = part(query, dates);
        if seen.is_none() && ghost.is_empty() && would.is_empty() && live.is_empty() {
            return None;
        }
        let mut bar = Bar {
            shape: Shapes(seen.map(|(from, to)| Rect { from, to, top, floor }).into_iter().collect()),
            done: String::new(),
            cut: (dates.0 < query.from, dates.1 > query.to()),
            title: format!("{}, {}", task.title, words::range(dates.0, dates.1, query.order)),
            float: String::new(),
            critical: String::new(),
            would,
            beside: ghost,
            live,
        };
        if let Some((from, to)) = seen {
            let share = f64::from(progress(self.plan, task)) / 10_000.0;
            let width = f64::from(dates.1.since(dates.0) + 1) * share - f64::from((query.from.since(dates.0)).max(0));
            #[allow(clippy::cast_precision_loss)] // days of a window
            let (from, most) = (from as f64, (to - from) as f64);
            if share > 0.0 && width > 0.0 {
                bar.done = rect(from, width.min(most), top, floor);
            }
            if network.is_some_and(Figures::is_critical) {
                bar.critical = format!("M{from} {:.1}h{most}m-{most} 3h{most}", floor + 2.5);
            }
        }
        if let Some((_, latest)) =
            network.filter(|it| it.total_float.is_some_and(|days| days > 0)).and_then(|it| it.latest)
            && let Some((from, to)) = part(query, (dates.1 + 1, latest))
        {
            bar.float = format!("M{from} {MIDDLE}H{to}");
        }
        Some(bar)
    }

    /// How thick a bar is: what is left on the days that are left, or of what is over the whole on all of its days.
    fn thick(&self, task: &Task, (start, finish): Dates, length: i32) -> f64 {
        let left = left_of(self.plan, task).filter(|left| *left > 0);
        let Some(left) = left.filter(|_| finish >= self.query.today) else {
            return thickness(task.estimate.unwrap_or(0), length);
        };
        let days =
            self.ground.leaf(task.id).map_or(length, |leaf| leaf.days.between(start.max(self.query.today), finish));
        thickness(left, days)
    }

    /// The brace of what is whole: a line with two ends that reach down.
    fn brace(&self, dates: Dates, name: &str) -> Option<Bar> {
        let (from, to) = part(self.query, dates)?;
        let cut = (dates.0 < self.query.from, dates.1 > self.query.to());
        let rect = Rect { from, to, top: 12.0, floor: 15.0 };
        let ends = [(from, cut.0), (to, cut.1)].into_iter().filter(|(_, cut)| !cut);
        Some(Bar {
            shape: Shapes(vec![rect]),
            done: ends.map(|(x, _)| format!("M{x} 12V20")).collect::<Vec<_>>().concat(),
            cut,
            title: format!("{name}, {}", words::range(dates.0, dates.1, self.query.order)),
            float: String::new(),
            critical: String::new(),
            would: String::new(),
            beside: String::new(),
            live: String::new(),
        })
    }

    fn outline(&self, dates: Dates, thick: f64) -> String {
        let seen = part(self.query, dates).map(|(from, to)| Rect {
            from,
            to,
            top: MIDDLE - thick / 2.0,
            floor: MIDDLE + thick / 2.0,
        });
        Shapes(seen.into_iter().collect()).to_string()
    }

    /// Where the live plan has a task that a draft has on these dates; nothing where it has it there, too.
    fn in_live(&self, task: TaskId, dates: Dates, thick: f64) -> String {
        let there = self.query.live.as_ref().and_then(|live| dates_of(live, task)).filter(|there| *there != dates);
        there.map_or_else(String::new, |there| self.outline(there, thick))
    }

    fn ghost(&self, task: TaskId) -> String {
        let seen = self.beside.get(&task).and_then(|dates| part(self.query, *dates));
        let rect = seen.map(|(from, to)| Rect { from, to, top: 29.0, floor: 32.5 });
        Shapes(rect.into_iter().collect()).to_string()
    }

    /// `+7 d` behind the end of what the baseline has, where that is seen.
    fn slipped(&self, task: TaskId, (_, finish): Dates) -> Option<(String, String)> {
        let planned = self.beside.get(&task).filter(|dates| part(self.query, **dates).is_some())?.1;
        let days = finish.since(planned);
        let sign = if days < 0 { "−" } else { "+" };
        let x = f64::from(u32::try_from(inside(self.query, planned + 1)).unwrap_or(0));
        (days != 0).then(|| (self.percent(x), format!("{sign}{} d", days.abs())))
    }

    fn ends(&self, (start, finish): Dates) -> (String, String) {
        let x = |day: Day| self.percent(f64::from(day.since(self.query.from).clamp(-9, self.query.days() + 9)));
        (x(start), x(finish + 1))
    }

    fn columns(&self) -> String {
        let begins = self.query.buckets.iter().skip(1).map(|bucket| bucket.from.since(self.query.from));
        begins.map(|day| format!("M{day} 0V{PICTURE}")).collect::<Vec<_>>().concat()
    }

    fn weekends(&self) -> Shapes {
        self.free(&|day| day.weekday() >= 5)
    }

    fn off(&self, leaf: &snug_core::network::Leaf<'_>) -> Shapes {
        self.free(&|day| !leaf.days.has(day))
    }

    /// Runs of days of the window that are free.
    fn free(&self, is_free: &dyn Fn(Day) -> bool) -> Shapes {
        let mut runs: Vec<Rect> = Vec::new();
        for at in 0..usize::try_from(self.query.days()).unwrap_or(0) {
            if !is_free(self.query.from + i32::try_from(at).unwrap_or(0)) {
                continue;
            }
            match runs.last_mut().filter(|run| run.to == at) {
                Some(run) => run.to = at + 1,
                None => runs.push(Rect { from: at, to: at + 1, top: 0.0, floor: PICTURE }),
            }
        }
        Shapes(runs)
    }

    /// The cells of a row: what lies in each column, for the keyboard and for who hears it.
    fn cells(&self, dates: Option<Dates>, says: &dyn Fn(Bucket) -> String) -> Vec<CellView> {
        let same = self.query.buckets.windows(2).all(|two| days(two[0]) == days(two[1]));
        let cell = |bucket: &Bucket| CellView {
            label: String::new(),
            band: "open",
            spoken: match dates {
                Some((start, finish)) if start <= bucket.to && finish >= bucket.from => says(*bucket),
                Some(_) => "nothing".to_owned(),
                None => says(*bucket),
            },
            days: (!same).then(|| days(*bucket)),
            selected: false,
        };
        self.query.buckets.iter().map(cell).collect()
    }
}

fn days(bucket: Bucket) -> i32 {
    bucket.to.since(bucket.from) + 1
}

/// Hues of the projects that rows show, with their names.
pub fn key(plan: &Plan, projects: impl Iterator<Item = ProjectId>) -> Vec<(usize, String)> {
    let once: BTreeMap<usize, String> =
        projects.filter_map(|id| Some((fit::hue(plan, id), plan.records.projects.get(&id)?.name.clone()))).collect();
    once.into_iter().collect()
}
