//! One column of a kind of record: what is said of it, and the way between a cell and the record.

use super::{Codec, Input, Keys, Kind, Sight, Spec};
use crate::Plan;

/// The way between a cell and a record of type `R`.
pub struct Access<R> {
    /// How values are typed.
    pub input: Input,
    /// Puts what a cell says into the record. An empty cell never comes here: the record keeps what a blank one has.
    pub read: fn(&mut R, &str, &Keys) -> Result<(), String>,
    /// What the record has there, as a cell.
    pub write: fn(&R, &Plan) -> String,
    /// Shows the records that it names there.
    pub refs: fn(&R, &mut dyn FnMut(Kind, i32)),
}

impl<R> Access<R> {
    /// The way to a value that names no other record.
    pub const fn by_hand(
        input: Input,
        read: fn(&mut R, &str, &Keys) -> Result<(), String>,
        write: fn(&R, &Plan) -> String,
    ) -> Self {
        Self { input, read, write, refs: |_, _| {} }
    }
}

/// One column of the records of type `R`.
pub struct Column<R> {
    /// What is said of it.
    pub spec: Spec,
    /// The way between cell and record.
    pub access: Access<R>,
}

/// A column in which every record has a value.
pub const fn must<R>(name: &'static str, label: &'static str, access: Access<R>) -> Column<R> {
    Column { spec: Spec { must: true, ..spec(name, label, access.input) }, access }
}

/// A column that may be empty, or missing in a file.
pub const fn may<R>(name: &'static str, label: &'static str, access: Access<R>) -> Column<R> {
    Column { spec: spec(name, label, access.input), access }
}

pub(super) const fn spec(name: &'static str, label: &'static str, input: Input) -> Spec {
    Spec { name, label, hint: "", must: false, input, bounds: None, sight: Sight::All, adds_up: false, example: "" }
}

impl<R> Column<R> {
    /// The same with what a form says of it.
    #[must_use]
    pub const fn hint(mut self, hint: &'static str) -> Self {
        self.spec.hint = hint;
        self
    }

    /// The same for numbers from `least` to `most`.
    #[must_use]
    pub const fn bounds(mut self, least: i32, most: i32) -> Self {
        self.spec.bounds = Some((least, most));
        self
    }

    /// The same for some eyes only.
    #[must_use]
    pub const fn seen(mut self, sight: Sight) -> Self {
        self.spec.sight = sight;
        self
    }

    /// The same, where a list adds up the values of a group.
    #[must_use]
    pub const fn adds_up(mut self) -> Self {
        self.spec.adds_up = true;
        self
    }

    /// The same with a value that would do.
    #[must_use]
    pub const fn example(mut self, example: &'static str) -> Self {
        self.spec.example = example;
        self
    }
}

/// The input of the codec of a field, which says what type it is of.
pub(super) const fn input_of<R, T, C: Codec<T>>(_: &C, _: fn(&R) -> &T) -> Input {
    C::INPUT
}

/// The way to a field of `Self` through a codec.
macro_rules! at {
    ($($field:ident).+ : $codec:expr) => {
        $crate::kinds::column::Access {
            input: $crate::kinds::column::input_of(&$codec, |record: &Self| &record.$($field).+),
            read: |record: &mut Self, text, keys| {
                record.$($field).+ = $crate::kinds::Codec::read(&$codec, text, keys)?;
                Ok(())
            },
            write: |record: &Self, plan| $crate::kinds::Codec::write(&$codec, &record.$($field).+, plan),
            refs: |record: &Self, see| $crate::kinds::Codec::each_ref(&$codec, &record.$($field).+, see),
        }
    };
}
pub(super) use at;
