//! Closed lists of words: each value has one spelling, in files, in the database and in the ledger alike.

/// What was written is not one of the words that are known here.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("“{found}” is not one of {known}")]
pub struct NoSuchWord {
    /// What was written.
    pub found: String,
    /// The words that would do, with commas between them.
    pub known: String,
}

/// What is said of a text with the character of number zero, which no database keeps.
pub(crate) const NOT_KEPT: &str = "holds a character that no text has";

/// A text with a capital at its start.
#[must_use]
pub fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map(|first| first.to_uppercase().chain(letters).collect()).unwrap_or_default()
}

/// A closed list of words, as it is offered.
pub trait ClosedList {
    /// All of them, in order.
    fn list() -> Vec<&'static str>;
    /// Nothing, then all of them.
    fn list_or_none() -> Vec<&'static str> {
        std::iter::once("").chain(Self::list()).collect()
    }
}

/// Gives an enum its words: `as_str`, `ALL`, `Display`, `FromStr` and serde by word.
macro_rules! words {
    ($name:ident { $($variant:ident = $word:literal),* $(,)? }) => {
        impl $name {
            /// Every value, in order.
            pub const ALL: &'static [Self] = &[$(Self::$variant),*];

            /// The word for this value.
            #[must_use]
            pub fn as_str(self) -> &'static str {
                match self { $(Self::$variant => $word),* }
            }
        }

        impl $crate::words::ClosedList for $name {
            fn list() -> Vec<&'static str> {
                vec![$($word),*]
            }
        }

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str(self.as_str())
            }
        }

        impl std::str::FromStr for $name {
            type Err = $crate::words::NoSuchWord;
            fn from_str(text: &str) -> Result<Self, Self::Err> {
                match text {
                    $($word => Ok(Self::$variant),)*
                    _ => Err($crate::words::NoSuchWord { found: text.to_owned(), known: [$($word),*].join(", ") }),
                }
            }
        }

        impl serde::Serialize for $name {
            fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
                to.serialize_str(self.as_str())
            }
        }

        impl<'de> serde::Deserialize<'de> for $name {
            fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
                let text = <String as serde::Deserialize>::deserialize(from)?;
                text.parse().map_err(serde::de::Error::custom)
            }
        }
    };
}
pub(crate) use words;
