//! Answers that take a look at everybody, kept for as long as the plan stays as it is.

use super::{alerts::Counted, horizon::Week, tray::TrayView};
use snug_core::{PersonId, Plan, ProjectId};
use std::{
    collections::{BTreeMap, HashMap},
    sync::{Arc, Mutex},
};

/// The most answers of one kind that are kept.
const MOST: usize = 64;

/// Answers to one kind of question, by what was asked; those about an older plan are forgotten.
pub struct Shelf<T>(Mutex<(i64, HashMap<String, Arc<T>>)>);

impl<T> Default for Shelf<T> {
    fn default() -> Self {
        Self(Mutex::new((0, HashMap::new())))
    }
}

impl<T> Shelf<T> {
    /// The answer, computed once for each plan and question.
    pub fn get(&self, plan: &Plan, asked: String, compute: impl FnOnce() -> T) -> Arc<T> {
        if let Ok(mut kept) = self.0.lock() {
            if kept.0 != plan.revision || kept.1.len() > MOST {
                *kept = (plan.revision, HashMap::new());
            }
            if let Some(found) = kept.1.get(&asked) {
                return Arc::clone(found);
            }
        }
        let found = Arc::new(compute());
        if let Ok(mut kept) = self.0.lock()
            && kept.0 == plan.revision
        {
            kept.1.insert(asked, Arc::clone(&found));
        }
        found
    }
}

/// Everything of the room that is kept.
#[derive(Default)]
pub struct Kept {
    /// Horizon strips.
    pub horizons: Shelf<Vec<Week>>,
    /// Counts of warnings.
    pub alerts: Shelf<Counted>,
    /// The tray.
    pub trays: Shelf<TrayView>,
    /// Minutes logged on every project.
    pub worked: Shelf<BTreeMap<ProjectId, i64>>,
    /// Who is let in by a filter that looks at figures.
    pub chosen: Shelf<Vec<PersonId>>,
}
