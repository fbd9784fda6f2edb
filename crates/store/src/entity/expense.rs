//! Money that was spent.

use crate::{
    Error,
    stored::{Stored, day},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Expense, ExpenseId, PersonId, ProjectId, TaskId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "expense")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub project_id: i32,
    pub line: String,
    pub task_id: Option<i32>,
    pub person_id: Option<i32>,
    pub date: Date,
    pub what: String,
    pub quantity: Option<Decimal>,
    pub unit: String,
    pub unit_price: Option<Decimal>,
    pub amount: Option<Decimal>,
    pub receipt: String,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Expense {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            reference: self.reference.clone(),
            project_id: self.project.0,
            line: self.line.clone(),
            task_id: self.task.map(|id| id.0),
            person_id: self.person.map(|id| id.0),
            date: self.date.date(),
            what: self.what.clone(),
            quantity: self.quantity,
            unit: self.unit.clone(),
            unit_price: self.unit_price,
            amount: self.amount,
            receipt: self.receipt.clone(),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: ExpenseId(row.id),
            reference: row.reference,
            project: ProjectId(row.project_id),
            line: row.line,
            task: row.task_id.map(TaskId),
            person: row.person_id.map(PersonId),
            date: day(row.date),
            what: row.what,
            quantity: row.quantity.map(|number| number.normalize()),
            unit: row.unit,
            unit_price: row.unit_price.map(|number| number.normalize()),
            amount: row.amount.map(|number| number.normalize()),
            receipt: row.receipt,
        })
    }
}
