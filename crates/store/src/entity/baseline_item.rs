//! Items of baselines.

use crate::{
    Error,
    entity::json::TeamShares,
    stored::{Stored, dates, days},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{BaselineId, BaselineItem, BaselineItemId, TaskId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "baseline_item")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub baseline_id: i32,
    pub task_id: i32,
    pub start_day: Option<Date>,
    pub finish_day: Option<Date>,
    pub effort: Option<i64>,
    pub points: Option<Decimal>,
    pub teams: TeamShares,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for BaselineItem {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            baseline_id: self.baseline.0,
            task_id: self.task.0,
            start_day: dates(self.start),
            finish_day: dates(self.finish),
            effort: self.effort,
            points: self.points,
            teams: TeamShares(self.teams.clone()),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: BaselineItemId(row.id),
            baseline: BaselineId(row.baseline_id),
            task: TaskId(row.task_id),
            start: days(row.start_day),
            finish: days(row.finish_day),
            effort: row.effort,
            points: row.points.map(|points| points.normalize()),
            teams: row.teams.0,
        })
    }
}
