//! A log in heaps: what of it is alike, added up, so that of millions of entries only thousands of heaps are named, filtered and
//! priced.

use crate::{Day, PersonId, Plan, ProjectId, TaskId, plan::LogRow};
use rustc_hash::FxHashMap;

/// What somebody logged on the same work, all of it billable or none, in the same stretch of days, with the same rates in force.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Heap {
    /// Who.
    pub person: PersonId,
    /// One of the days.
    pub day: Day,
    /// On which project, of its task if it has one.
    pub project: Option<ProjectId>,
    /// On which task.
    pub task: Option<TaskId>,
    /// Whether it can be billed.
    pub billable: bool,
    /// Minutes, corrections included.
    pub minutes: i64,
    /// In so many entries.
    pub entries: u32,
}

impl Heap {
    /// One entry by itself.
    #[must_use]
    pub fn of(plan: &Plan, person: PersonId, row: &LogRow) -> Self {
        let (project, task) = row.subject(plan);
        let &LogRow { date: day, billable, .. } = row;
        Self { person, day, project, task, billable, minutes: row.minutes.into(), entries: 1 }
    }
}

/// Shows the heaps of what one person logged, in the order of their stretches. `stretch` says which days are put together.
pub(crate) fn heaps_of<K: PartialEq>(
    plan: &Plan,
    (person, rows): (PersonId, &[LogRow]),
    stretch: &impl Fn(Day) -> K,
    see: &mut impl FnMut(&Heap),
) {
    let rates = plan.people.get(&person).map_or(&[] as &[_], |entry| entry.person.rates.as_slice());
    let in_force = |day: Day| rates.iter().filter(|dated| dated.from.is_none_or(|from| from <= day)).count();
    let mut places: FxHashMap<(Option<ProjectId>, Option<TaskId>, bool), usize> = FxHashMap::default();
    let mut heaps: Vec<Heap> = Vec::new();
    let (mut date, mut standing) = (None, None);
    for row in rows {
        if date != Some(row.date) {
            date = Some(row.date);
            let next = Some((stretch(row.date), in_force(row.date)));
            if standing != next {
                standing = next;
                places.clear();
                heaps.drain(..).for_each(|heap| see(&heap));
            }
        }
        let at = *places.entry((row.project, row.task, row.billable)).or_insert_with(|| {
            heaps.push(Heap { minutes: 0, entries: 0, ..Heap::of(plan, person, row) });
            heaps.len() - 1
        });
        heaps[at].minutes += i64::from(row.minutes);
        heaps[at].entries += 1;
    }
    heaps.iter().for_each(see);
}
