//! Tables of Even out: what moves, what is over before and after, and where unworked hours are offered again.

use crate::form::{Form, written};
use snug_core::{
    Plan,
    even_out::{Evened, Offered, Unworked},
    kinds::{Kind, PersonId},
};

/// A row for each task that moves and for each week of a booking that is cut: `what,ref,start,finish,minutes`. A booking without a
/// reference is named by its number.
#[must_use]
pub fn moves(plan: &Plan, evened: &Evened, form: Form) -> String {
    let tasks = evened.moved.iter().map(|(task, _, (start, finish))| {
        ["task".to_owned(), plan.key_of(Kind::Task, task.0), start.to_string(), finish.to_string(), String::new()]
    });
    let cut = evened.cut.iter().flat_map(|(id, slices)| {
        let key = plan.booking(*id).map(|booking| booking.reference).filter(|key| !key.is_empty());
        let key = key.unwrap_or_else(|| id.to_string());
        slices.iter().filter(|slice| slice.2 > 0).map(move |(from, to, minutes)| {
            ["booking".to_owned(), key.clone(), from.to_string(), to.to_string(), minutes.to_string()]
        })
    });
    written(["what", "ref", "start", "finish", "minutes"], 2, tasks.chain(cut).collect(), form)
}

/// A row for each week in which somebody is over, before or after: `person,week,before_min,after_min`.
#[must_use]
pub fn spill(plan: &Plan, evened: &Evened, form: Form) -> String {
    let mut weeks: Vec<_> = evened.before.keys().chain(evened.after.keys()).copied().collect();
    weeks.sort_by_cached_key(|(person, week)| (email(plan, *person), *week));
    weeks.dedup();
    let row = |key: &(PersonId, snug_core::Day)| {
        let minutes = |of: &snug_core::even_out::Spills| of.get(key).copied().unwrap_or(0).to_string();
        [email(plan, key.0), key.1.to_string(), minutes(&evened.before), minutes(&evened.after)]
    };
    written(["person", "week", "before_min", "after_min"], 2, weeks.iter().map(row).collect(), form)
}

/// A row for each week in which unworked hours are offered again, and one without a week for what does not fit:
/// `person,project,unworked_min,week,room_min,offered_min`.
#[must_use]
pub fn unworked(plan: &Plan, offers: &[(Unworked, Offered)], form: Form) -> String {
    let rows = offers.iter().flat_map(|(of, offered)| {
        let head = [email(plan, of.person), plan.key_of(Kind::Project, of.project.0), of.minutes.to_string()];
        let row = |week: String, room: String, minutes: i64| {
            let [person, project, unworked] = head.clone();
            [person, project, unworked, week, room, minutes.to_string()]
        };
        let mut rows: Vec<_> = offered.weeks.iter().map(|it| row(it.0.to_string(), it.2.to_string(), it.3)).collect();
        rows.extend((offered.left > 0).then(|| row(String::new(), String::new(), offered.left)));
        rows
    });
    let columns = ["person", "project", "unworked_min", "week", "room_min", "offered_min"];
    written(columns, 2, rows.collect(), form)
}

fn email(plan: &Plan, person: PersonId) -> String {
    plan.key_of(Kind::Person, person.0)
}
