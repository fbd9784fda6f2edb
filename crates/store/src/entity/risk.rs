//! Risks of projects.

use crate::{
    Error,
    entity::json::Tasks,
    stored::{Stored, dates, days},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{PersonId, ProjectId, Risk, RiskId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "risk")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub project_id: i32,
    pub title: String,
    pub owner_id: Option<i32>,
    pub probability: i32,
    pub impact: i32,
    pub response: Option<String>,
    pub state: String,
    pub tasks: Tasks,
    pub due_day: Option<Date>,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Risk {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            reference: self.reference.clone(),
            project_id: self.project.0,
            title: self.title.clone(),
            owner_id: self.owner.map(|id| id.0),
            probability: self.probability,
            impact: self.impact,
            response: self.response.map(|response| response.to_string()),
            state: self.state.to_string(),
            tasks: Tasks(self.tasks.clone()),
            due_day: dates(self.due),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: RiskId(row.id),
            reference: row.reference,
            project: ProjectId(row.project_id),
            title: row.title,
            owner: row.owner_id.map(PersonId),
            probability: row.probability,
            impact: row.impact,
            response: row.response.map(|response| response.parse()).transpose()?,
            state: row.state.parse()?,
            tasks: row.tasks.0,
            due: days(row.due_day),
        })
    }
}
