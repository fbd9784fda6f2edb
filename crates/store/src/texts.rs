//! Texts that no rule reads: descriptions and comments.

use crate::{Error, entity::text_note, stored::Stored as _};
use sea_orm::{ColumnTrait, DatabaseConnection, EntityTrait, QueryFilter, QueryOrder};
use snug_core::{
    Command,
    change::Change,
    import::Dataset,
    kinds::Kind,
    text::{Text, TextOn},
};

/// The texts of one record: its description, if it has one, and its comments, the oldest first.
///
/// # Errors
/// The database does not answer, or a row of it cannot be read.
pub async fn of(db: &DatabaseConnection, on: TextOn, subject: i32) -> Result<Vec<Text>, Error> {
    let texts = text_note::Entity::find()
        .filter(text_note::Column::SubjectKind.eq(on.as_str()))
        .filter(text_note::Column::Subject.eq(subject));
    texts.order_by_asc(text_note::Column::Id).all(db).await?.into_iter().map(Text::record).collect()
}

/// Every text, the oldest first.
///
/// # Errors
/// The database does not answer, or a row cannot be read.
pub async fn all(db: &DatabaseConnection) -> Result<Vec<Text>, Error> {
    let texts = text_note::Entity::find().order_by_asc(text_note::Column::Id);
    texts.all(db).await?.into_iter().map(Text::record).collect()
}

/// The texts that files speak of: none where they hold none.
///
/// # Errors
/// The database does not answer, or a row cannot be read.
pub async fn beside(db: &DatabaseConnection, data: &Dataset) -> Result<Vec<Text>, Error> {
    let speaks = data.lines(Kind::Text.about().file).next().is_some();
    if speaks { all(db).await } else { Ok(Vec::new()) }
}

/// The texts that a command speaks of, as they stand.
pub(crate) async fn standing(db: &DatabaseConnection, command: &Command) -> Result<Vec<Text>, Error> {
    if let Command::Import { data, .. } = command {
        return beside(db, data).await;
    }
    let (Command::Edit { changes } | Command::ReadCalendar { changes, .. } | Command::Undo { changes, .. }) = command
    else {
        return Ok(Vec::new());
    };
    let ids = changes.iter().filter_map(|change| match change {
        Change::Text(edit) => edit.either().map(|text| text.id.0),
        _ => None,
    });
    let ids: Vec<i32> = ids.collect();
    if ids.is_empty() {
        return Ok(Vec::new());
    }
    let texts = text_note::Entity::find().filter(text_note::Column::Id.is_in(ids));
    texts.all(db).await?.into_iter().map(Text::record).collect()
}
