//! The weeks of the calendar as they are drawn: bars across days, what stands in words, and a small rim at each day's foot.

use super::{
    beside::Beside,
    notes::notes,
    query::{CalendarQuery, Span},
};
use crate::{
    fit,
    grid::{CellView, Rect, Shapes},
    schedule::layers::{hue_of, percent},
    words,
};
use snug_core::{
    Day, Plan, ProjectId, Tag,
    agenda::{Agenda, InLane, lanes},
    demand::{Window, left_of},
    horizon::{Stretch, days},
    kinds::{Meeting, Task},
};
use std::{
    collections::{BTreeMap, HashMap},
    fmt::Write as _,
};

/// Where the first lane begins, how far the lanes are apart, and how high a bar is, in pixels.
const FIRST: f64 = 22.0;
const LANE: f64 = 20.0;
pub const BAR: f64 = 17.0;
/// What is kept free for the foot of a day.
const FOOT: f64 = 20.0;
/// Spill is never drawn thinner, in parts of a day: four pixels of a narrow one.
const LEAST_SPILL: f64 = 0.05;
/// The part of a day's width at which its foot begins, and how wide it is.
const RIM: (f64, f64) = (0.06, 0.86);

/// A bar of a task.
pub struct Bar {
    /// The tag of the task; empty where it may not be moved.
    pub tag: String,
    pub hue: usize,
    pub done: bool,
    pub cut: (bool, bool),
    pub title: String,
    pub shape: Shapes,
}

/// Words in the picture: percent across, pixels down.
pub struct Label {
    pub x: String,
    pub y: f64,
    pub width: String,
    pub hue: usize,
    /// `bar`, `live`, `milestone`, `note` or `more`.
    pub class: &'static str,
    pub text: String,
    pub title: String,
    /// Where it leads, of what is no bar.
    pub href: String,
}

/// A row of days.
pub struct RowView {
    pub key: String,
    pub from: Day,
    /// `Week 11`, or the day.
    pub name: String,
    pub off: Shapes,
    pub columns: String,
    pub bars: Vec<Bar>,
    /// Where the live plan has what a draft has elsewhere.
    pub live: Shapes,
    pub labels: Vec<Label>,
    /// The feet: what is planned, what is over, and the rims, as paths.
    pub load: String,
    pub spill: String,
    pub rims: String,
    pub cells: Vec<CellView>,
}

/// What all rows are drawn from.
pub struct Drawing<'a> {
    pub plan: &'a Plan,
    pub query: &'a CalendarQuery,
    pub agenda: Agenda<'a>,
    loads: HashMap<Day, Stretch>,
    hues: HashMap<ProjectId, usize>,
    /// Meetings of projects, by day.
    pub meetings: Vec<(Day, &'a Meeting)>,
    /// Words of a day, by day: who is off, and holidays.
    notes: BTreeMap<Day, Vec<String>>,
    may_change: bool,
    beside: Beside<'a>,
}

impl<'a> Drawing<'a> {
    /// Looks for what lies in the days that are seen, and how full they are.
    pub fn new(plan: &'a Plan, query: &'a CalendarQuery, may_change: bool) -> Self {
        let agenda = Agenda::new(plan, &query.scope, query.from(), query.to());
        let window = Window::new(query.from(), query.to(), query.today);
        let people = agenda.people.iter().filter_map(|id| plan.people.get(id));
        let loads = days(plan, people, &window).into_iter().map(|day| (day.from, day)).collect();
        let notes = notes(plan, &agenda, query);
        let meetings = agenda.project_meetings(&query.scope);
        let beside = Beside::of(plan, query, &agenda);
        Self { plan, query, loads, hues: fit::hues(plan), meetings, notes, agenda, may_change, beside }
    }

    /// How high the picture of a row is, in pixels.
    pub fn picture(&self) -> f64 {
        match self.query.span {
            Span::Month => FIRST + 6.0 * LANE + FOOT,
            _ => FIRST + 29.0 * LANE + FOOT,
        }
    }

    /// What is planned on a day, of those whose days are seen.
    pub fn load(&self, day: Day) -> Option<&Stretch> {
        self.loads.get(&day)
    }

    /// Who is off on a day, and the holidays.
    pub fn notes_on(&self, day: Day) -> &[String] {
        self.notes.get(&day).map_or(&[], Vec::as_slice)
    }

    /// The hue of a task.
    pub fn hue(&self, task: &Task) -> usize {
        hue_of(task, &self.hues)
    }

    /// A row of days.
    pub fn row(&self, from: Day) -> RowView {
        let query = self.query;
        let count = usize::try_from(query.days).unwrap_or(1);
        let all: Vec<Day> = from.through(from + query.days - 1).collect();
        let mut labels = Vec::new();
        let mut taken = vec![0; count];
        for (at, day) in all.iter().enumerate() {
            self.day_words(*day, at, &mut taken[at], &mut labels);
        }
        // What a draft moved is what one looks for, then what begins or ends in the row; what goes on through all of it comes after.
        let last = from + query.days - 1;
        let goes_on =
            |task: &&Task| task.start.is_some_and(|day| day < from) && task.finish.is_some_and(|day| day > last);
        let mut tasks = self.agenda.tasks.clone();
        tasks.sort_by_key(|task| (!self.beside.has_moved(task), goes_on(task)));
        let most = (((self.picture() - FIRST - FOOT) / LANE).floor()).max(1.0);
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // lanes of a row
        let most = most as usize;
        let live = self.beside.laid(from, &mut taken, most, &mut labels);
        let laid = lanes(&tasks, from, &taken);
        let mut more = vec![0_usize; count];
        let mut bars = Vec::new();
        // Where more lies than fits, the last lane says how much.
        let is_full = |it: &InLane| {
            (it.from..it.to)
                .any(|day| laid.iter().any(|other| other.lane >= most && (other.from..other.to).contains(&day)))
        };
        for it in &laid {
            let beyond = it.lane >= most || it.lane + 1 == most && is_full(it);
            if beyond {
                more[it.from..it.to].iter_mut().for_each(|count| *count += 1);
            } else if let Some(task) = self.plan.tasks.get(&it.task) {
                bars.push(self.bar(task, it, from, &mut labels));
            }
        }
        for (at, count) in more.iter().enumerate().filter(|(_, count)| **count > 0) {
            let day = all[at].to_string();
            labels.push(Label {
                x: percent(at, self.query.days),
                y: lane_y(most - 1),
                width: percent(1, self.query.days),
                hue: 13,
                class: "more",
                text: format!("{count} more"),
                title: format!("{count} more on {}", words::day(all[at], query.order)),
                href: query
                    .href(super::query::PATH, |params| ("day".clone_into(&mut params.span), params.from = day).1),
            });
        }
        let (load, spill, rims) = self.feet(&all);
        RowView {
            key: from.to_string(),
            from,
            name: format!("Week {}", iso_week(from)),
            off: self.off(&all),
            columns: (1..count).map(|day| format!("M{day} 0V{}", self.picture())).collect::<Vec<_>>().concat(),
            bars,
            live,
            labels,
            load,
            spill,
            rims,
            cells: all.iter().map(|day| self.cell(*day)).collect(),
        }
    }

    /// The words of a day: who is off and holidays beside its number, its milestones and meetings in lanes of their own.
    fn day_words(&self, day: Day, at: usize, taken: &mut usize, labels: &mut Vec<Label>) {
        let notes = self.notes_on(day);
        if let Some(first) = notes.first() {
            let more = notes.len() - 1;
            labels.push(Label {
                x: percent(at, self.query.days),
                y: 2.0,
                width: percent(1, self.query.days),
                hue: 13,
                class: "note",
                text: if more == 0 { first.clone() } else { format!("{first}, {more} more") },
                title: notes.join(", "),
                href: String::new(),
            });
        }
        for milestone in self.agenda.milestones.iter().filter(|milestone| milestone.date == day) {
            labels.push(Label {
                x: percent(at, self.query.days),
                y: lane_y(*taken),
                width: percent(1, self.query.days),
                hue: 13,
                class: "milestone",
                text: milestone.name.clone(),
                title: format!("Milestone: {}", milestone.name),
                href: format!("/milestones/{}", milestone.id),
            });
            *taken += 1;
        }
        for (_, meeting) in self.meetings.iter().filter(|(on, _)| *on == day) {
            let at_time = snug_core::cell::time_of_day_text(meeting.at);
            labels.push(Label {
                x: percent(at, self.query.days),
                y: lane_y(*taken),
                width: percent(1, self.query.days),
                hue: self.hues.get(&meeting.project).copied().unwrap_or(0),
                class: "meeting",
                text: format!("{at_time} {}", meeting.title),
                title: format!("{at_time} {}, {}", meeting.title, words::hours(meeting.minutes.into())),
                href: format!("/meetings/{}", meeting.id),
            });
            *taken += 1;
        }
    }

    fn bar(&self, task: &Task, it: &InLane, from: Day, labels: &mut Vec<Label>) -> Bar {
        let query = self.query;
        let (start, finish) = (task.start.unwrap_or(from), task.finish.unwrap_or(from));
        let top = lane_y(it.lane);
        let hue = self.hue(task);
        let days = words::range(start, finish, query.order);
        let left = left_of(self.plan, task).filter(|left| *left > 0).map(words::hours);
        let who = self.who(task);
        let told = if query.span == Span::Month {
            task.title.clone()
        } else {
            let parts = std::iter::once(task.title.clone()).chain(who.clone()).chain(left.clone());
            parts.collect::<Vec<_>>().join(" · ")
        };
        labels.push(Label {
            x: percent(it.from, self.query.days),
            y: top,
            width: percent(it.to - it.from, self.query.days),
            hue,
            class: if task.is_done() { "bar done" } else { "bar" },
            text: told,
            title: String::new(),
            href: String::new(),
        });
        let state = if task.is_done() { Some("done".to_owned()) } else { left.map(|left| format!("{left} left")) };
        let says: Vec<String> = std::iter::once(days).chain(who).chain(state).collect();
        Bar {
            tag: if self.may_change { Tag::of(task).to_string() } else { String::new() },
            hue,
            done: task.is_done(),
            cut: (start < from, finish > from + query.days - 1),
            title: format!("{}: {}", task.title, says.join(", ")),
            shape: Shapes(vec![Rect { from: it.from, to: it.to, top, floor: top + BAR }]),
        }
    }

    /// Who does a task, by first names: `Oona, Ivo`.
    fn who(&self, task: &Task) -> Option<String> {
        let people = task.assignees.people().filter_map(|id| self.plan.people.get(&id));
        let names: Vec<&str> = people.map(|entry| entry.person.name.as_str()).collect();
        let team = task.team.and_then(|id| self.plan.records.teams.get(&id)).map(|team| team.name.clone());
        if names.is_empty() { team } else { Some(names.join(", ")) }
    }

    /// The days on which those whose days are seen have no time at all, or where there is nobody weekends.
    fn off(&self, all: &[Day]) -> Shapes {
        let is_off = |day: &Day| match self.loads.get(day) {
            Some(load) if !self.agenda.people.is_empty() => load.limit == 0,
            _ => day.weekday() >= 5,
        };
        let rect = |at: usize| Rect { from: at, to: at + 1, top: 0.0, floor: self.picture() };
        Shapes(all.iter().enumerate().filter(|(_, day)| is_off(day)).map(|(at, _)| rect(at)).collect())
    }

    /// The feet of days: as wide as a day's limit, filled by what is planned.
    fn feet(&self, all: &[Day]) -> (String, String, String) {
        let (mut load, mut spill, mut rims) = (String::new(), String::new(), String::new());
        let (top, floor) = (self.picture() - 14.0, self.picture() - 6.0);
        for (at, day) in all.iter().enumerate() {
            let Some(sum) = self.loads.get(day).filter(|sum| sum.limit > 0 || sum.load > 0) else { continue };
            #[allow(clippy::cast_precision_loss)] // minutes as parts of a day's width
            let (limit, inside, over) = (sum.limit as f64, (sum.load - sum.spill).max(0) as f64, sum.spill as f64);
            #[allow(clippy::cast_precision_loss)] // a day of the row
            let x = at as f64 + RIM.0;
            // What is over lies at the end, and takes from the rim's length what it is beside the limit.
            let whole = limit.max(inside + over).max(1.0);
            let rim = RIM.1 * limit / whole;
            if inside > 0.0 {
                load.push_str(&rect(x, RIM.1 * inside / whole, top + 2.0, floor));
            }
            if over > 0.0 {
                let wide = (RIM.1 * over / whole).max(LEAST_SPILL);
                let begins = (x + RIM.1 * inside.max(limit.min(inside + over)) / whole).min(x + RIM.1 - wide);
                spill.push_str(&rect(begins, wide, top + 1.0, floor + 1.0));
            }
            if limit > 0.0 {
                let _ = write!(rims, "M{x:.3} {top}h{rim:.3}v9");
            }
        }
        (load, spill, rims)
    }

    fn cell(&self, day: Day) -> CellView {
        let query = self.query;
        let said = self.says(day);
        let label = match query.span {
            Span::Month if day.date().format("%d").to_string() == "01" => words::day_short(day, query.order),
            Span::Month => day.date().format("%-d").to_string(),
            // The column says the day; how full it is is what one asks then.
            _ => match self.loads.get(&day) {
                Some(sum) if sum.limit > 0 || sum.load > 0 => fullness(sum),
                _ => "nobody works".to_owned(),
            },
        };
        CellView {
            band: if day == query.today { "today" } else { "open" },
            spoken: if query.span == Span::Month {
                format!("{label}, {}: {said}", words::weekday(day, query.order))
            } else {
                said
            },
            label,
            days: None,
            selected: query.at() == Some(day),
        }
    }

    /// `31 h planned of 40 h; 3 tasks, Night Trains opens, Wren off`.
    fn says(&self, day: Day) -> String {
        let on = |task: &&&Task| {
            task.start.is_some_and(|start| start <= day) && task.finish.is_some_and(|finish| finish >= day)
        };
        let count = self.agenda.tasks.iter().filter(on).count();
        let mut parts = vec![words::count(count, "task", "tasks")];
        parts.extend(self.agenda.milestones.iter().filter(|it| it.date == day).map(|it| it.name.clone()));
        parts.extend(self.notes_on(day).iter().cloned());
        let fill = self.loads.get(&day).map(fullness).unwrap_or_default();
        let fill = if fill.is_empty() { "nobody works".to_owned() } else { fill };
        format!("{fill}; {}", parts.join(", "))
    }
}

/// `31 h planned of 40 h, 2 h over`.
pub fn fullness(sum: &Stretch) -> String {
    if sum.limit == 0 && sum.load == 0 {
        return String::new();
    }
    let over = if sum.spill > 0 { format!(", {} over", words::hours(sum.spill)) } else { String::new() };
    format!("{} planned of {}{over}", words::hours(sum.load), words::hours(sum.limit))
}

pub fn lane_y(lane: usize) -> f64 {
    FIRST + LANE * f64::from(u32::try_from(lane).unwrap_or(0))
}

fn rect(x: f64, width: f64, top: f64, floor: f64) -> String {
    format!("M{x:.3} {floor:.1}V{top:.1}h{width:.3}V{floor:.1}z")
}

fn iso_week(day: Day) -> u32 {
    use chrono::Datelike as _;
    (day + 3).date().iso_week().week()
}
