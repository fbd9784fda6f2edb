//! Sprints.

use crate::{
    Error,
    stored::{Stored, day},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Sprint, SprintId, TeamId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "sprint")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub code: String,
    pub name: String,
    pub team_id: i32,
    pub start_day: Date,
    pub finish_day: Date,
    pub state: String,
    pub goal: String,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Sprint {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            code: self.code.clone(),
            name: self.name.clone(),
            team_id: self.team.0,
            start_day: self.start.date(),
            finish_day: self.finish.date(),
            state: self.state.to_string(),
            goal: self.goal.clone(),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: SprintId(row.id),
            code: row.code,
            name: row.name,
            team: TeamId(row.team_id),
            start: day(row.start_day),
            finish: day(row.finish_day),
            state: row.state.parse()?,
            goal: row.goal,
        })
    }
}
