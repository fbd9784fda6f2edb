//! What every kind of record has: its columns, its own check, its place in the plan.

use super::{
    About, AboutPart, Change, Column, Input, Key, Keys, Kind, Part, PersonId, Spec, Text, Wrong,
    fields::{FieldOf, FieldValues},
    of_kind,
    sheet::Line,
};
use crate::{Actor, Day, Eyes, Plan, Refusal, Tag, edit::Edit};
use std::{borrow::Cow, fmt::Debug, hash::Hash};

/// A column of the workspace's own field is headed by this and the field's name.
pub const OWN: &str = "field.";

/// An identity of one kind of record.
pub trait Identity: Copy + Ord + Hash + Debug + 'static {
    /// The kind.
    const KIND: Kind;
    /// From a bare number.
    fn of(number: i32) -> Self;
    /// As a bare number.
    fn number(self) -> i32;
}

/// Gives a kind of record its type of identity.
macro_rules! identity {
    ($(#[$doc:meta])* $name:ident of $kind:ident) => {
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
        #[serde(transparent)]
        pub struct $name(pub i32);

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                self.0.fmt(f)
            }
        }

        impl $crate::kinds::Identity for $name {
            const KIND: $crate::kinds::Kind = $crate::kinds::Kind::$kind;
            fn of(number: i32) -> Self {
                Self(number)
            }
            fn number(self) -> i32 {
                self.0
            }
        }
    };
}
pub(crate) use identity;

/// An edit of one kind as a change, there and back.
pub trait InChange: Sized {
    /// What kind it is.
    const KIND: Kind;
    /// The change.
    fn change(edit: Edit<Self>) -> Change;
    /// The edit, if the change is of this kind.
    fn in_change(change: &Change) -> Option<&Edit<Self>>;
}

/// What the ledger keeps changes of: every kind of record, and the settings.
pub trait Subject: InChange + Clone + PartialEq + Debug {
    /// Its identity as a bare number; 0 for the settings and for what is new.
    fn number(&self) -> i32;
    /// Gives it an identity.
    fn set_number(&mut self, number: i32);
    /// What it is called in sentences; empty for what has no name.
    fn called(&self) -> String;
    /// Shows each record that it names, with the column that does so.
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Kind, i32));
    /// What stands of it in the plan.
    fn standing(plan: &Plan, edit: &Edit<Self>) -> Option<Self>;
    /// Makes the edit in the plan.
    fn apply(plan: &mut Plan, edit: &Edit<Self>);
    /// What it must keep to by itself, whatever else is in the plan but the definitions of its own fields.
    ///
    /// # Errors
    /// What cannot be.
    fn lawful(&self, plan: &Plan, today: Day) -> Result<(), Refusal>;
    /// Makes it as files hold it.
    fn tidied(&mut self, plan: &Plan, is_new: bool);
    /// The same as a record that has columns.
    fn as_record(&self) -> Option<&dyn AnyRecord>;
}

/// What follows of a record from others: lists can show it, files do not have it.
pub struct Figure<R> {
    /// Its name in the address of a list.
    pub name: &'static str,
    /// What it is called on pages.
    pub label: &'static str,
    /// What it is, in words; empty for nothing.
    pub says: fn(&R, &Plan) -> String,
}

/// A kind of record.
pub trait Record: Subject + Eq + Hash + Send + Sync + 'static {
    /// Its identities.
    type Id: Identity;
    /// What is said of it.
    const ABOUT: About;
    /// Its columns, in the order in which a file has them.
    const COLUMNS: &'static [Column<Self>];
    /// What follows of each from other records.
    const FIGURES: &'static [Figure<Self>] = &[];
    /// Files whose rows add to one of these records.
    const PARTS: &'static [Part<Self>] = &[];

    /// A record with nothing in it but what holds unless said otherwise; its identity is 0.
    fn blank() -> Self;
    /// Its identity.
    fn id(&self) -> Self::Id;
    /// Gives it an identity.
    fn set_id(&mut self, id: Self::Id);
    /// The key by which it is told apart; empty for none.
    fn key(&self) -> String;
    /// The key that a line of a file gives it, before the line is read.
    fn key_in(line: &Line<'_>) -> String {
        line.cell(Self::ABOUT.key_column).to_owned()
    }
    /// The identity of the record that a line of a file which adds to it names by this key.
    ///
    /// # Errors
    /// There is none with this key.
    fn owner(key: &str, keys: &Keys) -> Result<i32, String> {
        keys.known(Self::KIND, key)
    }
    /// The key by which such lines name it.
    fn owner_key(&self, _plan: &Plan) -> String {
        self.key()
    }
    /// One for such lines to add to where none stands yet, if there can be one.
    fn fresh(_id: Self::Id) -> Option<Self> {
        None
    }
    /// What it is called in sentences; empty for what has no name.
    fn name(&self) -> String;
    /// What it must keep to by itself.
    ///
    /// # Errors
    /// What cannot be.
    fn check(&self, today: Day) -> Result<(), Refusal>;

    /// What several cells say together, and what follows from others.
    ///
    /// # Errors
    /// A cell that cannot be taken beside the others.
    fn finish(&mut self, _line: &Line<'_>, _keys: &Keys) -> Result<(), Wrong> {
        Ok(())
    }
    /// The record as files hold it: no blanks around words, and what follows from other values filled in.
    fn tidy(&mut self, _plan: &Plan, _is_new: bool) {}
    /// Who it is about, where some of it is for them and a few others only.
    fn whose(&self) -> Option<PersonId> {
        None
    }
    /// The record it is inside.
    fn parent(&self) -> Option<Self::Id> {
        None
    }
    /// The values of the workspace's own fields.
    fn own(&self) -> Option<(FieldOf, &FieldValues)> {
        None
    }
    /// The same, to be written.
    fn own_mut(&mut self) -> Option<&mut FieldValues> {
        None
    }
    /// Whether the record may stand in this plan today, beyond what it says by itself.
    ///
    /// # Errors
    /// What it may not say there.
    fn check_in(&self, _plan: &Plan, _today: Day) -> Result<(), Refusal> {
        Ok(())
    }
    /// Whether a member may make this edit because the record is theirs, and how far a lead may.
    fn may_own(_plan: &Plan, _edit: &Edit<Self>, _actor: &Actor<'_>) -> bool {
        false
    }
    /// Whether somebody of the least role may make this edit.
    fn may_all(_edit: &Edit<Self>) -> bool {
        true
    }
    /// A record that came without a key, with one made of its identity, where others need one to name it.
    fn keyed(&mut self) {}
    /// The same record as a file without a key would hold it: where the key was made from the identity, it goes.
    fn unkeyed(&mut self) {}
    /// Shows each record that it names, with the column that does so.
    fn each_named(&self, see: &mut dyn FnMut(&'static str, Kind, i32)) {
        each_in_columns(self, see);
    }

    /// Every record of the kind.
    fn all(plan: &Plan) -> Box<dyn Iterator<Item = Cow<'_, Self>> + '_>;
    /// Every record of the kind, where texts, which the plan does not hold, come beside it.
    fn standing_in<'a>(plan: &'a Plan, _texts: &'a [Text]) -> Box<dyn Iterator<Item = Cow<'a, Self>> + 'a> {
        Self::all(plan)
    }
    /// One of them.
    fn find(plan: &Plan, id: Self::Id) -> Option<Cow<'_, Self>>;
    /// What stands of an edit's record; quicker where the record says where to look.
    fn found(plan: &Plan, edit: &Edit<Self>) -> Option<Self> {
        edit.either().and_then(|record| Self::find(plan, record.id())).map(Cow::into_owned)
    }
    /// Makes an edit in the plan.
    fn put(plan: &mut Plan, edit: &Edit<Self>);
}

/// Shows each record that a record names in its columns.
pub(super) fn each_in_columns<R: Record>(record: &R, see: &mut dyn FnMut(&'static str, Kind, i32)) {
    for column in R::COLUMNS {
        (column.access.refs)(record, &mut |kind, id| see(column.spec.name, kind, id));
    }
}

/// Where a record has its identity: in the field `id`.
macro_rules! has_id {
    ($id:ty) => {
        type Id = $id;
        fn id(&self) -> Self::Id {
            self.id
        }
        fn set_id(&mut self, id: Self::Id) {
            self.id = id;
        }
    };
}
pub(crate) use has_id;

/// Where a plain kind of record stands in the plan: in the map of its name. Where more hangs on it, a method of the plan puts it there.
macro_rules! stands_in {
    (@find $($map:ident).+) => {
        fn all(plan: &$crate::Plan) -> Box<dyn Iterator<Item = std::borrow::Cow<'_, Self>> + '_> {
            Box::new(plan.$($map).+.values().map(|record| std::borrow::Cow::Borrowed(&**record)))
        }
        fn find(plan: &$crate::Plan, id: Self::Id) -> Option<std::borrow::Cow<'_, Self>> {
            plan.$($map).+.get(&id).map(|record| std::borrow::Cow::Borrowed(&**record))
        }
    };
    ($($map:ident).+, $put:ident) => {
        $crate::kinds::record::stands_in!(@find $($map).+);
        fn put(plan: &mut $crate::Plan, edit: &$crate::edit::Edit<Self>) {
            plan.$put(edit);
        }
    };
    ($($map:ident).+) => {
        $crate::kinds::record::stands_in!(@find $($map).+);
        fn put(plan: &mut $crate::Plan, edit: &$crate::edit::Edit<Self>) {
            plan.rekey(edit);
            $crate::plan::put(&mut plan.$($map).+, edit);
        }
    };
}
pub(crate) use stands_in;

/// A record of whatever kind.
pub trait AnyRecord: Debug {
    /// Its kind.
    fn kind(&self) -> Kind;
    /// Its identity as a bare number.
    fn number(&self) -> i32;
    /// The key by which it is told apart; empty for none.
    fn key(&self) -> String;
    /// What it is called in sentences; its key where it has no name.
    fn called(&self) -> String;
    /// Who it is about, where some of it is for them and a few others only.
    fn whose(&self) -> Option<PersonId>;
    /// What these eyes see in a column, or of what follows from other records; nothing in one that the kind does not have.
    fn cell(&self, eyes: &Eyes<'_>, column: &str) -> String;
    /// The record as a change that makes it.
    fn as_new(&self) -> Change;
    /// What tells this version of it from others.
    fn tag(&self) -> Tag;
}

impl<R: Record> AnyRecord for R {
    fn kind(&self) -> Kind {
        R::KIND
    }
    fn number(&self) -> i32 {
        Subject::number(self)
    }
    fn key(&self) -> String {
        Record::key(self)
    }
    fn called(&self) -> String {
        Some(self.name()).filter(|name| !name.is_empty()).unwrap_or_else(|| Record::key(self))
    }
    fn whose(&self) -> Option<PersonId> {
        Record::whose(self)
    }
    fn cell(&self, eyes: &Eyes<'_>, column: &str) -> String {
        let plan = eyes.plan;
        if let Some(known) = R::COLUMNS.iter().find(|known| known.spec.name == column) {
            let seen =
                [R::ABOUT.sight, known.spec.sight].into_iter().all(|sight| eyes.sees(sight, Record::whose(self)));
            return if seen { (known.access.write)(self, plan) } else { String::new() };
        }
        if let Some(figure) = R::FIGURES.iter().find(|figure| figure.name == column) {
            return (figure.says)(self, plan);
        }
        let value = || {
            let (of, values) = self.own()?;
            let name = column.strip_prefix(OWN)?;
            let mut fields = plan.records.fields.values();
            values.get(&fields.find(|field| field.of == of && field.name == name)?.id).cloned()
        };
        value().unwrap_or_default()
    }
    fn as_new(&self) -> Change {
        R::change(Edit::new(self.clone()))
    }
    fn tag(&self) -> Tag {
        Tag::of(self)
    }
}

/// A record where it stands, or one made for the moment.
#[derive(Debug)]
pub enum Held<'a> {
    /// Where it stands.
    At(&'a dyn AnyRecord),
    /// Made for the moment.
    Made(Box<dyn AnyRecord + 'a>),
}

impl<'a> std::ops::Deref for Held<'a> {
    type Target = dyn AnyRecord + 'a;
    fn deref(&self) -> &Self::Target {
        match self {
            Self::At(record) => *record,
            Self::Made(record) => &**record,
        }
    }
}

impl<'a, R: Record> From<Cow<'a, R>> for Held<'a> {
    fn from(record: Cow<'a, R>) -> Self {
        match record {
            Cow::Borrowed(record) => Self::At(record),
            Cow::Owned(record) => Self::Made(Box::new(record)),
        }
    }
}

impl Kind {
    /// What is said of it; of the settings, which are no record with columns, nothing but their name.
    #[must_use]
    pub fn about(self) -> &'static About {
        const SETTINGS: About = About::new("settings", "settings", "", "");
        of_kind!(self, R => const { &R::ABOUT }).unwrap_or(&SETTINGS)
    }

    /// Its columns, in the order of its file.
    #[must_use]
    pub fn columns(self) -> Vec<&'static Spec> {
        of_kind!(self, R => R::COLUMNS.iter().map(|column| &column.spec).collect()).unwrap_or_default()
    }

    /// What follows of each of its records from others: name and label.
    #[must_use]
    pub fn figures(self) -> Vec<(&'static str, &'static str)> {
        of_kind!(self, R => R::FIGURES.iter().map(|figure| (figure.name, figure.label)).collect()).unwrap_or_default()
    }

    /// The files whose rows add to records of it.
    #[must_use]
    pub fn parts(self) -> Vec<AboutPart> {
        of_kind!(self, R => R::PARTS.iter().map(Part::about).collect()).unwrap_or_default()
    }

    /// Every record of it.
    #[must_use]
    pub fn all(self, plan: &Plan) -> Vec<Held<'_>> {
        of_kind!(self, R => R::all(plan).map(Held::from).collect()).unwrap_or_default()
    }

    /// Every record of it, texts from beside the plan, in the order in which its file has them: by key where each has one, else by
    /// identity.
    #[must_use]
    pub fn in_order<'a>(self, plan: &'a Plan, texts: &'a [Text]) -> Vec<Held<'a>> {
        let all = of_kind!(self, R => R::standing_in(plan, texts).map(Held::from).collect());
        let mut all: Vec<Held<'a>> = all.unwrap_or_default();
        match self.about().key {
            Key::Named => all.sort_by_cached_key(|record| record.key()),
            Key::Ref | Key::Pair | Key::Row => all.sort_by_key(|record| record.number()),
        }
        all
    }

    /// One of them.
    #[must_use]
    pub fn one(self, plan: &Plan, id: i32) -> Option<Held<'_>> {
        of_kind!(self, R => R::find(plan, Identity::of(id)).map(Held::from)).flatten()
    }

    /// What a new one has in its columns before anybody says anything.
    #[must_use]
    pub fn blank(self) -> Vec<(&'static str, String)> {
        let plan = Plan::empty();
        let cells = of_kind!(self, R => {
            let blank = R::blank();
            // A date that must be there has none that would do.
            let columns = R::COLUMNS.iter().filter(|column| !matches!(column.spec.input, Input::Date));
            columns.map(|column| (column.spec.name, (column.access.write)(&blank, &plan))).collect()
        });
        cells.unwrap_or_default()
    }

    /// The kind whose list stands at an address.
    #[must_use]
    pub fn at(path: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|kind| kind.about().path == path && !path.is_empty())
    }
}

impl Plan {
    /// The key of a record, as files name it; nothing where there is no such record.
    #[must_use]
    pub fn key_of(&self, kind: Kind, id: i32) -> String {
        of_kind!(kind, R => R::find(self, Identity::of(id)).map(|record| Record::key(&*record)))
            .flatten()
            .unwrap_or_default()
    }
}
