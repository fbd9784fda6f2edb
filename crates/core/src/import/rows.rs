//! Rows as files hold them: values are typed, references are keys.

use super::Problem;
use crate::{
    Day,
    fields::{FieldKind, FieldOf},
    people::{Pattern, PersonKind},
    work::{Amount, Certainty, Contour, LinkKind, Priority, ProjectStatus},
};
use rust_decimal::Decimal;

/// A row and the line it stands on.
#[derive(Clone, Debug)]
pub struct Line<T> {
    /// Counted from 1, the header included.
    pub line: u64,
    /// What stands there.
    pub row: T,
}

/// All rows of a set of files, with what could not be read.
#[derive(Clone, Debug, Default)]
#[allow(missing_docs)] // the fields are the files
pub struct Dataset {
    pub fields: Vec<Line<FieldRow>>,
    pub people: Vec<Line<PersonRow>>,
    pub patterns: Vec<Line<PatternRow>>,
    pub rates: Vec<Line<RateRow>>,
    pub holidays: Vec<Line<HolidayRow>>,
    pub absences: Vec<Line<AbsenceRow>>,
    pub teams: Vec<Line<TeamRow>>,
    pub members: Vec<Line<MemberRow>>,
    pub projects: Vec<Line<ProjectRow>>,
    pub tasks: Vec<Line<TaskRow>>,
    pub links: Vec<Line<LinkRow>>,
    pub bookings: Vec<Line<BookingFileRow>>,
    pub time: Vec<Line<TimeRow>>,
    pub milestones: Vec<Line<MilestoneRow>>,
    /// Rows, columns or files that could not be read.
    pub problems: Vec<Problem>,
    /// Columns that nobody knows, as file and column.
    pub unknown_columns: Vec<(String, String)>,
}

impl Dataset {
    /// Moves every date by a number of days, as when an example is to lie around today.
    pub fn shift(&mut self, days: i32) {
        let by = |day: &mut Day| *day = *day + days;
        self.patterns.iter_mut().for_each(|line| by(&mut line.row.from));
        self.rates.iter_mut().for_each(|line| by(&mut line.row.from));
        self.holidays.iter_mut().for_each(|line| by(&mut line.row.date));
        self.time.iter_mut().for_each(|line| by(&mut line.row.date));
        self.milestones.iter_mut().for_each(|line| by(&mut line.row.date));
        self.shift_own_dates(days);
        for line in &mut self.absences {
            [&mut line.row.start, &mut line.row.end].into_iter().for_each(by);
        }
        for line in &mut self.bookings {
            [&mut line.row.start, &mut line.row.end].into_iter().for_each(by);
        }
        for line in &mut self.projects {
            [&mut line.row.start, &mut line.row.finish].into_iter().flatten().for_each(by);
        }
        for line in &mut self.tasks {
            [&mut line.row.start, &mut line.row.finish, &mut line.row.due].into_iter().flatten().for_each(by);
        }
    }
}

impl Dataset {
    /// The same for values of the workspace's own fields that are dates.
    fn shift_own_dates(&mut self, days: i32) {
        let dates: Vec<(FieldOf, String)> = self
            .fields
            .iter()
            .filter(|line| line.row.kind == FieldKind::Date)
            .map(|line| (line.row.of, line.row.name.clone()))
            .collect();
        let shift = |of: FieldOf, own: &mut OwnRow| {
            for (name, value) in own.iter_mut() {
                if let Ok(day) = value.parse::<Day>()
                    && dates.iter().any(|(known, field)| *known == of && field == name)
                {
                    *value = (day + days).to_string();
                }
            }
        };
        self.people.iter_mut().for_each(|line| shift(FieldOf::Person, &mut line.row.own));
        self.projects.iter_mut().for_each(|line| shift(FieldOf::Project, &mut line.row.own));
        self.tasks.iter_mut().for_each(|line| shift(FieldOf::Task, &mut line.row.own));
    }
}

macro_rules! row {
    ($(#[$doc:meta])* $name:ident { $($field:ident: $type:ty),* $(,)? }) => {
        $(#[$doc])*
        #[derive(Clone, Debug, PartialEq, Eq)]
        #[allow(missing_docs)] // the fields are the file's columns, described in docs/formats.md
        pub struct $name { $(pub $field: $type),* }
    };
}

/// The values of the workspace's own fields in a row: the field's name and the value, no empty ones.
pub type OwnRow = Vec<(String, String)>;

row!(
    /// A row of fields.csv.
    FieldRow { of: FieldOf, name: String, kind: FieldKind, choices: Vec<String> }
);
row!(
    /// A row of people.csv.
    PersonRow {
        email: String, name: String, role: String, kind: PersonKind, holiday_calendar: String, pattern: Pattern,
        day_limit: Option<i32>, week_limit: Option<i32>, max_projects: Option<i32>, max_tasks: Option<i32>,
        max_points: Option<Decimal>, skills: Vec<String>, cost_rate: Option<Decimal>, bill_rate: Option<Decimal>, own: OwnRow,
    }
);
row!(
    /// A row of patterns.csv.
    PatternRow { email: String, from: Day, pattern: Pattern }
);
row!(
    /// A row of rates.csv.
    RateRow { email: String, from: Day, cost_rate: Option<Decimal>, bill_rate: Option<Decimal> }
);
row!(
    /// A row of holidays.csv; the fraction in millionths.
    HolidayRow { calendar: String, date: Day, name: String, fraction: i32 }
);
row!(
    /// A row of absences.csv.
    AbsenceRow { reference: String, email: String, start: Day, end: Day, kind: String, minutes: Option<i32>, at: Option<i32> }
);
row!(
    /// A row of teams.csv.
    TeamRow { code: String, name: String, parent: String, owner: String, week_capacity: Option<i32> }
);
row!(
    /// A row of members.csv; the share in hundredths of a percent.
    MemberRow { team: String, email: String, share: i32 }
);
row!(
    /// A row of projects.csv.
    ProjectRow {
        code: String, name: String, status: ProjectStatus, parent: String, lead: String, team: String,
        start: Option<Day>, finish: Option<Day>, budget_minutes: Option<i64>, budget_money: Option<Decimal>, own: OwnRow,
    }
);
row!(
    /// A row of tasks.csv.
    TaskRow {
        reference: String, project: String, parent: String, title: String, kind: String, team: String,
        assignees: AssigneesRow, contour: Contour, estimate: Option<i64>, remaining: Option<i64>, points: Option<Decimal>,
        start: Option<Day>, finish: Option<Day>, due: Option<Day>, priority: Priority, stage: String,
        progress: Option<Decimal>, tags: Vec<String>, walk_in: bool, requester: String, sprint: String, release: String, own: OwnRow,
    }
);
row!(
    /// A row of links.csv.
    LinkRow { from: String, to: String, kind: LinkKind, lag_days: i32, note: String }
);
row!(
    /// A row of bookings.csv.
    BookingFileRow {
        reference: String, email: String, team: String, role: String, project: String, start: Day, end: Day,
        amount: Amount, certainty: Certainty, days_off: bool, note: String,
    }
);
row!(
    /// A row of time.csv.
    TimeRow { reference: String, email: String, date: Day, project: String, task: String, minutes: i32, billable: bool, note: String }
);
row!(
    /// A row of milestones.csv.
    MilestoneRow { reference: String, name: String, date: Day, projects: Vec<String> }
);

/// The cell that says who does a task.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum AssigneesRow {
    /// E-mail addresses alone; also nobody.
    Even(Vec<String>),
    /// Each with a share in hundredths of a percent.
    Shares(Vec<(String, i32)>),
    /// Each with the full effort.
    Full(Vec<String>),
}
