//! Fields that a workspace defines itself, for people, projects and tasks.

use crate::{Day, FieldId, Refusal, words::words};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// The values that one record has, as they are written in files; no empty ones.
pub type FieldValues = BTreeMap<FieldId, String>;

/// Field values as a list of pairs: JSON has no numbers as keys.
pub(crate) mod pairs {
    use super::FieldValues;
    use crate::FieldId;
    use serde::{Deserialize as _, Deserializer, Serialize as _, Serializer};

    pub fn serialize<S: Serializer>(values: &FieldValues, to: S) -> Result<S::Ok, S::Error> {
        values.iter().collect::<Vec<_>>().serialize(to)
    }

    pub fn deserialize<'de, D: Deserializer<'de>>(from: D) -> Result<FieldValues, D::Error> {
        Vec::<(FieldId, String)>::deserialize(from).map(|pairs| pairs.into_iter().collect())
    }
}

/// One field.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Field {
    /// Identity inside the plan.
    pub id: FieldId,
    /// The name shown, unique among the fields of the same records.
    pub name: String,
    /// Which records have it.
    pub of: FieldOf,
    /// What a value is like.
    pub kind: FieldKind,
    /// The values there are to choose from, where the kind is a choice.
    pub choices: Vec<String>,
}

/// Which records have a field.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum FieldOf {
    /// People and equipment.
    Person,
    /// Projects.
    Project,
    /// Tasks.
    Task,
}

/// What a value is like.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum FieldKind {
    /// A decimal number; a measure like any other.
    Number,
    /// One of a list.
    Choice,
    /// A line of text.
    Text,
    /// A day.
    Date,
}

words!(FieldOf { Person = "person", Project = "project", Task = "task" });
words!(FieldKind { Number = "number", Choice = "choice", Text = "text", Date = "date" });

/// The longest value, in characters.
const LONGEST_VALUE: usize = 500;

impl Field {
    /// What every field must keep to.
    pub fn check(&self) -> Result<(), Refusal> {
        let name = self.name.trim();
        if name.is_empty() || name.chars().count() > 60 {
            return Err(Refusal::value("name", "Give the field a name of at most 60 characters."));
        }
        if self.kind == FieldKind::Choice && self.choices.is_empty() {
            return Err(Refusal::value("choices", "Write what there is to choose from, with “;” between."));
        }
        if self.choices.len() > 200 {
            return Err(Refusal::value(
                "choices",
                "More than 200 choices cannot be looked through; use a text instead.",
            ));
        }
        Ok(())
    }

    /// The value as it is kept; the reason, where it is none of this field's.
    pub fn value(&self, text: &str) -> Result<String, String> {
        let text = text.trim();
        match self.kind {
            FieldKind::Number => text
                .parse::<Decimal>()
                .map(|number| number.normalize().to_string())
                .map_err(|_| format!("“{text}” is no number; write it as 12.5")),
            FieldKind::Date => text.parse::<Day>().map(|day| day.to_string()).map_err(|error| error.to_string()),
            FieldKind::Choice if self.choices.iter().any(|choice| choice == text) => Ok(text.to_owned()),
            FieldKind::Choice => Err(format!("“{text}” is not one of {}", self.choices.join(", "))),
            FieldKind::Text if text.chars().count() > LONGEST_VALUE => {
                Err(format!("is longer than {LONGEST_VALUE} characters"))
            }
            FieldKind::Text => Ok(text.to_owned()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn field(kind: FieldKind) -> Field {
        let choices = vec!["oak".to_owned(), "ash".to_owned()];
        Field { id: FieldId(1), name: "Wood".into(), of: FieldOf::Task, kind, choices }
    }

    #[test]
    fn a_value_is_of_its_kind_or_told_what_would_do() {
        assert_eq!(field(FieldKind::Number).value(" 12.50 "), Ok("12.5".to_owned()));
        assert_eq!(field(FieldKind::Date).value("2026-03-23"), Ok("2026-03-23".to_owned()));
        assert_eq!(field(FieldKind::Choice).value("ash"), Ok("ash".to_owned()));
        assert_eq!(field(FieldKind::Choice).value("pine").unwrap_err(), "“pine” is not one of oak, ash");
        assert!(field(FieldKind::Number).value("many").is_err());
        assert!(field(FieldKind::Text).value(&"x".repeat(501)).is_err());
    }

    #[test]
    fn a_choice_needs_something_to_choose() {
        assert_eq!(Field { choices: vec![], ..field(FieldKind::Choice) }.check().unwrap_err().field, "choices");
        assert_eq!(Field { name: " ".into(), ..field(FieldKind::Text) }.check().unwrap_err().field, "name");
    }
}
