//! Teams.

use crate::{
    Error,
    entity::team_member,
    stored::{Stored, clear, position, put},
};
use sea_orm::{DatabaseTransaction, IntoActiveModel, QueryOrder, entity::prelude::*};
use snug_core::kinds::{PersonId, Team, TeamId};
use std::collections::HashMap;

/// One row.
#[sea_orm::model]
#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "team")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: i32,
    pub code: String,
    pub name: String,
    pub parent_id: Option<i32>,
    pub owner_id: Option<i32>,
    pub week_capacity: Option<i32>,
    pub walk_in_reserve: bool,
}

impl ActiveModelBehavior for ActiveModel {}

impl Stored for Team {
    type Entity = Entity;
    type Row = ActiveModel;

    fn row(&self) -> ActiveModel {
        Model {
            id: self.id.0,
            code: self.code.clone(),
            name: self.name.clone(),
            parent_id: self.parent.map(|id| id.0),
            owner_id: self.owner.map(|id| id.0),
            week_capacity: self.week_capacity,
            walk_in_reserve: self.walk_in_reserve,
        }
        .into_active_model()
    }

    fn record(row: Model) -> Result<Self, Error> {
        Ok(Self {
            id: TeamId(row.id),
            code: row.code,
            name: row.name,
            parent: row.parent_id.map(TeamId),
            owner: row.owner_id.map(PersonId),
            week_capacity: row.week_capacity,
            walk_in_reserve: row.walk_in_reserve,
            members: Vec::new(),
        })
    }

    async fn put_joined(txn: &DatabaseTransaction, records: &[&Self], ids: &[i32]) -> Result<(), Error> {
        clear::<team_member::Entity>(txn, team_member::Column::TeamId, ids).await?;
        let rows = records.iter().flat_map(|team| {
            team.members.iter().enumerate().map(|(index, (person, share))| {
                let (team_id, person_id) = (team.id.0, person.0);
                team_member::Model { team_id, person_id, position: position(index), share: *share }.into_active_model()
            })
        });
        put::<team_member::Entity, _>(txn, rows.collect()).await
    }

    async fn load_joined(txn: &DatabaseTransaction, records: &mut [Self]) -> Result<(), Error> {
        let mut by_id: HashMap<i32, &mut Self> = records.iter_mut().map(|team| (team.id.0, team)).collect();
        for row in team_member::Entity::find().order_by_asc(team_member::Column::Position).all(txn).await? {
            if let Some(team) = by_id.get_mut(&row.team_id) {
                team.members.push((PersonId(row.person_id), row.share));
            }
        }
        Ok(())
    }
}
