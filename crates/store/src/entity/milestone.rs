//! Milestones.

use crate::{
    Error,
    entity::milestone_project,
    stored::{Stored, clear, day, position, put},
};
use sea_orm::{DatabaseTransaction, IntoActiveModel, QueryOrder, entity::prelude::*};
use snug_core::kinds::{Milestone, MilestoneId, ProjectId};
use std::collections::HashMap;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "milestone")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub reference: String,
    pub name: String,
    pub date: Date,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Milestone {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        let (id, reference, name) = (self.id.0, self.reference.clone(), self.name.clone());
        Model { id, reference, name, date: self.date.date() }.into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: MilestoneId(row.id),
            reference: row.reference,
            name: row.name,
            date: day(row.date),
            projects: Vec::new(),
        })
    }

    async fn put_joined(txn: &DatabaseTransaction, records: &[&Self], ids: &[i32]) -> Result<(), Error> {
        clear::<milestone_project::Entity>(txn, milestone_project::Column::MilestoneId, ids).await?;
        let rows = records.iter().flat_map(|milestone| {
            milestone.projects.iter().enumerate().map(|(index, project)| {
                let (milestone_id, project_id) = (milestone.id.0, project.0);
                milestone_project::Model { milestone_id, project_id, position: position(index) }.into_active_model()
            })
        });
        put::<milestone_project::Entity, _>(txn, rows.collect()).await
    }

    async fn load_joined(txn: &DatabaseTransaction, records: &mut [Self]) -> Result<(), Error> {
        let mut by_id: HashMap<i32, &mut Self> = records.iter_mut().map(|it| (it.id.0, it)).collect();
        let rows = milestone_project::Entity::find().order_by_asc(milestone_project::Column::Position);
        for row in rows.all(txn).await? {
            if let Some(milestone) = by_id.get_mut(&row.milestone_id) {
                milestone.projects.push(ProjectId(row.project_id));
            }
        }
        Ok(())
    }
}
