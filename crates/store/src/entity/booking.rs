//! Bookings of people, teams and roles.

use crate::{
    Error,
    stored::{Stored, day},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Amount, Booking, BookingId, PersonId, ProjectId, TeamId, Who};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "booking")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub person_id: Option<i32>,
    pub team_id: Option<i32>,
    pub role: Option<String>,
    pub project_id: Option<i32>,
    pub start_day: Date,
    pub end_day: Date,
    pub amount: i32,
    pub unit: String,
    pub certainty: String,
    pub days_off: bool,
    pub note: String,
    pub line: String,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Booking {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        let (person_id, team_id, role) = match &self.who {
            Who::Person(id) => (Some(id.0), None, None),
            Who::Team(id) => (None, Some(id.0), None),
            Who::Role(role) => (None, None, Some(role.clone())),
        };
        Model {
            id: self.id.0,
            reference: self.reference.clone(),
            person_id,
            team_id,
            role,
            project_id: self.project.map(|id| id.0),
            start_day: self.start.date(),
            end_day: self.end.date(),
            amount: self.amount.value,
            unit: self.amount.unit.to_string(),
            certainty: self.certainty.to_string(),
            days_off: self.days_off,
            note: self.note.clone(),
            line: self.line.clone(),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        let who = match (row.person_id, row.team_id, row.role) {
            (Some(id), ..) => Who::Person(PersonId(id)),
            (_, Some(id), _) => Who::Team(TeamId(id)),
            (_, _, role) => Who::Role(role.unwrap_or_default()),
        };
        Ok(Self {
            id: BookingId(row.id),
            reference: row.reference,
            who,
            project: row.project_id.map(ProjectId),
            start: day(row.start_day),
            end: day(row.end_day),
            amount: Amount { value: row.amount, unit: row.unit.parse()? },
            certainty: row.certainty.parse()?,
            days_off: row.days_off,
            note: row.note,
            line: row.line,
        })
    }
}
