//! Texts that no rule reads: descriptions and comments. A draft has those of the live plan, and what was written in the draft.

use crate::{Error, Keeper, entity::text_note, stored::Stored as _};
use sea_orm::{ColumnTrait, EntityTrait, QueryFilter, QueryOrder, Select};
use snug_core::{
    Command, TextId,
    change::Change,
    import::Dataset,
    kinds::Kind,
    text::{Text, TextOn},
};
use std::collections::BTreeMap;

impl Keeper {
    /// The texts of one record: its description, if it has one, and its comments, the oldest first.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn texts_of(&self, on: TextOn, subject: i32) -> Result<Vec<Text>, Error> {
        let texts = text_note::Entity::find()
            .filter(text_note::Column::SubjectKind.eq(on.as_str()))
            .filter(text_note::Column::Subject.eq(subject));
        self.read_texts(texts, |text| text.on == on && text.subject == subject).await
    }

    /// Every text, the oldest first.
    ///
    /// # Errors
    /// The database does not answer, or a row cannot be read.
    pub async fn all_texts(&self) -> Result<Vec<Text>, Error> {
        self.read_texts(text_note::Entity::find(), |_| true).await
    }

    /// The texts that files speak of: none where they hold none.
    ///
    /// # Errors
    /// The database does not answer, or a row cannot be read.
    pub async fn texts_beside(&self, data: &Dataset) -> Result<Vec<Text>, Error> {
        let speaks = data.lines(Kind::Text.about().file).next().is_some();
        if speaks { self.all_texts().await } else { Ok(Vec::new()) }
    }

    /// The texts that changes are about, as they stand.
    ///
    /// # Errors
    /// The database does not answer, or a row cannot be read.
    pub async fn texts_changed_by(&self, changes: &[Change]) -> Result<Vec<Text>, Error> {
        let ids = changes.iter().filter_map(|change| match change {
            Change::Text(edit) => edit.either().map(|text| text.id),
            _ => None,
        });
        let ids: Vec<TextId> = ids.collect();
        if ids.is_empty() {
            return Ok(Vec::new());
        }
        let texts = text_note::Entity::find().filter(text_note::Column::Id.is_in(ids.iter().map(|id| id.0)));
        self.read_texts(texts, |text| ids.contains(&text.id)).await
    }

    /// The texts that a command speaks of, as they stand.
    pub(crate) async fn texts_for(&self, command: &Command) -> Result<Vec<Text>, Error> {
        match command {
            Command::Import { data, .. } => self.texts_beside(data).await,
            Command::Edit { changes }
            | Command::ReadCalendar { changes, .. }
            | Command::Merge { changes, .. }
            | Command::Undo { changes, .. } => self.texts_changed_by(changes).await,
            _ => Ok(Vec::new()),
        }
    }

    /// Texts of the live plan; in a draft with what was written there of those that are `meant`.
    async fn read_texts(
        &self,
        texts: Select<text_note::Entity>,
        meant: impl Fn(&Text) -> bool,
    ) -> Result<Vec<Text>, Error> {
        let rows = texts.order_by_asc(text_note::Column::Id).all(self.db()).await?;
        let texts = rows.into_iter().map(Text::record).collect::<Result<Vec<Text>, Error>>()?;
        if self.draft().is_none() {
            return Ok(texts);
        }
        let mut texts: BTreeMap<TextId, Text> = texts.into_iter().map(|text| (text.id, text)).collect();
        for change in self.ledger().changes_of_kind(Kind::Text).await? {
            let Change::Text(edit) = change else { continue };
            match (edit.before, edit.after) {
                (_, Some(after)) if meant(&after) => drop(texts.insert(after.id, after)),
                (Some(before), None) => drop(texts.remove(&before.id)),
                _ => {}
            }
        }
        Ok(texts.into_values().collect())
    }
}
