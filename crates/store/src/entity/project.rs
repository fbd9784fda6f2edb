//! Projects.

use crate::{
    Error,
    entity::json::FieldPairs,
    stored::{Stored, dates, days, pairs, values},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{PersonId, Project, ProjectId, TeamId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "project")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub code: String,
    pub name: String,
    pub status: String,
    pub parent_id: Option<i32>,
    pub lead_id: Option<i32>,
    pub team_id: Option<i32>,
    pub start_day: Option<Date>,
    pub finish_day: Option<Date>,
    pub budget_minutes: Option<i64>,
    pub budget_money: Option<Decimal>,
    #[sea_orm(column_type = "JsonBinary")]
    pub fields: FieldPairs,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Project {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            code: self.code.clone(),
            name: self.name.clone(),
            status: self.status.to_string(),
            parent_id: self.parent.map(|id| id.0),
            lead_id: self.lead.map(|id| id.0),
            team_id: self.team.map(|id| id.0),
            start_day: dates(self.start),
            finish_day: dates(self.finish),
            budget_minutes: self.budget_minutes,
            budget_money: self.budget_money,
            fields: pairs(&self.fields),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: ProjectId(row.id),
            code: row.code,
            name: row.name,
            status: row.status.parse()?,
            parent: row.parent_id.map(ProjectId),
            lead: row.lead_id.map(PersonId),
            team: row.team_id.map(TeamId),
            start: days(row.start_day),
            finish: days(row.finish_day),
            budget_minutes: row.budget_minutes,
            budget_money: row.budget_money.map(|money| money.normalize()),
            fields: values(row.fields),
        })
    }
}
