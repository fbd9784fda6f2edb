//! What a command does to the plan: each record that is made, altered or removed, with its value before and after.

pub use crate::{edit::Edit, kinds::Change};

use crate::{
    Day, Plan, Refusal, capital,
    kinds::{AnyRecord, InChange, Kind, Subject, of_edit, of_two},
    settings::Settings,
};

/// What kind of record an edit is about, and which one.
fn subject<T: Subject>(edit: &Edit<T>) -> (Kind, i32) {
    (T::KIND, edit.either().map_or(0, T::number))
}

impl Change {
    /// The change that takes this one back.
    #[must_use]
    pub fn inverse(self) -> Self {
        of_edit!(self, edit => InChange::change(Edit { before: edit.after, after: edit.before }))
    }

    /// Whether the record goes.
    #[must_use]
    pub fn removes(&self) -> bool {
        of_edit!(self, edit => edit.after.is_none())
    }

    /// Whether the record is new.
    #[must_use]
    pub fn adds(&self) -> bool {
        of_edit!(self, edit => edit.before.is_none())
    }

    /// Whether nothing changes.
    #[must_use]
    pub fn is_idle(&self) -> bool {
        of_edit!(self, edit => edit.before == edit.after)
    }

    /// What the record is called.
    #[must_use]
    pub fn name(&self) -> String {
        of_edit!(self, edit => edit.either().map(Subject::called)).unwrap_or_default()
    }

    /// What kind of record it is about, and which one.
    #[must_use]
    pub fn subject(&self) -> (Kind, i32) {
        of_edit!(self, edit => subject(edit))
    }

    /// The record, the later value first; `None` for the settings, which are no record with columns.
    #[must_use]
    pub fn record(&self) -> Option<&dyn AnyRecord> {
        of_edit!(self, edit => edit.either()?.as_record())
    }

    /// The change from the record that one is, as it was seen, to the record that the other one is; `None` where they are of two kinds.
    #[must_use]
    pub fn between(seen: &Self, to: &Self) -> Option<Self> {
        of_two!((seen, to), (seen, to) => InChange::change(Edit { before: seen.after.clone(), after: to.after.clone() }))
    }

    /// This change and a later one of the same record as one; `None` where they are of two kinds.
    #[must_use]
    pub fn then(&self, later: &Self) -> Option<Self> {
        of_two!((self, later), (first, last) => InChange::change(Edit {
            before: first.before.clone(), after: last.after.clone(),
        }))
    }

    /// The record as the change leaves it, as a change of its own; `None` where it goes.
    #[must_use]
    pub fn only_after(self) -> Option<Self> {
        (!self.removes()).then(|| of_edit!(self, edit => InChange::change(Edit { before: None, ..edit })))
    }

    /// What the record must keep to by itself, on `today`.
    pub(crate) fn lawful(&self, plan: &Plan, today: Day) -> Result<(), Refusal> {
        of_edit!(self, edit => edit.after.as_ref().map_or(Ok(()), |record| record.lawful(plan, today)))
    }

    /// What stands of the record in the plan: the `after` of what is returned.
    pub(crate) fn standing_in(&self, plan: &Plan) -> Self {
        of_edit!(self, edit => InChange::change(Edit { before: None, after: Subject::standing(plan, edit) }))
    }

    /// Makes the change in the plan.
    pub(crate) fn apply_to(&self, plan: &mut Plan) {
        of_edit!(self, edit => Subject::apply(plan, edit));
    }

    /// Whether the author of this change saw what `standing` says is there.
    pub(crate) fn saw(&self, standing: &Self) -> bool {
        of_two!((self, standing), (change, now) => change.before == now.after).unwrap_or_default()
    }

    /// Whether what this change left is what `standing` says is there.
    pub(crate) fn left(&self, standing: &Self) -> bool {
        of_two!((self, standing), (change, now) => change.after == now.after).unwrap_or_default()
    }

    /// The same change of a new record that has this identity.
    pub(crate) fn numbered(mut self, id: i32) -> Self {
        of_edit!(&mut self, edit => edit.after.iter_mut().for_each(|record| record.set_number(id)));
        self
    }

    /// The same with the record as files hold it.
    pub(crate) fn tidy(mut self, plan: &Plan) -> Self {
        let is_new = self.adds();
        of_edit!(&mut self, edit => edit.after.iter_mut().for_each(|record| record.tidied(plan, is_new)));
        self
    }

    /// Shows what the record refers to after the change, with the column that does so.
    pub(crate) fn each_ref(&self, see: &mut dyn FnMut(&'static str, Kind, i32)) {
        of_edit!(self, edit => edit.after.iter().for_each(|record| record.each_ref(see)));
    }

    /// What happened, in words for the ledger: `Task “Crate drawings” changed`, `Time off of Oona Varga added`. The ledger is for
    /// everybody, so nothing private is in them.
    #[must_use]
    pub fn says(&self, plan: &Plan) -> String {
        let verb = match self {
            it if it.adds() => "added",
            it if it.removes() => "removed",
            _ => "changed",
        };
        // A text is called by what it is for.
        let (kind, name) = match self.subject().0 {
            Kind::Text => (self.name(), String::new()),
            kind => (kind.about().words.0.to_owned(), self.name()),
        };
        let kind = capital(&kind);
        let whose = self.record().and_then(AnyRecord::whose).and_then(|person| plan.people.get(&person));
        if let Some(entry) = whose {
            return format!("{kind} of {} {verb}", entry.person.name);
        }
        if name.is_empty() { format!("{kind} {verb}") } else { format!("{kind} “{name}” {verb}") }
    }
}

// There is one record of the settings, and it has no columns.
impl Subject for Settings {
    fn number(&self) -> i32 {
        0
    }
    fn set_number(&mut self, _: i32) {}
    fn called(&self) -> String {
        String::new()
    }
    fn each_ref(&self, _: &mut dyn FnMut(&'static str, Kind, i32)) {}
    fn standing(plan: &Plan, _: &Edit<Self>) -> Option<Self> {
        Some((*plan.settings).clone())
    }
    fn apply(plan: &mut Plan, edit: &Edit<Self>) {
        plan.settings = std::sync::Arc::new(edit.after.clone().unwrap_or_default());
    }
    fn lawful(&self, _: &Plan, _: Day) -> Result<(), Refusal> {
        self.check()
    }
    fn tidied(&mut self, _: &Plan, _: bool) {}
    fn as_record(&self) -> Option<&dyn AnyRecord> {
        None
    }
}

/// Takes a list of changes back: each one's inverse, the last first.
#[must_use]
pub fn inverse_of(changes: &[Change]) -> Vec<Change> {
    changes.iter().rev().cloned().map(Change::inverse).collect()
}
