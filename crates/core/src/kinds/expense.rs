//! Expenses: money that a project costs besides people's time (`rules/hours.md`).

use super::{
    About, Column, Key, PersonId, ProjectId, Record, Room, Sight, TaskId,
    budget_line::{MOST_MONEY, money},
    codec::{Date, File, Line, MayTo, Number, To},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Actor, Day, Plan, Refusal, Role,
    edit::Edit,
    rules::{line, named},
};
use rust_decimal::{Decimal, RoundingStrategy};
use serde::{Deserialize, Serialize};

identity!(
    /// An expense.
    ExpenseId of Expense
);

/// Money that was spent, or will be.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Expense {
    /// Identity inside the plan.
    pub id: ExpenseId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// The project that it is for.
    pub project: ProjectId,
    /// The line of the budget, by its name; empty for none of one's own choice.
    pub line: String,
    /// The task that it is for.
    pub task: Option<TaskId>,
    /// Who spent it.
    pub person: Option<PersonId>,
    /// When.
    pub date: Day,
    /// On what.
    pub what: String,
    /// How many units.
    pub quantity: Option<Decimal>,
    /// Of what they are counted: “m²”, “km”.
    pub unit: String,
    /// What one of them costs.
    pub unit_price: Option<Decimal>,
    /// What it cost in all, where that is not worked out of the above.
    pub amount: Option<Decimal>,
    /// Where the receipt lies in the store of files: SHA-256 in hexadecimal and the ending of its kind, `e3b0….jpg`; empty for none.
    pub receipt: String,
}

/// What receipts may be, by their endings.
pub const RECEIPTS: [&str; 4] = ["jpg", "png", "webp", "pdf"];

impl Expense {
    /// What it comes to: the amount, else quantity × unit price, half up to cents.
    #[must_use]
    pub fn sum(&self) -> Decimal {
        let worked_out = || self.quantity.unwrap_or_default().checked_mul(self.unit_price.unwrap_or_default());
        let exact = self.amount.or_else(worked_out).unwrap_or_default();
        let mut cents = exact.round_dp_with_strategy(2, RoundingStrategy::MidpointAwayFromZero);
        cents.rescale(2);
        cents
    }

    /// The sum and the ending of the receipt.
    #[must_use]
    pub fn receipt_parts(&self) -> Option<(&str, &str)> {
        self.receipt.rsplit_once('.')
    }
}

impl Record for Expense {
    has_id!(ExpenseId);

    const ABOUT: About = About {
        least: Role::Manager,
        own: true,
        key: Key::Ref,
        title: "what",
        room: Room::Hours,
        says: "What projects cost besides people’s time: an amount, or a quantity and its price, with the receipt.",
        usual: &["what", "project", "line", "date", "email", "quantity", "unit", "unit_price", "amount"],
        facets: &["project", "line", "email"],
        sight: Sight::OwnMoney,
        ..About::new("expense", "expenses", "expenses.csv", "expenses")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        may("ref", "Ref", at!(reference: Line)).hint("The key in files."),
        must("project", "Project", at!(project: To)).example("moon"),
        may("line", "Budget line", at!(line: Line)).hint("Left empty, the project’s only line."),
        may("task", "Task", at!(task: MayTo)),
        may("email", "Who", at!(person: MayTo)).example("oona@tidewater.test"),
        must("date", "Date", at!(date: Date)).example("2026-03-09"),
        must("what", "What", at!(what: Line)).example("Oak, planed"),
        may("quantity", "Quantity", at!(quantity: Number)).bounds(0, MOST_MONEY),
        may("unit", "Unit", at!(unit: Line)).hint("What is counted: m², km.").example("m²"),
        may("unit_price", "Unit price", at!(unit_price: Number)).bounds(0, MOST_MONEY),
        may("amount", "Amount", at!(amount: Number))
            .hint("Or quantity and unit price, of which it is worked out.")
            .bounds(0, MOST_MONEY),
        may("receipt", "Receipt", at!(receipt: File)).hint("The sum of its file and its kind, as e3b0….jpg."),
    ];

    fn blank() -> Self {
        let text = String::new;
        Self {
            id: ExpenseId(0),
            reference: text(),
            project: ProjectId(0),
            line: text(),
            task: None,
            person: None,
            date: Day::MIN,
            what: text(),
            quantity: None,
            unit: text(),
            unit_price: None,
            amount: None,
            receipt: text(),
        }
    }
    fn key(&self) -> String {
        self.reference.clone()
    }
    fn name(&self) -> String {
        self.what.clone()
    }
    fn whose(&self) -> Option<PersonId> {
        // Of nobody is for those alone who see all money.
        Some(self.person.unwrap_or(PersonId(0)))
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        line("ref", &self.reference)?;
        line("line", &self.line)?;
        line("unit", &self.unit)?;
        named("what", &self.what, "Say what the money is for.")?;
        for (field, sum) in [("quantity", self.quantity), ("unit_price", self.unit_price), ("amount", self.amount)] {
            money(field, sum)?;
        }
        match (self.amount, self.quantity, self.unit_price) {
            (Some(_), None, None) => {}
            (None, Some(quantity), Some(price)) => {
                money("unit_price", quantity.checked_mul(price).map(|it| it.round()))?;
            }
            (None, quantity, _) => {
                let field = if quantity.is_some() { "unit_price" } else { "amount" };
                return Err(Refusal::value(field, "Say how much: an amount, or a quantity and its unit price."));
            }
            (Some(_), ..) => {
                let message = "Say an amount, or a quantity and its unit price, not both.";
                return Err(Refusal::value("amount", message));
            }
        }
        let is_receipt = |(sum, ending): (&str, &str)| {
            let is_sum = sum.len() == 64 && sum.bytes().all(|byte| matches!(byte, b'0'..=b'9' | b'a'..=b'f'));
            is_sum && RECEIPTS.contains(&ending)
        };
        if !self.receipt.is_empty() && !self.receipt_parts().is_some_and(is_receipt) {
            return Err(Refusal::value("receipt", "A receipt is a picture or a PDF, by the sum of its file."));
        }
        Ok(())
    }

    /// Everybody keeps what they spent themselves.
    fn may_own(plan: &Plan, edit: &Edit<Self>, actor: &Actor<'_>) -> bool {
        edit.both(|expense| expense.person.is_some_and(|person| actor.is(plan, person)))
    }

    stands_in!(records.expenses);
}
