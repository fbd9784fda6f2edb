//! From the keys that cells use to identities, whether a record stands or comes with the same files.

use super::{Field, Identity as _, Kind, TaskId};
use crate::{
    Plan,
    demand::{logged_in, remaining_beside},
    fields::{FieldOf, FieldValues},
};
use std::collections::HashMap;

/// What is wrong with one cell: the column and the reason.
pub type Wrong = (&'static str, String);

/// What is needed to read cells: the plan, and the keys that come with the same files.
pub struct Keys {
    /// The plan, with the fields of the workspace's own that come with the same files.
    pub plan: Plan,
    new: HashMap<(Kind, String), i32>,
    next_id: i32,
    /// The identity of the one record that is asked for; 0 where it is new, or where rows know theirs by their keys.
    pub(super) subject: i32,
    /// What is logged on tasks, and inside them, once the files are in; `None` for what is logged now.
    pub(crate) logs: Option<HashMap<TaskId, i64>>,
}

impl Keys {
    /// The keys of a plan.
    #[must_use]
    pub fn of(plan: &Plan) -> Self {
        Self { plan: plan.clone(), new: HashMap::new(), next_id: plan.next_id(), subject: 0, logs: None }
    }

    /// The same, to read the record with this identity; 0 for a new one.
    #[must_use]
    pub fn for_one(plan: &Plan, subject: i32) -> Self {
        Self { subject, ..Self::of(plan) }
    }

    /// An identity that was never used.
    pub fn take_id(&mut self) -> i32 {
        self.next_id += 1;
        self.next_id - 1
    }

    /// Gives an identity to a key that is new.
    pub fn hand_out(&mut self, kind: Kind, key: String) {
        if !key.is_empty() && self.get(kind, &key).is_none() {
            let id = self.take_id();
            self.new.insert((kind, key), id);
        }
    }

    /// The identity of a key.
    #[must_use]
    pub fn get(&self, kind: Kind, key: &str) -> Option<i32> {
        let standing = self.plan.find(kind, key);
        if self.new.is_empty() { standing } else { standing.or_else(|| self.new.get(&(kind, key.to_owned())).copied()) }
    }

    /// The identity of a key that must be there.
    ///
    /// # Errors
    /// There is nothing of the kind with this key.
    pub fn known(&self, kind: Kind, key: &str) -> Result<i32, String> {
        let lower;
        let key = if kind == Kind::Person {
            lower = key.to_lowercase();
            &lower
        } else {
            key
        };
        self.get(kind, key).ok_or_else(|| no_such(kind, key))
    }

    /// What is typed as remaining, and what was logged then. As long as a row says what stands already, nothing was typed anew.
    #[must_use]
    pub fn remaining(&self, id: TaskId, typed: Option<i64>) -> (Option<i64>, i64) {
        let Some(minutes) = typed else { return (None, 0) };
        let logged = match &self.logs {
            Some(logs) => logs.get(&id).copied().unwrap_or(0),
            None => logged_in(&self.plan, id),
        };
        let standing = self.plan.tasks.get(&id).filter(|task| remaining_beside(task, logged) == typed);
        standing.map_or((Some(minutes), logged), |task| (task.remaining, task.logged_then))
    }

    /// The values of the workspace's own fields, by the names of the fields.
    ///
    /// # Errors
    /// There is no such field, or a value is none of its.
    pub fn own<'a>(&self, of: FieldOf, values: impl Iterator<Item = (&'a str, &'a str)>) -> Result<FieldValues, Wrong> {
        let value = |(name, text): (&str, &str)| {
            let id = self.plan.find(Kind::Field, &Field::key_of(of, name)).map(super::FieldId::of);
            let field = id.and_then(|id| self.plan.records.fields.get(&id));
            let field = field.ok_or_else(|| ("fields", format!("there is no field “{name}”; fields.csv makes one")))?;
            let value = field.value(text).map_err(|reason| ("fields", format!("{name}: {reason}")))?;
            Ok((field.id, value))
        };
        values.filter(|(_, text)| !text.is_empty()).map(value).collect()
    }
}

/// There is nothing of a kind with this key.
#[must_use]
pub fn no_such(kind: Kind, key: &str) -> String {
    let what = kind.about().words.0;
    if key.is_empty() { format!("name a {what}") } else { format!("there is no {what} “{key}”") }
}
