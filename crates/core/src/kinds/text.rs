//! Text that no rule reads: descriptions, notes, comments. It is a kind of record and changes by commands like everything else, but
//! stands in the database and is not part of the plan; a decision is handed the text that stands.

use super::{
    About, Access, Column, Input, Keys, Kind, Record, Wrong,
    codec::{Date, Line, Word},
    column::{at, may, must},
    record::{has_id, identity},
};
use crate::{Actor, Day, Plan, Refusal, edit::Edit, words::words};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

identity!(
    /// A piece of text that no rule reads.
    TextId of Text
);

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
    /// A page of notes; its first line is its title.
    Note,
}

words!(TextOn { Task = "task", Project = "project", Person = "person" });
words!(TextSlot { Description = "description", Comment = "comment", Note = "note" });

/// The longest text, in characters.
pub const LONGEST_TEXT: usize = 20_000;

impl Text {
    /// What a page of notes is called: its first line, without the marks of a heading.
    #[must_use]
    pub fn title(&self) -> String {
        let first = self.body.lines().map(str::trim).find(|line| !line.is_empty()).unwrap_or_default();
        first.trim_start_matches('#').trim().chars().take(120).collect()
    }

    fn kind_of_subject(&self) -> Kind {
        match self.on {
            TextOn::Task => Kind::Task,
            TextOn::Project => Kind::Project,
            TextOn::Person => Kind::Person,
        }
    }
}

impl Record for Text {
    has_id!(TextId);

    const ABOUT: About =
        About { own: true, title: "kind", key_column: "key", ..About::new("text", "texts", "texts.csv", "") };

    const COLUMNS: &'static [Column<Self>] = &[
        must("of", "Of", at!(on: Word)).hint("What kind of record it is on."),
        // What it names depends on what it is of: see `finish`.
        must(
            "key",
            "Key",
            Access::by_hand(
                Input::Line,
                |_: &mut Self, _, _| Ok(()),
                |it: &Self, plan| plan.key_of(it.kind_of_subject(), it.subject),
            ),
        ),
        may("kind", "Kind", at!(slot: Word)),
        must("at", "Day", at!(day: Date)),
        may("by", "By", at!(author: Line)),
        must(
            "text",
            "Text",
            Access::by_hand(
                Input::Line,
                |it: &mut Self, text, _| {
                    text.clone_into(&mut it.body);
                    Ok(())
                },
                // Files have no blanks at the ends of a cell.
                |it: &Self, _| it.body.trim().to_owned(),
            ),
        ),
    ];

    fn blank() -> Self {
        Self {
            id: TextId(0),
            on: TextOn::Task,
            subject: 0,
            slot: TextSlot::Comment,
            author: String::new(),
            day: Day::MIN,
            body: String::new(),
        }
    }
    // A record has one description; comments and notes are told apart by all that they are.
    fn key(&self) -> String {
        match self.slot {
            TextSlot::Description => format!("{}\n{}", self.on, self.subject),
            TextSlot::Comment | TextSlot::Note => String::new(),
        }
    }
    fn name(&self) -> String {
        self.slot.to_string()
    }

    fn finish(&mut self, line: &super::sheet::Line<'_>, keys: &Keys) -> Result<(), Wrong> {
        let subject = keys.known(self.kind_of_subject(), line.cell("key"));
        self.subject = subject.map_err(|reason| ("key", reason))?;
        Ok(())
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        if self.slot != TextSlot::Description && self.body.trim().is_empty() {
            return Err(Refusal::value("body", "Write something first."));
        }
        if self.body.chars().count() > LONGEST_TEXT {
            return Err(Refusal::value("body", format!("A text has at most {LONGEST_TEXT} characters.")));
        }
        Ok(())
    }

    fn may_own(_: &Plan, edit: &Edit<Self>, actor: &Actor<'_>) -> bool {
        edit.both(|text| text.slot == TextSlot::Comment && text.author.eq_ignore_ascii_case(actor.email))
    }
    // Nobody puts other words into somebody's mouth.
    fn may_all(edit: &Edit<Self>) -> bool {
        edit.both(|text| text.slot != TextSlot::Comment)
    }

    // Text stays when its record goes: it is out of sight, and there again when the removal is taken back.
    fn each_named(&self, _: &mut dyn FnMut(&'static str, Kind, i32)) {}
    // No rule reads it: it stays in the database.
    fn all(_: &Plan) -> Box<dyn Iterator<Item = Cow<'_, Self>> + '_> {
        Box::new(std::iter::empty())
    }
    fn standing_in<'a>(_: &'a Plan, texts: &'a [Text]) -> Box<dyn Iterator<Item = Cow<'a, Self>> + 'a> {
        Box::new(texts.iter().map(Cow::Borrowed))
    }
    fn find(_: &Plan, _: TextId) -> Option<Cow<'_, Self>> {
        None
    }
    fn put(_: &mut Plan, _: &Edit<Self>) {}
}
