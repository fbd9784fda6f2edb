//! How values of one type stand in a cell, and are typed.

use super::{Identity, Input, Keys, Kind};
use crate::{
    Day, Plan, cell,
    kinds::{Assignees, Awaited, PersonId, TeamId},
    words::ClosedList,
};
use rust_decimal::Decimal;
use std::{fmt::Display, str::FromStr};

/// Between a value of type `T` and a cell. An empty cell is not read.
pub trait Codec<T> {
    /// How such values are typed.
    const INPUT: Input;
    /// The value of a cell.
    ///
    /// # Errors
    /// What is wrong with it, and what would do.
    fn read(&self, text: &str, keys: &Keys) -> Result<T, String>;
    /// The cell of a value.
    fn write(&self, value: &T, plan: &Plan) -> String;
    /// Shows the records that a value names.
    fn each_ref(&self, _: &T, _: &mut dyn FnMut(Kind, i32)) {}
}

macro_rules! codecs {
    ($($(#[$doc:meta])* $codec:ident;)*) => {$($(#[$doc])* #[derive(Clone, Copy, Debug)] pub struct $codec;)*};
}

codecs! {
    /// A line of text.
    Line;
    /// The sum of a file, and its kind.
    File;
    /// A line of text that is often the same.
    Used;
    /// One of a closed list of words.
    Word;
    /// Minutes, written as hours.
    Hours;
    /// A decimal number that is not negative.
    Number;
    /// A whole number.
    Whole;
    /// A day.
    Date;
    /// Yes or nothing.
    Yes;
    /// Words with `;` between them.
    Words;
    /// Another record, by its key.
    To;
    /// Another record by its key, or none.
    MayTo;
    /// Other records by their keys, with `;` between them.
    ToSeveral;
    /// People, each alone, with a share, or in full.
    People;
    /// Somebody by their address, or words for somebody else; or nobody.
    Whom;
    /// One of a closed list of words, or none.
    MayWord;
    /// Teams, each alone or with a share.
    ShareOut;
}

/// A codec of values that name no other record.
macro_rules! codec {
    ($codec:ident as $input:ident for $type:ty: |$text:ident| $read:expr, |$value:ident| $write:expr) => {
        impl Codec<$type> for $codec {
            const INPUT: Input = Input::$input;
            fn read(&self, $text: &str, _: &Keys) -> Result<$type, String> {
                $read
            }
            fn write(&self, $value: &$type, _: &Plan) -> String {
                $write
            }
        }
    };
}

fn option<T: ToString>(value: Option<&T>) -> String {
    value.map(ToString::to_string).unwrap_or_default()
}

fn parsed<T: FromStr<Err: Display>>(text: &str) -> Result<T, String> {
    text.parse().map_err(|error: T::Err| error.to_string())
}

codec!(Line as Line for String: |text| Ok(text.to_owned()), |value| value.clone());
codec!(File as File for String: |text| Ok(text.to_owned()), |value| value.clone());
codec!(Used as Used for String: |text| Ok(text.to_owned()), |value| value.clone());
codec!(Hours as Hours for Option<i32>: |text| cell::minutes(text).map(Some), |value| value.map(|it| cell::hours_text(it.into())).unwrap_or_default());
codec!(Hours as Hours for Option<i64>: |text| cell::minutes(text).map(Some), |value| value.map(cell::hours_text).unwrap_or_default());
codec!(Hours as Hours for i32: |text| cell::minutes(text), |value| cell::hours_text((*value).into()));
codec!(Number as Number for Option<Decimal>: |text| cell::number(text).map(Some), |value| option(value.as_ref()));
codec!(Number as Number for Decimal: |text| cell::number(text), |value| value.to_string());
codec!(Whole as Whole for Option<i32>: |text| cell::whole(text).map(Some), |value| option(value.as_ref()));
codec!(Whole as Whole for i32: |text| cell::whole(text), |value| value.to_string());
codec!(Date as Date for Day: |text| parsed(text), |value| value.to_string());
codec!(Date as Date for Option<Day>: |text| parsed(text).map(Some), |value| option(value.as_ref()));
codec!(Yes as Yes for bool: |text| cell::yes_or_no(text), |value| cell::yes_text(*value));
codec!(Words as Words for Vec<String>: |text| Ok(cell::list(text)), |value| value.join(";"));

impl<T: ClosedList + FromStr<Err: Display> + ToString> Codec<T> for Word {
    const INPUT: Input = Input::Choice(T::list);
    fn read(&self, text: &str, _: &Keys) -> Result<T, String> {
        parsed(text)
    }
    fn write(&self, value: &T, _: &Plan) -> String {
        value.to_string()
    }
}

impl<T: ClosedList + FromStr<Err: Display> + ToString> Codec<Option<T>> for MayWord {
    const INPUT: Input = Input::Choice(T::list_or_none);
    fn read(&self, text: &str, _: &Keys) -> Result<Option<T>, String> {
        parsed(text).map(Some)
    }
    fn write(&self, value: &Option<T>, _: &Plan) -> String {
        option(value.as_ref())
    }
}

impl<T: Identity> Codec<T> for To {
    const INPUT: Input = Input::One(T::KIND);
    fn read(&self, text: &str, keys: &Keys) -> Result<T, String> {
        keys.known(T::KIND, text).map(T::of)
    }
    fn write(&self, value: &T, plan: &Plan) -> String {
        plan.key_of(T::KIND, value.number())
    }
    fn each_ref(&self, value: &T, see: &mut dyn FnMut(Kind, i32)) {
        see(T::KIND, value.number());
    }
}

impl<T: Identity> Codec<Option<T>> for MayTo {
    const INPUT: Input = Input::One(T::KIND);
    fn read(&self, text: &str, keys: &Keys) -> Result<Option<T>, String> {
        To.read(text, keys).map(Some)
    }
    fn write(&self, value: &Option<T>, plan: &Plan) -> String {
        value.as_ref().map(|id| To.write(id, plan)).unwrap_or_default()
    }
    fn each_ref(&self, value: &Option<T>, see: &mut dyn FnMut(Kind, i32)) {
        if let Some(id) = value {
            To.each_ref(id, see);
        }
    }
}

impl<T: Identity> Codec<Vec<T>> for ToSeveral {
    const INPUT: Input = Input::Several(T::KIND);
    fn read(&self, text: &str, keys: &Keys) -> Result<Vec<T>, String> {
        cell::list(text).iter().map(|key| To.read(key, keys)).collect()
    }
    fn write(&self, value: &Vec<T>, plan: &Plan) -> String {
        value.iter().map(|id| To.write(id, plan)).collect::<Vec<_>>().join(";")
    }
    fn each_ref(&self, value: &Vec<T>, see: &mut dyn FnMut(Kind, i32)) {
        for id in value {
            To.each_ref(id, see);
        }
    }
}

impl Codec<Option<Awaited>> for Whom {
    const INPUT: Input = Input::Whom;
    fn read(&self, text: &str, keys: &Keys) -> Result<Option<Awaited>, String> {
        match To.read(text, keys) {
            Ok(person) => Ok(Some(Awaited::Person(person))),
            // An address that nobody has is a slip of the hand, not somebody else.
            Err(reason) if text.contains('@') && !text.contains(' ') => Err(reason),
            Err(_) => Ok(Some(Awaited::Other(text.to_owned()))),
        }
    }
    fn write(&self, value: &Option<Awaited>, plan: &Plan) -> String {
        match value {
            None => String::new(),
            Some(Awaited::Person(id)) => To.write(id, plan),
            Some(Awaited::Other(words)) => words.clone(),
        }
    }
    fn each_ref(&self, value: &Option<Awaited>, see: &mut dyn FnMut(Kind, i32)) {
        if let Some(Awaited::Person(id)) = value {
            To.each_ref(id, see);
        }
    }
}

impl Codec<Assignees> for People {
    const INPUT: Input = Input::People;

    fn read(&self, text: &str, keys: &Keys) -> Result<Assignees, String> {
        let parts: Vec<(String, Option<String>)> = cell::list(text)
            .iter()
            .map(|entry| match entry.split_once('=') {
                Some((email, share)) => (email.trim().to_owned(), Some(share.trim().to_owned())),
                None => (entry.clone(), None),
            })
            .collect();
        let person = |email: &str| -> Result<PersonId, String> { To.read(email, keys) };
        let people = || parts.iter().map(|(email, _)| person(email)).collect::<Result<_, _>>();
        if parts.iter().all(|(_, share)| share.is_none()) {
            return people().map(Assignees::Even);
        }
        if parts.iter().all(|(_, share)| share.as_deref() == Some("full")) {
            return people().map(Assignees::Full);
        }
        let share = |(email, share): &(String, Option<String>)| {
            let email = email.to_ascii_lowercase();
            let share =
                share.as_ref().ok_or_else(|| format!("give a share to everybody or to nobody; {email} has none"))?;
            let share = cell::share(share)?;
            Ok((person(&email)?, share))
        };
        parts.iter().map(share).collect::<Result<_, String>>().map(Assignees::Shares)
    }

    fn write(&self, value: &Assignees, plan: &Plan) -> String {
        let person = |id: &PersonId| To.write(id, plan);
        let parts: Vec<String> = match value {
            Assignees::Even(people) => people.iter().map(person).collect(),
            Assignees::Full(people) => people.iter().map(|id| format!("{}=full", person(id))).collect(),
            Assignees::Shares(shares) => {
                shares.iter().map(|(id, share)| format!("{}={}", person(id), cell::percent_text(*share))).collect()
            }
        };
        parts.join(";")
    }

    fn each_ref(&self, value: &Assignees, see: &mut dyn FnMut(Kind, i32)) {
        value.people().for_each(|id| see(Kind::Person, id.0));
    }
}

impl Codec<Vec<(TeamId, Option<i32>)>> for ShareOut {
    const INPUT: Input = Input::Line;

    fn read(&self, text: &str, keys: &Keys) -> Result<Vec<(TeamId, Option<i32>)>, String> {
        let entry = |entry: &String| match entry.split_once('=') {
            None => Ok((To.read(entry, keys)?, None)),
            Some((team, share)) => {
                let share = cell::share(share.trim())?;
                Ok((To.read(team.trim(), keys)?, Some(share)))
            }
        };
        cell::list(text).iter().map(entry).collect()
    }

    fn write(&self, value: &Vec<(TeamId, Option<i32>)>, plan: &Plan) -> String {
        let entry = |(team, share): &(TeamId, Option<i32>)| {
            let team = To.write(team, plan);
            share.map_or_else(|| team.clone(), |share| format!("{team}={}", cell::percent_text(share)))
        };
        value.iter().map(entry).collect::<Vec<_>>().join(";")
    }

    fn each_ref(&self, value: &Vec<(TeamId, Option<i32>)>, see: &mut dyn FnMut(Kind, i32)) {
        for (team, _) in value {
            see(Kind::Team, team.0);
        }
    }
}
