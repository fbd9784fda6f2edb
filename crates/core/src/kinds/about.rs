//! What is said of a kind of record and of its columns, wherever it stands: in files, lists, forms, requests of programs.

use super::Kind;
use crate::{Role, capital, fields::FieldOf, text::TextOn};

/// A main area of the application.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Room {
    /// Who has room.
    Fit,
    /// Tasks, projects, milestones.
    Schedule,
    /// Time logged and what it says of the estimates.
    Hours,
    /// People, teams, settings.
    Setup,
    /// Pages outside every room: one's own account, help.
    None,
}

/// How records of a kind are told apart by a key.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Key {
    /// Every record has one, no two the same, and others name it by that.
    Named,
    /// The same, but a record may be without one; then the whole row of a file is its identity.
    Ref,
    /// It is made of several columns, and no two records have the same.
    Pair,
    /// It matters in files only, where a row with a known key alters that record.
    Row,
}

/// What is said of a kind of record.
#[derive(Clone, Copy, Debug)]
pub struct About {
    /// One of them, and several.
    pub words: (&'static str, &'static str),
    /// The same beside a number: 1 absence, 2 absences.
    pub counts: (&'static str, &'static str),
    /// The file that holds them.
    pub file: &'static str,
    /// The address of their list, and in the API.
    pub path: &'static str,
    /// The least role that may change every one of them.
    pub least: Role,
    /// Whether members may change those of their own: [`super::Record::may_own`] says which.
    pub own: bool,
    /// How they are told apart.
    pub key: Key,
    /// The column of the key; empty where it is made of several.
    pub key_column: &'static str,
    /// The column by which a record is called in lists.
    pub title: &'static str,
    /// The room in which the list stands; [`Room::None`] where there is none.
    pub room: Room,
    /// What the list is for.
    pub says: &'static str,
    /// The columns that a list shows when nobody has chosen.
    pub usual: &'static [&'static str],
    /// The columns whose values a list offers as filter and grouping.
    pub facets: &'static [&'static str],
    /// The columns by which the finder finds one, besides what it is called; none where it does not look for them.
    pub found_by: &'static [&'static str],
    /// The column that the finder shows beside the name.
    pub beside: &'static str,
    /// How a form groups their columns, each group under a heading; what is in none stands above them, own fields in the last.
    pub groups: &'static [(&'static str, &'static [&'static str])],
    /// Which of the workspace's own fields they have.
    pub own_fields: Option<FieldOf>,
    /// Whether they can have a description and comments.
    pub texts: Option<TextOn>,
    /// Who sees that there is such a record at all.
    pub sight: Sight,
}

impl About {
    /// A kind with one word and several, in a file, at an address; the rest is added.
    #[must_use]
    pub const fn new(one: &'static str, several: &'static str, file: &'static str, path: &'static str) -> Self {
        Self {
            words: (one, several),
            counts: (one, several),
            file,
            path,
            least: Role::Lead,
            own: false,
            key: Key::Row,
            key_column: "ref",
            title: "name",
            room: Room::None,
            says: "",
            usual: &[],
            facets: &[],
            found_by: &[],
            beside: "",
            groups: &[],
            own_fields: None,
            texts: None,
            sight: Sight::All,
        }
    }

    /// Whether others name these records by their key, so that no two may have the same.
    #[must_use]
    pub const fn named(&self) -> bool {
        matches!(self.key, Key::Named | Key::Ref)
    }

    /// `People`: the heading of their list.
    #[must_use]
    pub fn list_title(&self) -> String {
        capital(self.words.1)
    }

    /// `New person`.
    #[must_use]
    pub fn new_title(&self) -> String {
        format!("New {}", self.words.0)
    }
}

/// How a value is typed.
#[derive(Clone, Copy, Debug)]
pub enum Input {
    /// A line of text.
    Line,
    /// A line of text, where what is used already is offered.
    Used,
    /// The sum of a file, which is brought by itself.
    File,
    /// A decimal number.
    Number,
    /// A whole number.
    Whole,
    /// Hours as a decimal.
    Hours,
    /// A day.
    Date,
    /// Yes or nothing.
    Yes,
    /// Words with `;` between them.
    Words,
    /// One of a list.
    Choice(fn() -> Vec<&'static str>),
    /// The key of another record.
    One(Kind),
    /// The keys of several other records, with `;` between them.
    Several(Kind),
    /// Several people, each alone or with a share.
    People,
    /// Somebody by their address, or words for somebody else.
    Whom,
}

/// Who sees what stands in a column.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sight {
    /// Everybody of the workspace.
    All,
    /// Managers and up: rates and money.
    Money,
    /// Managers and up, and who it is about: what somebody spent.
    OwnMoney,
    /// Who it is about, leads of their teams, managers and up: kinds of time off, what somebody has logged.
    Private,
}

impl Sight {
    /// Whether somebody of this role sees it of some record or other.
    #[must_use]
    pub fn is_for(self, role: Role) -> bool {
        match self {
            Self::All | Self::Private | Self::OwnMoney => true,
            Self::Money => role >= Role::Manager,
        }
    }
}

/// What is said of a column.
#[derive(Clone, Copy, Debug)]
pub struct Spec {
    /// Its name in files.
    pub name: &'static str,
    /// What it is called on pages.
    pub label: &'static str,
    /// What a form says of it.
    pub hint: &'static str,
    /// Whether a file must have it, and every record a value in it.
    pub must: bool,
    /// How its values are typed.
    pub input: Input,
    /// The least and the most of a number, in the unit in which it is written.
    pub bounds: Option<(i32, i32)>,
    /// Who sees it.
    pub sight: Sight,
    /// Whether a list adds its values up.
    pub adds_up: bool,
    /// A value that would do, for the description of the API.
    pub example: &'static str,
}
