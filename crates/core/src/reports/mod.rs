//! Reports: what happened, or will, in a range of days, as rows or as sums of groups, for a page, a file or a letter. A report is no
//! more than whoever asks for it sees: time of others is for them and the leads of their teams, money for those who see money.

mod columns;
mod estimates;
mod items;

pub use crate::hours::Filter;
pub use columns::{Column, Shape, columns_of};

use crate::{
    Day, Eyes, PersonId, Plan,
    hours::Counts,
    kinds::Sight,
    parts::in_parts,
    rules::{Refusal, grouped},
    words::words,
};
use chrono::Datelike as _;
use columns::{grouped_columns, value_of};
use items::{Figures, Item, Mark};
use rust_decimal::Decimal;
use rustc_hash::FxHashMap;
use std::borrow::Cow;

/// What a report is about.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Subject {
    /// What was logged.
    #[default]
    Time,
    /// Tasks whose dates touch the range.
    Tasks,
    /// Estimate against actual, of all that was ever logged: what lies outside a range could not be projected. Of a person, or of a team
    /// that a task does not name, their parts of it count.
    Estimates,
    /// Tasks that were finished in the range.
    Completion,
    /// Open tasks that are due in the range, or were due before it.
    Due,
    /// What work and expenses cost, and what is billed.
    Money,
}

words!(Subject {
    Time = "time",
    Tasks = "tasks",
    Estimates = "estimates",
    Completion = "completion",
    Due = "due",
    Money = "money",
});

/// A range of days by its name, so that a report that is looked at again is of the days of then.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Range {
    /// The ISO week that a day lies in.
    ThisWeek,
    /// The one before.
    LastWeek,
    /// Today and the 27 days before it.
    LastFourWeeks,
    /// The month.
    ThisMonth,
    /// The one before.
    LastMonth,
    /// The civil year.
    ThisYear,
    /// Today and the 27 days after it.
    NextFourWeeks,
}

words!(Range {
    ThisWeek = "this week",
    LastWeek = "last week",
    LastFourWeeks = "last four weeks",
    ThisMonth = "this month",
    LastMonth = "last month",
    ThisYear = "this year",
    NextFourWeeks = "next four weeks",
});

impl Range {
    /// Its first and its last day.
    #[must_use]
    pub fn days(self, today: Day) -> (Day, Day) {
        let (monday, month) = (today.monday(), today.month_start());
        match self {
            Self::ThisWeek => (monday, monday + 6),
            Self::LastWeek => (monday - 7, monday - 1),
            Self::LastFourWeeks => (today - 27, today),
            Self::ThisMonth => (month, month.month_after(1) - 1),
            Self::LastMonth => (month.month_after(-1), month - 1),
            Self::ThisYear => {
                let january = month.month_after(1 - i32::try_from(today.date().month()).unwrap_or(1));
                (january, january.month_after(12) - 1)
            }
            Self::NextFourWeeks => (today, today + 27),
        }
    }
}

/// By what rows are put together.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum By {
    /// The task.
    Task,
    /// Its project.
    Project,
    /// Who did it, or is to do it; of several people the task is that of all of them together.
    Person,
    /// Their role.
    Role,
    /// The team that the task names, or in estimate against actual that of its people.
    Team,
    /// The kind of work.
    Kind,
    /// The stage of the task.
    Stage,
    /// The day.
    Day,
    /// The ISO week, by its Monday.
    Week,
    /// The month, by its first day.
    Month,
}

words!(By {
    Task = "task",
    Project = "project",
    Person = "person",
    Role = "role",
    Team = "team",
    Kind = "kind",
    Stage = "stage",
    Day = "day",
    Week = "week",
    Month = "month",
});

/// What is asked for.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Ask {
    /// What it is about.
    pub subject: Subject,
    /// The first day.
    pub from: Day,
    /// The last day.
    pub to: Day,
    /// By what rows are put together, the outer first, up to two; by nothing there is a row for each thing.
    pub by: Vec<By>,
    /// What counts.
    pub filter: Filter,
}

/// A value in a row.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd)]
pub enum Value<'p> {
    /// There is none.
    Nothing,
    /// Words.
    Text(Cow<'p, str>),
    /// A day.
    Day(Day),
    /// Minutes, which are shown in hours.
    Minutes(i64),
    /// Money with cents.
    Money(Decimal),
    /// A number of things.
    Count(i64),
    /// Tenths of a percent.
    PerMille(i64),
}

/// A report: its columns, its rows in order, and the sum of each column that adds up.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Report<'p> {
    /// The columns.
    pub columns: Vec<Column>,
    /// The rows.
    pub rows: Vec<Vec<Value<'p>>>,
    /// How many of the first columns say what a row is; of a report without groups all that are no figures.
    pub keys: usize,
    /// The sums; nothing in a column that does not add up.
    pub totals: Vec<Value<'p>>,
    /// Which column says in what other row a row is, whose figures have its own in them; the sums leave such rows out.
    pub inside: Option<usize>,
}

impl Subject {
    /// By what it can be put together.
    #[must_use]
    pub fn groups(self) -> &'static [By] {
        use By::{Day, Kind, Month, Person, Project, Role, Stage, Task, Team, Week};
        match self {
            Self::Time => &[Project, Person, Role, Kind, Task, Day, Week, Month],
            Self::Tasks => &[Project, Person, Team, Kind, Stage],
            Self::Estimates => &[Task, Project, Person, Team, Role, Kind],
            Self::Completion => &[Project, Person, Team, Kind, Week, Month],
            Self::Due => &[Project, Person, Team, Kind, Stage, Week, Month],
            Self::Money => &[Project, Person, Kind, Day, Week, Month],
        }
    }

    /// Who sees it at all.
    #[must_use]
    pub fn sight(self) -> Sight {
        if self == Self::Money { Sight::Money } else { Sight::All }
    }
}

impl Ask {
    /// Whose log counts, of those whose hours are seen.
    fn people(&self, eyes: &Eyes<'_>) -> Vec<PersonId> {
        let all = eyes.plan.people.keys().copied().filter(|id| eyes.knows(*id));
        match self.subject {
            Subject::Time | Subject::Money => {
                all.filter(|id| self.filter.person.is_none_or(|one| one == *id)).collect()
            }
            _ => Vec::new(),
        }
    }

    /// The same, without groups that its subject does not have or that are there twice, and with at most two.
    #[must_use]
    pub fn sound(mut self) -> Self {
        let known = self.subject.groups();
        let mut kept: Vec<By> = Vec::new();
        for by in self.by {
            if known.contains(&by) && !kept.contains(&by) {
                kept.push(by);
            }
        }
        // Estimates of tasks overlap with those of what they are in; they are told apart by one thing, which is the task if nothing is said.
        kept.truncate(if self.subject == Subject::Estimates { 1 } else { 2 });
        if kept.is_empty() && self.subject == Subject::Estimates {
            kept.push(By::Task);
        }
        self.by = kept;
        self
    }
}

/// Of a list what is kept.
fn keep<T>(list: Vec<T>, kept: &[bool]) -> Vec<T> {
    list.into_iter().zip(kept).filter(|(_, kept)| **kept).map(|(it, _)| it).collect()
}

impl Report<'_> {
    /// The same with some of its columns, by their names, in its own order; without any it stays as it is. The column that says what a
    /// row is inside of stays, as sums depend on it.
    #[must_use]
    pub fn only(self, names: &[String]) -> Self {
        let inside = self.inside.map(|at| self.columns[at].name);
        let is_kept = |column: &Column| names.iter().any(|name| name == column.name) || Some(column.name) == inside;
        let kept: Vec<bool> = self.columns.iter().map(is_kept).collect();
        if !self.columns.iter().any(|column| names.iter().any(|name| name == column.name)) {
            return self;
        }
        let columns = keep(self.columns, &kept);
        Self {
            keys: columns.iter().take_while(|column| !column.adds_up).count(),
            inside: inside.and_then(|name| columns.iter().position(|column| column.name == name)),
            rows: self.rows.into_iter().map(|row| keep(row, &kept)).collect(),
            totals: keep(self.totals, &kept),
            columns,
        }
    }
}

/// What groups have, by what they are told apart by.
type Groups<'p> = FxHashMap<[Mark<'p>; 2], Figures>;

/// Everything that counts, put together.
fn groups<'p>(eyes: &Eyes<'p>, ask: &Ask, counts: &Counts<'_>, today: Day) -> Groups<'p> {
    let plan = eyes.plan;
    let sees_money = eyes.sees(Sight::Money, None);
    let put = |groups: &mut Groups<'p>, item: Item<'p>| {
        let mark = |at: usize| ask.by.get(at).map_or(Mark::Nothing, |by| item.mark(plan, *by));
        let figures = item.figures(plan, ask.subject, today, sees_money);
        groups.entry([mark(0), mark(1)]).or_default().add(&figures);
    };
    let mut groups = Groups::default();
    items::others(eyes, ask, counts, today, &mut |item| put(&mut groups, item));
    let logged = in_parts(&ask.people(eyes), |people| {
        let mut groups = Groups::default();
        for person in people {
            items::logged(eyes, ask, counts, *person, &mut |item| put(&mut groups, item));
        }
        groups
    });
    for (mark, figures) in logged.into_iter().flatten() {
        groups.entry(mark).or_default().add(&figures);
    }
    groups
}

/// More entries than these are told in groups only.
pub const MOST_ENTRIES: usize = 100_000;

/// Makes a report of what these eyes see; empty where they do not see its subject.
///
/// # Errors
/// More entries would have a row each than anybody reads.
pub fn report<'p>(eyes: &Eyes<'p>, ask: &Ask, today: Day) -> Result<Report<'p>, Refusal> {
    let ask = ask.clone().sound();
    let plan = eyes.plan;
    let sees_money = eyes.sees(Sight::Money, None);
    if !eyes.sees(ask.subject.sight(), None) {
        return Ok(Report::default());
    }
    if ask.subject == Subject::Estimates {
        return Ok(estimates::report(eyes, &ask));
    }
    let columns: Vec<Column> = if ask.by.is_empty() { columns_of(ask.subject) } else { grouped_columns(&ask) };
    let columns: Vec<Column> = columns.into_iter().filter(|column| sees_money || !column.is_money).collect();
    let counts = Counts::of(plan, &ask.filter);
    let mut total = Figures::default();
    let rows = if ask.by.is_empty() {
        let people = ask.people(eyes);
        check_number(people.iter().map(|person| plan.log_of(*person, ask.from, ask.to).len()).sum())?;
        let mut items: Vec<(Item<'p>, Figures)> = Vec::new();
        let mut see = |item: Item<'p>| {
            let figures = item.figures(plan, ask.subject, today, sees_money);
            total.add(&figures);
            items.push((item, figures));
        };
        for person in people {
            items::logged(eyes, &ask, &counts, person, &mut see);
        }
        items::others(eyes, &ask, &counts, today, &mut see);
        items.sort_by_cached_key(|(item, _)| item.order(plan));
        let row = |(item, figures): &(Item<'p>, Figures)| {
            columns.iter().map(|column| value_of(plan, column, item, figures, today)).collect()
        };
        items.iter().map(row).collect()
    } else {
        let groups = groups(eyes, &ask, &counts, today);
        for figures in groups.values() {
            total.add(figures);
        }
        let keys = ask.by.len();
        let row = |(marks, figures): ([Mark<'p>; 2], Figures)| {
            let names = marks[..keys].iter().map(|mark| mark.value(plan)).collect::<Vec<_>>();
            let rest = columns[keys..].iter().map(|column| figures.value(column.slot));
            names.iter().cloned().chain(rest).collect::<Vec<_>>()
        };
        let mut rows: Vec<Vec<Value<'p>>> = groups.into_iter().map(row).collect();
        rows.sort_by(|a, b| a[..keys].partial_cmp(&b[..keys]).unwrap_or(std::cmp::Ordering::Equal));
        rows
    };
    let sum = |column: &Column| if column.adds_up { total.value(column.slot) } else { Value::Nothing };
    let totals = columns.iter().map(sum).collect();
    let keys = columns.iter().take_while(|column| !column.adds_up).count();
    Ok(Report { columns, rows, keys, totals, inside: None })
}

/// So many entries are refused a row each as nobody reads, and as would take the memory of others.
fn check_number(entries: usize) -> Result<(), Refusal> {
    if entries <= MOST_ENTRIES {
        return Ok(());
    }
    let number = grouped(i64::try_from(entries).unwrap_or(i64::MAX));
    let message = format!(
        "{number} entries lie in these days, too many for a row each: put them together by something, or choose fewer days or one person."
    );
    Err(Refusal::value("by", message))
}

/// What a day is called that stands for its week or month; `None` where days are not told apart.
fn first_of(by: By, day: Day) -> Option<Day> {
    match by {
        By::Day => Some(day),
        By::Week => Some(day.monday()),
        By::Month => Some(day.month_start()),
        _ => None,
    }
}

/// The name of a person of a plan.
fn person_name(plan: &Plan, id: PersonId) -> &str {
    plan.people.get(&id).map_or("", |entry| entry.person.name.as_str())
}
