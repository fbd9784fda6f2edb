//! What the address of the calendar says: which days, whose work, what is selected.

use crate::schedule::address::{href, list};
use chrono::{Datelike as _, Months};
use serde::{Deserialize, Serialize};
use snug_core::{
    Day, Plan, ProjectId, TeamId,
    agenda::Scope,
    cells::Grain,
    kinds::{Kind, ProjectStatus},
    settings::DateOrder,
};
use std::{collections::BTreeSet, sync::Arc};

/// Where the calendar lies.
pub const PATH: &str = "/schedule/calendar";

/// How much of it is seen at once.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Span {
    Month,
    Week,
    Day,
    /// Day by day, as a list of four weeks.
    List,
}

impl Span {
    /// Each with its word and its name.
    pub const ALL: [(Self, &'static str, &'static str); 4] = [
        (Self::Month, "month", "Month"),
        (Self::Week, "week", "Week"),
        (Self::Day, "day", "Day"),
        (Self::List, "list", "List"),
    ];
}

/// The address as it comes. A number or a day that makes no sense is taken as not said.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[serde(default)]
pub struct Params {
    pub span: String,
    pub from: String,
    /// Codes of projects, with commas between; all that are not closed where none is said.
    pub project: String,
    /// Those of them that are off.
    pub without: String,
    /// Code of a team.
    pub team: String,
    /// Codes of teams whose milestones are seen besides.
    pub also: String,
    /// The day that is selected.
    pub at: String,
    /// A cell that is to be selected in the view one comes from: its row's key, a point, and its place in the row.
    pub cell: String,
}

/// The address as it is meant.
#[derive(Clone, Debug)]
pub struct CalendarQuery {
    pub params: Params,
    pub today: Day,
    pub span: Span,
    /// The day that is meant: of a month any of its days.
    pub day: Day,
    /// The first day of each row, and how many days a row has.
    pub rows: Vec<Day>,
    pub days: i32,
    pub order: DateOrder,
    pub scope: Scope,
    /// The live plan beside a draft that is shown.
    pub live: Option<Arc<Plan>>,
}

impl CalendarQuery {
    /// Reads an address.
    pub fn read(params: Params, plan: &Plan, today: Day) -> Self {
        let span = Span::ALL.into_iter().find(|span| span.1 == params.span).map_or(Span::Month, |span| span.0);
        let day: Day = params.from.parse().unwrap_or(today);
        let day = day.clamp(Day::MIN + 70, Day::MAX - 70);
        let week = |day: Day| Grain::Week.start_of(day, &plan.settings);
        let (rows, days) = match span {
            Span::Month => {
                let first = first_of_month(day);
                let last = next_month(day, 1) - 1;
                let begin = week(first);
                let weeks = last.since(begin) / 7 + 1;
                ((0..weeks).map(|row| begin + row * 7).collect(), 7)
            }
            Span::Week => (vec![week(day)], 7),
            Span::Day => (vec![day], 1),
            Span::List => ((0..28).map(|row| day + row).collect(), 1),
        };
        let order = plan.settings.date_order;
        Self { scope: scope(&params, plan), order, params, today, span, day, rows, days, live: None }
    }

    /// The same for a draft, beside the live plan.
    pub fn beside_live(self, live: Option<Arc<Plan>>) -> Self {
        Self { live, ..self }
    }

    /// The first day that is seen.
    pub fn from(&self) -> Day {
        self.rows.first().copied().unwrap_or(self.day)
    }

    /// The last day that is seen.
    pub fn to(&self) -> Day {
        self.rows.last().map_or(self.day, |first| *first + self.days - 1)
    }

    /// The day that is selected, where it is seen.
    pub fn at(&self) -> Option<Day> {
        let at: Option<Day> = self.params.at.parse().ok();
        at.filter(|day| (self.from()..=self.to()).contains(day))
    }

    /// Another day by as many of what is seen at once.
    pub fn moved(&self, by: i32) -> Day {
        match self.span {
            Span::Month => next_month(self.day, by),
            Span::Week => self.day + by * 7,
            Span::Day => self.day + by,
            Span::List => self.day + by * 28,
        }
    }

    /// The address of this view, or of a part of it, with some words said otherwise.
    pub fn href(&self, path: &str, alter: impl FnOnce(&mut Params)) -> String {
        let mut params = self.params.clone();
        alter(&mut params);
        href(path, &params)
    }

    /// The view that a followed link means: a row is called by its first day.
    pub fn followed(&self, cell: &str) -> String {
        self.href(PATH, |params| {
            let found =
                cell.rsplit_once('.').and_then(|(row, at)| Some((row.parse::<Day>().ok()?, at.parse::<i32>().ok()?)));
            params.at = found.map(|(row, at)| (row + at.clamp(0, 6)).to_string()).unwrap_or_default();
        })
    }
}

fn first_of_month(day: Day) -> Day {
    day - i32::try_from(day.date().day0()).unwrap_or(0)
}

/// The first day of a month that is some months away.
fn next_month(day: Day, by: i32) -> Day {
    let (first, months) = (first_of_month(day).date(), Months::new(by.unsigned_abs()));
    let found = if by < 0 { first.checked_sub_months(months) } else { first.checked_add_months(months) };
    found.map_or(day, Day::from_date)
}

fn scope(params: &Params, plan: &Plan) -> Scope {
    let known = |text: &str| -> BTreeSet<ProjectId> {
        let found = list(text).into_iter().filter_map(|code| plan.find(Kind::Project, &code).map(ProjectId));
        found.collect()
    };
    let (chosen, off) = (known(&params.project), known(&params.without));
    let is_open =
        |id: &ProjectId| plan.records.projects.get(id).is_some_and(|project| project.status != ProjectStatus::Closed);
    let projects = if chosen.is_empty() && off.is_empty() {
        None
    } else if chosen.is_empty() {
        Some(plan.records.projects.keys().copied().filter(|id| is_open(id) && !off.contains(id)).collect())
    } else {
        // A project that is chosen brings those inside it.
        let inside = |id: &ProjectId| plan.project_line(*id).any(|above| chosen.contains(&above.id));
        Some(plan.records.projects.keys().copied().filter(|id| inside(id) && !off.contains(id)).collect())
    };
    let team = |code: &str| plan.find(Kind::Team, code).map(TeamId);
    Scope {
        projects,
        team: team(&params.team),
        also: list(&params.also).iter().filter_map(|code| team(code)).collect(),
    }
}
