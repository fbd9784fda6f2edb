//! What templates have.

use crate::{Error, entity::json::Words, stored::Stored};
use sea_orm::{IntoActiveModel, entity::prelude::*};
use snug_core::kinds::{TeamId, TemplateId, TemplateTask, TemplateTaskId};

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "template_task")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub template_id: i32,
    pub line: String,
    pub parent: String,
    pub title: String,
    pub kind: String,
    #[sea_orm(column_type = "JsonBinary")]
    pub roles: Words,
    pub team_id: Option<i32>,
    pub estimate: Option<i64>,
    pub points: Option<Decimal>,
    pub begins: Option<i32>,
    pub days: Option<i32>,
    pub contour: String,
    pub milestone: bool,
    #[sea_orm(column_type = "JsonBinary")]
    pub after: Words,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for TemplateTask {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            template_id: self.template.0,
            line: self.line.clone(),
            parent: self.parent.clone(),
            title: self.title.clone(),
            kind: self.kind.clone(),
            roles: Words(self.roles.clone()),
            team_id: self.team.map(|id| id.0),
            estimate: self.estimate,
            points: self.points,
            begins: self.begins,
            days: self.days,
            contour: self.contour.to_string(),
            milestone: self.milestone,
            after: Words(self.after.clone()),
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: TemplateTaskId(row.id),
            template: TemplateId(row.template_id),
            line: row.line,
            parent: row.parent,
            title: row.title,
            kind: row.kind,
            roles: row.roles.0,
            team: row.team_id.map(TeamId),
            estimate: row.estimate,
            points: row.points.map(|points| points.normalize()),
            begins: row.begins,
            days: row.days,
            contour: row.contour.parse()?,
            milestone: row.milestone,
            after: row.after.0,
        })
    }
}
