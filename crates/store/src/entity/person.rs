//! People and equipment.

use crate::{
    Error,
    entity::json::{FieldPairs, Patterns, Rates, Words},
    stored::{Stored, pairs, values},
};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{Person, PersonId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "person")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub email: String,
    pub name: String,
    pub role: String,
    pub kind: String,
    pub calendar: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub patterns: Patterns,
    pub day_limit: Option<i32>,
    pub week_limit: Option<i32>,
    pub max_projects: Option<i32>,
    pub max_tasks: Option<i32>,
    pub max_points: Option<Decimal>,
    #[sea_orm(column_type = "JsonBinary")]
    pub skills: Words,
    #[sea_orm(column_type = "JsonBinary")]
    pub rates: Rates,
    #[sea_orm(column_type = "JsonBinary")]
    pub fields: FieldPairs,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Person {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            email: self.email.clone(),
            name: self.name.clone(),
            role: self.role.clone(),
            kind: self.kind.to_string(),
            calendar: self.calendar.clone(),
            patterns: Patterns(self.patterns.clone()),
            day_limit: self.day_limit,
            week_limit: self.week_limit,
            max_projects: self.max_projects,
            max_tasks: self.max_tasks,
            max_points: self.max_points,
            skills: Words(self.skills.clone()),
            rates: Rates(self.rates.clone()),
            fields: pairs(&self.fields),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: PersonId(row.id),
            email: row.email,
            name: row.name,
            role: row.role,
            kind: row.kind.parse()?,
            calendar: row.calendar,
            patterns: row.patterns.0,
            day_limit: row.day_limit,
            week_limit: row.week_limit,
            max_projects: row.max_projects,
            max_tasks: row.max_tasks,
            max_points: row.max_points.map(|points| points.normalize()),
            skills: row.skills.0,
            rates: row.rates.0,
            fields: values(row.fields),
        })
    }
}
