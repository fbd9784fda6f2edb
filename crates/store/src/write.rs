//! Writing changes into the tables.

use crate::{Error, entity, records};
use sea_orm::{
    ActiveModelTrait, ColumnTrait, DatabaseTransaction, EntityTrait, Iterable, PrimaryKeyToColumn, QueryFilter,
    sea_query::OnConflict,
};
use snug_core::change::{Change, Edit};
use std::collections::BTreeMap;

/// Rows a statement; `PostgreSQL` takes 65,535 parameters, and our widest table has 24 columns.
const BATCH: usize = 1_000;

/// Writes what is left of each record after all changes. Where one record is changed several times, the last value counts.
pub(crate) async fn write(txn: &DatabaseTransaction, changes: &[Change]) -> Result<(), Error> {
    let mut last: BTreeMap<(&str, i32), &Change> = BTreeMap::new();
    for change in changes {
        last.insert(change.subject(), change);
    }
    let mut rows = Rows::default();
    for change in last.into_values() {
        rows.take(change);
    }
    rows.write(txn).await
}

/// Rows to put and keys to remove, by table.
#[derive(Default)]
struct Rows {
    settings: Option<entity::json::Settings>,
    fields: Table<entity::field::ActiveModel>,
    texts: Table<entity::text_note::ActiveModel>,
    people: Table<entity::person::ActiveModel>,
    holidays: Table<entity::holiday::ActiveModel>,
    absences: Table<entity::absence::ActiveModel>,
    teams: Table<entity::team::ActiveModel>,
    members: Vec<entity::team_member::ActiveModel>,
    projects: Table<entity::project::ActiveModel>,
    tasks: Table<entity::task::ActiveModel>,
    assignees: Vec<entity::task_assignee::ActiveModel>,
    links: Table<entity::link::ActiveModel>,
    bookings: Table<entity::booking::ActiveModel>,
    time_entries: Table<entity::time_entry::ActiveModel>,
    milestones: Table<entity::milestone::ActiveModel>,
    milestone_projects: Vec<entity::milestone_project::ActiveModel>,
}

struct Table<A> {
    put: Vec<A>,
    /// Keys of rows that go, and of those that were there before.
    gone: Vec<i32>,
    altered: Vec<i32>,
}

impl<A> Default for Table<A> {
    fn default() -> Self {
        Self { put: Vec::new(), gone: Vec::new(), altered: Vec::new() }
    }
}

impl<A> Table<A> {
    fn take<T>(&mut self, edit: &Edit<T>, id: i32, row: impl Fn(&T) -> A) {
        match &edit.after {
            Some(after) => {
                self.put.push(row(after));
                self.altered.push(id);
            }
            None => self.gone.push(id),
        }
    }
}

impl Rows {
    fn take(&mut self, change: &Change) {
        let (_, id) = change.subject();
        match change {
            Change::Settings(edit) => self.settings = edit.after.clone().map(entity::json::Settings),
            Change::Field(edit) => self.fields.take(edit, id, records::field_row),
            Change::Text(edit) => self.texts.take(edit, id, records::text_row),
            Change::Person(edit) => self.people.take(edit, id, records::person_row),
            Change::Holiday(edit) => self.holidays.take(edit, id, records::holiday_row),
            Change::Absence(edit) => self.absences.take(edit, id, records::absence_row),
            Change::Team(edit) => {
                self.teams.take(edit, id, records::team_row);
                self.members.extend(edit.after.iter().flat_map(records::member_rows));
            }
            Change::Project(edit) => self.projects.take(edit, id, records::project_row),
            Change::Task(edit) => {
                self.tasks.take(edit, id, records::task_row);
                self.assignees.extend(edit.after.iter().flat_map(records::assignee_rows));
            }
            Change::Link(edit) => self.links.take(edit, id, records::link_row),
            Change::Booking(edit) => self.bookings.take(edit, id, records::booking_row),
            Change::TimeEntry(edit) => self.time_entries.take(edit, id, records::time_entry_row),
            Change::Milestone(edit) => {
                self.milestones.take(edit, id, records::milestone_row);
                self.milestone_projects.extend(edit.after.iter().flat_map(records::milestone_project_rows));
            }
        }
    }

    async fn write(self, txn: &DatabaseTransaction) -> Result<(), Error> {
        if let Some(settings) = self.settings {
            let row = entity::workspace::ActiveModel {
                id: sea_orm::ActiveValue::Unchanged(1),
                settings: sea_orm::ActiveValue::Set(settings),
                ..Default::default()
            };
            row.update(txn).await?;
        }
        // Rows of join tables are written anew with the record they belong to.
        clear::<entity::team_member::Entity>(txn, entity::team_member::Column::TeamId, &self.teams.altered).await?;
        clear::<entity::task_assignee::Entity>(txn, entity::task_assignee::Column::TaskId, &self.tasks.altered).await?;
        let of_milestone = entity::milestone_project::Column::MilestoneId;
        clear::<entity::milestone_project::Entity>(txn, of_milestone, &self.milestones.altered).await?;
        clear::<entity::text_note::Entity>(txn, entity::text_note::Column::Id, &self.texts.gone).await?;
        clear::<entity::field::Entity>(txn, entity::field::Column::Id, &self.fields.gone).await?;
        clear::<entity::link::Entity>(txn, entity::link::Column::Id, &self.links.gone).await?;
        clear::<entity::time_entry::Entity>(txn, entity::time_entry::Column::Id, &self.time_entries.gone).await?;
        clear::<entity::booking::Entity>(txn, entity::booking::Column::Id, &self.bookings.gone).await?;
        clear::<entity::milestone::Entity>(txn, entity::milestone::Column::Id, &self.milestones.gone).await?;
        clear::<entity::task::Entity>(txn, entity::task::Column::Id, &self.tasks.gone).await?;
        clear::<entity::project::Entity>(txn, entity::project::Column::Id, &self.projects.gone).await?;
        clear::<entity::team::Entity>(txn, entity::team::Column::Id, &self.teams.gone).await?;
        clear::<entity::absence::Entity>(txn, entity::absence::Column::Id, &self.absences.gone).await?;
        clear::<entity::holiday::Entity>(txn, entity::holiday::Column::Id, &self.holidays.gone).await?;
        clear::<entity::person::Entity>(txn, entity::person::Column::Id, &self.people.gone).await?;
        put::<entity::field::Entity, _>(txn, self.fields.put).await?;
        put::<entity::text_note::Entity, _>(txn, self.texts.put).await?;
        put::<entity::person::Entity, _>(txn, self.people.put).await?;
        put::<entity::holiday::Entity, _>(txn, self.holidays.put).await?;
        put::<entity::absence::Entity, _>(txn, self.absences.put).await?;
        put::<entity::team::Entity, _>(txn, self.teams.put).await?;
        put::<entity::team_member::Entity, _>(txn, self.members).await?;
        put::<entity::project::Entity, _>(txn, self.projects.put).await?;
        put::<entity::task::Entity, _>(txn, self.tasks.put).await?;
        put::<entity::task_assignee::Entity, _>(txn, self.assignees).await?;
        put::<entity::link::Entity, _>(txn, self.links.put).await?;
        put::<entity::booking::Entity, _>(txn, self.bookings.put).await?;
        put::<entity::time_entry::Entity, _>(txn, self.time_entries.put).await?;
        put::<entity::milestone::Entity, _>(txn, self.milestones.put).await?;
        put::<entity::milestone_project::Entity, _>(txn, self.milestone_projects).await
    }
}

async fn clear<E: EntityTrait>(txn: &DatabaseTransaction, key: E::Column, ids: &[i32]) -> Result<(), Error> {
    for batch in ids.chunks(BATCH) {
        E::delete_many().filter(key.is_in(batch.iter().copied())).exec(txn).await?;
    }
    Ok(())
}

/// Inserts rows, or overwrites those whose key is there.
pub(crate) async fn put<E, A>(txn: &DatabaseTransaction, rows: Vec<A>) -> Result<(), Error>
where
    E: EntityTrait,
    A: ActiveModelTrait<Entity = E> + Send,
{
    let keys: Vec<E::Column> = E::PrimaryKey::iter().map(PrimaryKeyToColumn::into_column).collect();
    let is_key = |column: &E::Column| keys.iter().any(|key| key.as_column_ref() == column.as_column_ref());
    let others: Vec<E::Column> = E::Column::iter().filter(|column| !is_key(column)).collect();
    let mut rows = rows.into_iter().peekable();
    while rows.peek().is_some() {
        let batch: Vec<A> = rows.by_ref().take(BATCH).collect();
        let conflict = OnConflict::columns(keys.clone()).update_columns(others.clone()).to_owned();
        E::insert_many(batch).on_conflict(conflict).exec_without_returning(txn).await?;
    }
    Ok(())
}
