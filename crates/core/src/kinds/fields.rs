//! Fields that a workspace defines itself, for people, projects and tasks.

use crate::{
    Day, Plan, Refusal,
    kinds::{Field, FieldId},
    words::{NOT_KEPT, words},
};
use rust_decimal::Decimal;
use std::collections::BTreeMap;

/// The values that one record has, as they are written in files; no empty ones.
pub type FieldValues = BTreeMap<FieldId, String>;

/// Field values as a list of pairs: JSON has no numbers as keys.
pub(crate) mod pairs {
    use super::FieldValues;
    use crate::kinds::FieldId;
    use serde::{Deserialize as _, Deserializer, Serialize as _, Serializer};

    pub fn serialize<S: Serializer>(values: &FieldValues, to: S) -> Result<S::Ok, S::Error> {
        values.iter().collect::<Vec<_>>().serialize(to)
    }

    pub fn deserialize<'de, D: Deserializer<'de>>(from: D) -> Result<FieldValues, D::Error> {
        Vec::<(FieldId, String)>::deserialize(from).map(|pairs| pairs.into_iter().collect())
    }
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

/// The largest number, so that no sum of them is too large.
const MOST: i32 = 1_000_000_000;
/// The longest value, in characters.
const LONGEST_VALUE: usize = 500;

impl Field {
    /// The value as it is kept.
    ///
    /// # Errors
    /// The reason, where it is none of this field's.
    pub fn value(&self, text: &str) -> Result<String, String> {
        let text = text.trim();
        match self.kind {
            FieldKind::Number => {
                let number: Decimal = text.parse().map_err(|_| format!("“{text}” is no number; write it as 12.5"))?;
                if number.abs() > Decimal::from(MOST) {
                    return Err("is larger than 1,000,000,000".to_owned());
                }
                Ok(number.normalize().to_string())
            }
            FieldKind::Date => text.parse::<Day>().map(|day| day.to_string()).map_err(|error| error.to_string()),
            FieldKind::Choice if self.choices.iter().any(|choice| choice == text) => Ok(text.to_owned()),
            FieldKind::Choice => Err(format!("“{text}” is not one of {}", self.choices.join(", "))),
            FieldKind::Text if text.chars().count() > LONGEST_VALUE => {
                Err(format!("is longer than {LONGEST_VALUE} characters"))
            }
            FieldKind::Text if text.contains('\0') => Err(NOT_KEPT.to_owned()),
            FieldKind::Text => Ok(text.to_owned()),
        }
    }
}

/// The values of a record must be what their fields take.
pub(crate) fn check(plan: &Plan, values: &FieldValues) -> Result<(), Refusal> {
    for (id, value) in values {
        let Some(field) = plan.records.fields.get(id) else { continue };
        field.value(value).map_err(|reason| Refusal::value("fields", format!("{}: {reason}", field.name)))?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kinds::Record as _;

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
        assert!(field(FieldKind::Number).value("-1000000000.5").unwrap_err().contains("larger than"));
        assert!(field(FieldKind::Text).value("a\0b").is_err());
        assert!(field(FieldKind::Text).value(&"x".repeat(501)).is_err());
    }

    #[test]
    fn a_choice_needs_something_to_choose() {
        assert_eq!(Field { choices: vec![], ..field(FieldKind::Choice) }.check(Day::MIN).unwrap_err().field, "choices");
        assert_eq!(Field { name: " ".into(), ..field(FieldKind::Text) }.check(Day::MIN).unwrap_err().field, "name");
    }
}
