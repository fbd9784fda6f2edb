//! Lines of budgets: how many hours and how much money a part of a project may take (`rules/hours.md`).

use super::{
    About, Column, Key, ProjectId, Record, Room, Sight,
    codec::{Hours, Line, Number, To},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{Day, Refusal, Role, rules::named};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

identity!(
    /// A line of a budget.
    BudgetLineId of BudgetLine
);

/// A line of a project's budget.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct BudgetLine {
    /// Identity inside the plan.
    pub id: BudgetLineId,
    /// The project.
    pub project: ProjectId,
    /// What it is called, once in a project; tasks, bookings and expenses name it by that.
    pub line: String,
    /// Minutes that it may take.
    pub minutes: Option<i64>,
    /// Money that it may take, in the workspace currency.
    pub money: Option<Decimal>,
}

/// The most money of anything, in the workspace currency.
pub const MOST_MONEY: i32 = 1_000_000_000;

impl Record for BudgetLine {
    has_id!(BudgetLineId);

    const ABOUT: About = About {
        least: Role::Manager,
        key: Key::Pair,
        key_column: "line",
        title: "line",
        room: Room::Hours,
        says: "The parts of the projects’ budgets, in hours and in money.",
        usual: &["line", "project", "hours", "money"],
        facets: &["project"],
        ..About::new("budget line", "budget lines", "budget_lines.csv", "budget-lines")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("project", "Project", at!(project: To)).example("moon"),
        must("line", "Line", at!(line: Line)).hint("Tasks, bookings and expenses name it.").example("Build"),
        may("hours", "Hours", at!(minutes: Hours)).bounds(0, 1_000_000).adds_up(),
        may("money", "Money", at!(money: Number)).bounds(0, MOST_MONEY).seen(Sight::Money).adds_up(),
    ];

    fn blank() -> Self {
        Self { id: BudgetLineId(0), project: ProjectId(0), line: String::new(), minutes: None, money: None }
    }
    fn key(&self) -> String {
        format!("{}\n{}", self.project, self.line)
    }
    fn name(&self) -> String {
        self.line.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("line", &self.line, "Give the line a name.")?;
        if self.minutes.is_some_and(|minutes| !(0..=60_000_000).contains(&minutes)) {
            return Err(Refusal::value("hours", "Write a number of hours up to 1,000,000."));
        }
        money("money", self.money)
    }

    stands_in!(records.budget_lines);
}

/// Money is no more than can be added up, and has cents at the finest.
pub(crate) fn money(field: &'static str, sum: Option<Decimal>) -> Result<(), Refusal> {
    match sum {
        Some(sum) if sum.abs() > Decimal::from(MOST_MONEY) => {
            Err(Refusal::value(field, "Write an amount of money up to 1,000,000,000."))
        }
        Some(sum) if sum.normalize().scale() > 4 => {
            Err(Refusal::value(field, "Write an amount of money with at most four digits after the point."))
        }
        _ => Ok(()),
    }
}
