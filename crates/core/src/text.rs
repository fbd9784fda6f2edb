//! Text that no rule reads: descriptions, notes, comments. It stays in the database and is not part of the plan, but it changes
//! by commands like everything else; a decision is handed the text that stands.

use crate::{Day, kinds::TextId, words::words};
use serde::{Deserialize, Serialize};

/// A piece of text on a record.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Text {
    /// Identity, from the same counter as the plan's records.
    pub id: TextId,
    /// The kind of record that it is on.
    pub on: TextOn,
    /// That record's identity.
    pub subject: i32,
    /// What the text is for.
    pub slot: TextSlot,
    /// Who wrote it, by e-mail address.
    pub author: String,
    /// When.
    pub day: Day,
    /// The words, in Markdown.
    pub body: String,
}

/// The kinds of record that can have text.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum TextOn {
    /// A task.
    Task,
    /// A project.
    Project,
    /// A person or equipment.
    Person,
}

/// What a text is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum TextSlot {
    /// The description; there is one.
    Description,
    /// One remark in a conversation.
    Comment,
}

words!(TextOn { Task = "task", Project = "project", Person = "person" });
words!(TextSlot { Description = "description", Comment = "comment" });

/// The longest text, in characters.
pub const LONGEST_TEXT: usize = 20_000;
