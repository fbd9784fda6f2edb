//! Records as JSON: the columns of the files, typed.

use serde::{Deserialize, Serialize};
use snug_exchange::csv::OWN;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// A value between JSON and the cell of a file.
pub trait CellValue: Sized {
    /// As it stands in a cell.
    fn to_cell(&self) -> String;
    /// From a cell that the plan wrote.
    fn from_cell(text: &str) -> Self;
}

impl CellValue for String {
    fn to_cell(&self) -> String {
        self.clone()
    }
    fn from_cell(text: &str) -> Self {
        text.to_owned()
    }
}
impl CellValue for f64 {
    fn to_cell(&self) -> String {
        self.to_string()
    }
    fn from_cell(text: &str) -> Self {
        text.parse().unwrap_or_default()
    }
}
impl CellValue for i32 {
    fn to_cell(&self) -> String {
        self.to_string()
    }
    fn from_cell(text: &str) -> Self {
        text.parse().unwrap_or_default()
    }
}
impl CellValue for bool {
    fn to_cell(&self) -> String {
        if *self { "yes".to_owned() } else { String::new() }
    }
    fn from_cell(text: &str) -> Self {
        text == "yes"
    }
}
impl<T: CellValue> CellValue for Option<T> {
    fn to_cell(&self) -> String {
        self.as_ref().map(T::to_cell).unwrap_or_default()
    }
    fn from_cell(text: &str) -> Self {
        (!text.is_empty()).then(|| T::from_cell(text))
    }
}

/// A record's columns as JSON.
pub trait Columns: Sized {
    /// The file that holds such records.
    const FILE: &'static str;
    /// Column and value.
    fn cells(&self) -> Vec<(String, String)>;
    /// From the row of a record.
    fn of(cells: &[(String, String)]) -> Self;
}

macro_rules! bodies {
    ($($(#[$doc:meta])* $name:ident, $record:ident = $file:literal {
        $($(#[$about:meta])* $column:ident: $type:ty,)*
    } $(+ $own:ident)?)*) => {$(
        $(#[$doc])*
        #[derive(Clone, Debug, Default, Serialize, Deserialize, ToSchema)]
        #[serde(deny_unknown_fields)]
        pub struct $name {
            $($(#[$about])* pub $column: $type,)*
            $(
                /// Values of the workspace's own fields, by the field's name.
                #[serde(default)]
                pub $own: BTreeMap<String, String>,
            )?
        }

        $(#[$doc])*
        #[derive(Clone, Debug, Serialize, ToSchema)]
        pub struct $record {
            /// Never changes.
            pub id: i32,
            $($(#[$about])* pub $column: $type,)*
            $(
                /// Values of the workspace's own fields, by the field's name.
                pub $own: BTreeMap<String, String>,
            )?
        }

        impl Columns for $name {
            const FILE: &'static str = $file;

            fn cells(&self) -> Vec<(String, String)> {
                #[allow(unused_mut)]
                let mut cells = vec![$((column(stringify!($column)).to_owned(), self.$column.to_cell()),)*];
                $(cells.extend(self.$own.iter().map(|(name, value)| (format!("{OWN}{name}"), value.clone())));)?
                cells
            }

            fn of(cells: &[(String, String)]) -> Self {
                let cell = |name: &str| cells.iter().find(|(known, _)| known == name).map_or("", |(_, value)| value);
                Self {
                    $($column: CellValue::from_cell(cell(column(stringify!($column)))),)*
                    $($own: own(cells),)?
                }
            }
        }

        impl From<(i32, $name)> for $record {
            fn from((id, body): (i32, $name)) -> Self {
                Self { id, $($column: body.$column,)* $($own: body.$own,)? }
            }
        }
    )*};
}

/// A field's name as a column: `ref` is a word of the language and stands as `r#ref` there.
fn column(field: &'static str) -> &'static str {
    field.trim_start_matches("r#")
}

fn own(cells: &[(String, String)]) -> BTreeMap<String, String> {
    let own = cells.iter().filter_map(|(name, value)| Some((name.strip_prefix(OWN)?, value)));
    own.filter(|(_, value)| !value.is_empty()).map(|(name, value)| (name.to_owned(), value.clone())).collect()
}

bodies! {
    /// A person or a piece of equipment.
    PersonBody, PersonRecord = "people.csv" {
        /// The key, unique.
        #[schema(example = "oona@tidewater.test")]
        email: String,
        #[schema(example = "Oona Varga", min_length = 1, max_length = 300)]
        name: String,
        role: Option<String>,
        /// person or equipment.
        #[schema(example = "person", pattern = "^(person|equipment)?$")]
        kind: Option<String>,
        holiday_calendar: Option<String>,
        /// Seven numbers of hours from Monday; rotating weeks with | between.
        #[schema(example = "8 8 8 8 8 0 0", max_length = 2000)]
        pattern: Option<String>,
        /// The most hours on a day.
        #[schema(minimum = 0, maximum = 24)]
        day_limit_h: Option<f64>,
        /// The most hours in an ISO week.
        #[schema(minimum = 0, maximum = 168)]
        week_limit_h: Option<f64>,
        #[schema(minimum = 0, maximum = 1000)]
        max_projects: Option<i32>,
        #[schema(minimum = 0, maximum = 1000)]
        max_tasks: Option<i32>,
        #[schema(minimum = 0, maximum = 1_000_000)]
        max_points: Option<f64>,
        /// With ; between.
        skills: Option<String>,
        /// Money an hour.
        #[schema(minimum = 0, maximum = 1_000_000)]
        cost_rate: Option<f64>,
        /// Money an hour.
        #[schema(minimum = 0, maximum = 1_000_000)]
        bill_rate: Option<f64>,
    } + fields

    /// A project.
    ProjectBody, ProjectRecord = "projects.csv" {
        /// The key, unique.
        #[schema(example = "moon")]
        code: String,
        #[schema(example = "Moon Garden", min_length = 1, max_length = 300)]
        name: String,
        /// sketch, active, paused or closed.
        #[schema(example = "active", pattern = "^(sketch|active|paused|closed)?$")]
        status: Option<String>,
        /// The code of the project it is inside.
        parent: Option<String>,
        /// The address of who leads it.
        lead: Option<String>,
        /// The code of its default team.
        team: Option<String>,
        #[schema(example = "2026-03-09", pattern = r"^\d{4}-\d{2}-\d{2}$")]
        start: Option<String>,
        #[schema(example = "2026-06-30", pattern = r"^\d{4}-\d{2}-\d{2}$")]
        finish: Option<String>,
        #[schema(minimum = 0, maximum = 1_000_000)]
        budget_h: Option<f64>,
        #[schema(minimum = 0, maximum = 1_000_000_000)]
        budget_money: Option<f64>,
    } + fields

    /// A task.
    TaskBody, TaskRecord = "tasks.csv" {
        /// The key; made when left out.
        r#ref: Option<String>,
        /// A project's code.
        #[schema(example = "moon")]
        project: String,
        /// The ref of the task it is inside.
        parent: Option<String>,
        #[schema(example = "Crater relief, milling", min_length = 1, max_length = 300)]
        title: String,
        /// The kind of work, in one's own words.
        kind: Option<String>,
        /// A team's code.
        team: Option<String>,
        /// Addresses with ; between, each alone, with =share in percent, or with =full.
        #[schema(example = "oona@tidewater.test=70;teo@tidewater.test=30")]
        assignees: Option<String>,
        /// flat, front, back or bell.
        #[schema(pattern = "^(flat|front|back|bell)?$")]
        contour: Option<String>,
        #[schema(minimum = 0, maximum = 100_000)]
        estimate_h: Option<f64>,
        /// Left out, it is the estimate less what was logged.
        #[schema(minimum = 0, maximum = 100_000)]
        remaining_h: Option<f64>,
        #[schema(minimum = 0, maximum = 1_000_000)]
        points: Option<f64>,
        #[schema(example = "2026-03-09", pattern = r"^\d{4}-\d{2}-\d{2}$")]
        start: Option<String>,
        #[schema(example = "2026-03-20", pattern = r"^\d{4}-\d{2}-\d{2}$")]
        finish: Option<String>,
        #[schema(pattern = r"^\d{4}-\d{2}-\d{2}$")]
        due: Option<String>,
        /// low, normal, high or urgent.
        #[schema(pattern = "^(low|normal|high|urgent)?$")]
        priority: Option<String>,
        /// to do, doing, checking, done, or one's own.
        stage: Option<String>,
        /// Percent.
        #[schema(minimum = 0, maximum = 100)]
        progress: Option<f64>,
        /// With ; between.
        tags: Option<String>,
        #[serde(default)]
        walk_in: bool,
        requester: Option<String>,
        sprint: Option<String>,
        release: Option<String>,
    } + fields

    /// Hours set aside for a person, a team or a role: give one of email, team and role.
    BookingBody, BookingRecord = "bookings.csv" {
        r#ref: Option<String>,
        #[schema(example = "oona@tidewater.test")]
        email: Option<String>,
        team: Option<String>,
        role: Option<String>,
        /// A project's code; left out, it is a hold.
        #[schema(example = "moon")]
        project: Option<String>,
        #[schema(example = "2026-03-09", pattern = r"^\d{4}-\d{2}-\d{2}$")]
        start: String,
        #[schema(example = "2026-03-20", pattern = r"^\d{4}-\d{2}-\d{2}$")]
        end: String,
        /// How much, in the unit.
        #[schema(example = 6, minimum = 0, maximum = 100_000)]
        amount: f64,
        /// h/day, h/week, h or %.
        #[schema(example = "h/day", pattern = "^(h/day|h/week|h|%)$")]
        unit: String,
        /// firm or pencilled.
        #[schema(pattern = "^(firm|pencilled)?$")]
        certainty: Option<String>,
        /// Counts on days off, too.
        #[serde(default)]
        days_off: bool,
        note: Option<String>,
    }

    /// Logged work.
    TimeBody, TimeRecord = "time.csv" {
        r#ref: Option<String>,
        #[schema(example = "oona@tidewater.test")]
        email: String,
        #[schema(example = "2026-03-09", pattern = r"^\d{4}-\d{2}-\d{2}$")]
        date: String,
        project: Option<String>,
        /// A task's ref.
        task: Option<String>,
        #[schema(example = 1.5, minimum = 0, maximum = 24)]
        hours: f64,
        #[serde(default)]
        billable: bool,
        note: Option<String>,
    }
}
