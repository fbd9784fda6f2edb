//! Meetings of projects.

use crate::{
    Error,
    entity::json::People,
    stored::{Stored, dates, day, days},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Meeting, MeetingId, ProjectId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "meeting")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub project_id: i32,
    pub title: String,
    pub people: People,
    pub day: Date,
    pub begins: i32,
    pub minutes: i32,
    pub every_weeks: i32,
    pub until_day: Option<Date>,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Meeting {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            reference: self.reference.clone(),
            project_id: self.project.0,
            title: self.title.clone(),
            people: People(self.people.clone()),
            day: self.date.date(),
            begins: self.at,
            minutes: self.minutes,
            every_weeks: self.every_weeks,
            until_day: dates(self.until),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: MeetingId(row.id),
            reference: row.reference,
            project: ProjectId(row.project_id),
            title: row.title,
            people: row.people.0,
            date: day(row.day),
            at: row.begins,
            minutes: row.minutes,
            every_weeks: row.every_weeks,
            until: days(row.until_day),
        })
    }
}
