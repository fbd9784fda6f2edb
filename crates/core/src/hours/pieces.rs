//! Pieces of work: what estimates, logs and remainders are summed over. A leaf is one, and so is what of a parent is not broken
//! down into the tasks inside it.

use super::heaps::{Heap, heaps_of};
use crate::{
    Day, PersonId, Plan, ProjectId, TaskId,
    demand::{effort_of, left_of, parts_of},
    kinds::Task,
    plan::Logged,
};
use std::{
    borrow::Cow,
    collections::{BTreeMap, HashMap},
};

/// Which days' entries count; without an end, all on that side.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Cut {
    /// The first day.
    pub from: Option<Day>,
    /// The last day.
    pub to: Option<Day>,
}

impl Cut {
    /// Every day.
    pub const ALL: Self = Self { from: None, to: None };

    /// The first and the last day whose entries count.
    #[must_use]
    pub fn days(self) -> (Day, Day) {
        (self.from.unwrap_or(Day::MIN), self.to.unwrap_or(Day::MAX))
    }
}

/// What was logged on the days of a cut, by where it was logged.
pub(crate) enum Log<'p> {
    /// On any day.
    All(&'p Plan),
    /// On some days: on tasks, where somebody may be there more than once, and on no task by project and person.
    Cut(HashMap<TaskId, Vec<Logged>>, BTreeMap<(Option<ProjectId>, PersonId), i64>),
}

impl<'p> Log<'p> {
    pub fn of(plan: &'p Plan, cut: Cut) -> Self {
        if cut == Cut::ALL {
            return Self::All(plan);
        }
        let (mut on_tasks, mut apart) = (HashMap::<TaskId, Vec<Logged>>::new(), BTreeMap::new());
        let (from, to) = cut.days();
        for log in plan.whole_log(from, to) {
            heaps_of(plan, log, &|_| (), &mut |heap| {
                let Heap { person, minutes, entries, .. } = *heap;
                match heap.task {
                    Some(task) => on_tasks.entry(task).or_default().push(Logged { person, minutes, entries }),
                    None => *apart.entry((heap.project, person)).or_insert(0) += minutes,
                }
            });
        }
        Self::Cut(on_tasks, apart)
    }

    /// What is logged on a task itself, by person.
    pub fn on(&self, task: TaskId) -> &[Logged] {
        match self {
            Self::All(plan) => plan.logged.get(&task).map_or(&[], |log| log.as_slice()),
            Self::Cut(on_tasks, _) => on_tasks.get(&task).map_or(&[], Vec::as_slice),
        }
    }

    /// What is logged on no task: project, person, minutes.
    pub fn apart(&self) -> Vec<(Option<ProjectId>, PersonId, i64)> {
        match self {
            Self::All(plan) => plan.logged_apart.iter().map(|((on, who), log)| (*on, *who, log.minutes)).collect(),
            Self::Cut(_, apart) => apart.iter().map(|((on, who), minutes)| (*on, *who, *minutes)).collect(),
        }
    }
}

/// A piece of work, in minutes of everyone.
pub(crate) struct Piece<'p> {
    /// The leaf, or the parent whose remainder it is.
    pub task: &'p Task,
    /// Whether it is a leaf.
    pub is_leaf: bool,
    /// E: of a parent what it has beyond those inside it; `None` where the task says none.
    pub estimate: Option<i64>,
    /// Whether it has an estimate, of its own or above it.
    pub is_covered: bool,
    /// R.
    pub remaining: i64,
    /// A, by person.
    pub log: Cow<'p, [Logged]>,
}

/// What one person, or nobody, has of a piece.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Part {
    pub estimate: i64,
    pub actual: i64,
    pub remaining: i64,
    /// Whether it is theirs to do, and not only logged.
    pub is_assigned: bool,
}

impl Piece<'_> {
    /// A of everyone.
    pub fn actual(&self) -> i64 {
        self.log.iter().map(|logged| logged.minutes).sum()
    }

    /// What everyone has of it: E cut between the assignees, R as it lies on their days, A by who logged it. What nobody is named
    /// for is nobody's.
    pub fn parts(&self, plan: &Plan) -> Vec<(Option<PersonId>, Part)> {
        let mut found: Vec<(Option<PersonId>, Part)> = Vec::new();
        let estimates = parts_of(&self.task.assignees, self.estimate.unwrap_or(0));
        for (person, estimate) in self.task.assignees.people().zip(estimates) {
            found.push((Some(person), Part { estimate, is_assigned: true, ..Part::default() }));
        }
        if found.is_empty() {
            let (estimate, remaining) = (self.estimate.unwrap_or(0), self.remaining);
            found.push((None, Part { estimate, remaining, is_assigned: true, actual: 0 }));
        } else {
            let effort = effort_of(plan, self.task).map(|effort| effort.parts).unwrap_or_default();
            for ((_, part), (_, minutes)) in found.iter_mut().zip(effort) {
                part.remaining = minutes;
            }
        }
        for logged in self.log.iter() {
            match found.iter_mut().find(|(who, _)| *who == Some(logged.person)) {
                Some((_, part)) => part.actual += logged.minutes,
                None => found.push((Some(logged.person), Part { actual: logged.minutes, ..Part::default() })),
            }
        }
        found
    }
}

/// Shows every piece of a task and what is inside it, the inner ones first, each once; returns Σ E. `is_covered` says whether
/// anything above has an estimate.
///
/// The depth of nesting is bounded by the rules, so that this may go down by itself.
pub(crate) fn each_piece<'p>(
    plan: &'p Plan,
    log: &'p Log<'p>,
    task: &'p Task,
    is_covered: bool,
    see: &mut dyn FnMut(&Piece<'p>),
) -> i64 {
    let is_covered = is_covered || task.estimate.is_some();
    let (mut inner, mut is_leaf) = (0, true);
    for child in plan.children_of(task.id).iter().filter_map(|id| plan.tasks.get(id)) {
        inner += each_piece(plan, log, child, is_covered, see);
        is_leaf = false;
    }
    let estimate = task.estimate.map(|minutes| (minutes * task.assignees.heads() - inner).max(0));
    let remaining = left_of(plan, task).unwrap_or(0);
    see(&Piece { task, is_leaf, estimate, is_covered, remaining, log: Cow::Borrowed(log.on(task.id)) });
    inner + estimate.unwrap_or(0)
}

/// Shows every piece of a plan.
pub(crate) fn all_pieces<'p>(plan: &'p Plan, log: &'p Log<'p>, see: &mut dyn FnMut(&Piece<'p>)) {
    for task in plan.tasks.values().filter(|task| task.parent.is_none()) {
        each_piece(plan, log, task, false, see);
    }
}
