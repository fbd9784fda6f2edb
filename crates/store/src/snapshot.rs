//! Reading the whole plan, at one moment.

use crate::{Error, entity, records};
use sea_orm::{AccessMode, DatabaseConnection, EntityTrait, IsolationLevel, QueryOrder, TransactionTrait};
use snug_core::{
    Plan,
    change::{Change, Edit},
};
use std::collections::HashMap;

/// Reads the plan as it stands; `None` when no workspace was made yet.
pub async fn load(db: &DatabaseConnection) -> Result<Option<Plan>, Error> {
    let txn = db.begin_with_config(Some(IsolationLevel::RepeatableRead), Some(AccessMode::ReadOnly)).await?;
    let Some(workspace) = entity::workspace::Entity::find_by_id(1).one(&txn).await? else { return Ok(None) };
    let mut plan = Plan::empty();
    plan.revision = workspace.revision;
    plan.apply(&Change::Settings(Edit::new(workspace.settings.0)));
    for row in entity::field::Entity::find().all(&txn).await? {
        plan.apply(&Change::Field(Edit::new(records::field(row)?)));
    }
    for row in entity::person::Entity::find().order_by_asc(entity::person::Column::Id).all(&txn).await? {
        plan.apply(&Change::Person(Edit::new(records::person(row)?)));
    }
    for row in entity::holiday::Entity::find().order_by_asc(entity::holiday::Column::Id).all(&txn).await? {
        plan.apply(&Change::Holiday(Edit::new(records::holiday(row))));
    }
    for row in entity::absence::Entity::find().order_by_asc(entity::absence::Column::Id).all(&txn).await? {
        plan.apply(&Change::Absence(Edit::new(records::absence(row))));
    }
    let mut members: HashMap<i32, Vec<entity::team_member::Model>> = HashMap::new();
    let position = entity::team_member::Column::Position;
    for row in entity::team_member::Entity::find().order_by_asc(position).all(&txn).await? {
        members.entry(row.team_id).or_default().push(row);
    }
    for row in entity::team::Entity::find().all(&txn).await? {
        let members = members.remove(&row.id).unwrap_or_default();
        plan.apply(&Change::Team(Edit::new(records::team(row, &members))));
    }
    for row in entity::project::Entity::find().all(&txn).await? {
        plan.apply(&Change::Project(Edit::new(records::project(row)?)));
    }
    let mut assignees: HashMap<i32, Vec<entity::task_assignee::Model>> = HashMap::new();
    let position = entity::task_assignee::Column::Position;
    for row in entity::task_assignee::Entity::find().order_by_asc(position).all(&txn).await? {
        assignees.entry(row.task_id).or_default().push(row);
    }
    for row in entity::task::Entity::find().order_by_asc(entity::task::Column::Id).all(&txn).await? {
        let assignees = assignees.remove(&row.id).unwrap_or_default();
        plan.apply(&Change::Task(Edit::new(records::task(row, &assignees)?)));
    }
    for row in entity::link::Entity::find().all(&txn).await? {
        plan.apply(&Change::Link(Edit::new(records::link(row)?)));
    }
    for row in entity::booking::Entity::find().order_by_asc(entity::booking::Column::Id).all(&txn).await? {
        plan.apply(&Change::Booking(Edit::new(records::booking(row)?)));
    }
    for row in entity::time_entry::Entity::find().order_by_asc(entity::time_entry::Column::Id).all(&txn).await? {
        plan.apply(&Change::TimeEntry(Edit::new(records::time_entry(row))));
    }
    let mut projects: HashMap<i32, Vec<entity::milestone_project::Model>> = HashMap::new();
    let position = entity::milestone_project::Column::Position;
    for row in entity::milestone_project::Entity::find().order_by_asc(position).all(&txn).await? {
        projects.entry(row.milestone_id).or_default().push(row);
    }
    for row in entity::milestone::Entity::find().all(&txn).await? {
        let projects = projects.remove(&row.id).unwrap_or_default();
        plan.apply(&Change::Milestone(Edit::new(records::milestone(row, &projects))));
    }
    plan.reserve_ids(workspace.next_id);
    txn.commit().await?;
    Ok(Some(plan))
}
