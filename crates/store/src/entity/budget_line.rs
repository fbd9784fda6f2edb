//! Lines of budgets.

use crate::{Error, stored::Stored};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{BudgetLine, BudgetLineId, ProjectId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "budget_line")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub project_id: i32,
    pub line: String,
    pub minutes: Option<i64>,
    pub money: Option<Decimal>,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for BudgetLine {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            project_id: self.project.0,
            line: self.line.clone(),
            minutes: self.minutes,
            money: self.money,
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: BudgetLineId(row.id),
            project: ProjectId(row.project_id),
            line: row.line,
            minutes: row.minutes,
            money: row.money.map(|money| money.normalize()),
        })
    }
}
