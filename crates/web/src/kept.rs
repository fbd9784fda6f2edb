//! Answers that take a look at everybody, kept for as long as the plan stays as it is.

use snug_core::Plan;
use std::{
    any::{Any, TypeId},
    collections::HashMap,
    sync::{Arc, Mutex},
};

/// The most answers that are kept of a plan.
const MOST: usize = 256;
/// The most plans, drafts among them, of which answers are kept.
const MOST_PLANS: usize = 16;

/// What was asked: the type of the answer, and the question in words.
type Asked = (TypeId, String);

/// An answer of whatever type.
type Answer = Arc<dyn Any + Send + Sync>;

/// Which plan answers are about: the reading and the revision.
type State = (u32, i64);

/// What is kept of a plan.
type OfPlan = (State, HashMap<Asked, Answer>);

/// Answers by what was asked, of the live plan and of drafts; those about an older one are forgotten. Each kind of answer has a type of
/// its own.
#[derive(Default)]
pub struct Kept(Mutex<HashMap<i32, OfPlan>>);

impl Kept {
    /// The answer, computed once for each plan and question.
    pub fn get<T: Any + Send + Sync>(&self, plan: &Plan, asked: String, compute: impl FnOnce() -> T) -> Arc<T> {
        let (asked, state) = ((TypeId::of::<T>(), asked), (plan.reading, plan.revision));
        if let Ok(mut plans) = self.0.lock() {
            if plans.len() >= MOST_PLANS && !plans.contains_key(&plan.draft) {
                plans.clear();
            }
            let kept = plans.entry(plan.draft).or_default();
            if kept.0 != state || kept.1.len() > MOST {
                *kept = (state, HashMap::new());
            }
            if let Some(found) = kept.1.get(&asked).and_then(|found| Arc::clone(found).downcast().ok()) {
                return found;
            }
        }
        let found = Arc::new(compute());
        if let Ok(mut plans) = self.0.lock()
            && let Some(kept) = plans.get_mut(&plan.draft)
            && kept.0 == state
        {
            kept.1.insert(asked, Arc::clone(&found) as Answer);
        }
        found
    }
}
