//! Texts on records as a kind of record: they change by commands like everything else, but stand in the database alone.

use super::{About, Column, Record, record::identity};
use crate::{
    Actor, Day, Plan, Refusal,
    change::Edit,
    text::{LONGEST_TEXT, Text, TextOn, TextSlot},
};
use std::borrow::Cow;

identity!(
    /// A piece of text that no rule reads.
    TextId of Text
);

impl Record for Text {
    type Id = TextId;

    const ABOUT: About = About { own: true, title: "slot", key_column: "", ..About::new("text", "texts", "", "") };

    const COLUMNS: &'static [Column<Self>] = &[];

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
    fn id(&self) -> TextId {
        self.id
    }
    fn set_id(&mut self, id: TextId) {
        self.id = id;
    }
    fn key(&self) -> String {
        String::new()
    }
    fn name(&self) -> String {
        self.slot.to_string()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        if self.slot == TextSlot::Comment && self.body.trim().is_empty() {
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
        edit.both(|text| text.slot == TextSlot::Description)
    }

    // Text stays when its record goes: it is out of sight, and there again when the removal is taken back.
    fn each_named(&self, _: &mut dyn FnMut(&'static str, super::Kind, i32)) {}
    // No rule reads it: it stays in the database.
    fn all(_: &Plan) -> Box<dyn Iterator<Item = Cow<'_, Self>> + '_> {
        Box::new(std::iter::empty())
    }
    fn find(_: &Plan, _: TextId) -> Option<Cow<'_, Self>> {
        None
    }
    fn put(_: &mut Plan, _: &Edit<Self>) {}
}
