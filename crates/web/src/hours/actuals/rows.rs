//! The rows of estimate against actual as one reads them, and what a row is made of.

use super::vessel::Vessel;
use crate::{hours::entries::EntryView, words};
use snug_core::{
    Eyes, PersonId, Plan, ProjectId, TaskId, TeamId,
    hours::{Actuals, By, Key},
    kinds::TimeEntry,
};

/// A row.
pub struct Row {
    pub name: String,
    /// Where what it is about stands; empty for none.
    pub href: String,
    pub under: String,
    pub vessel: Vessel,
    pub says: String,
    pub verdict: String,
    pub over: bool,
    /// Estimate, worked, to go, in all, without estimate, variance, in percent, tasks without estimate.
    pub figures: [String; 8],
    /// Where it opens down to its entries.
    pub opens: String,
}

/// What a row is called, where it leads, and what stands under its name.
pub fn named(plan: &Plan, key: &Key) -> (String, String, String) {
    let none = |name: &str| (name.to_owned(), String::new(), String::new());
    let project = |id: ProjectId| plan.records.projects.get(&id).map(|it| it.name.clone()).unwrap_or_default();
    match key {
        Key::Task(None) => none("No task"),
        Key::Project(None) | Key::Level(None) => none("No project"),
        Key::Person(None) => none("Nobody yet"),
        Key::Team(None) => none("No team"),
        Key::Role(word) if word.is_empty() => none("No role"),
        Key::Kind(word) if word.is_empty() => none("No kind"),
        Key::Tag(word) if word.is_empty() => none("No tag"),
        Key::Role(word) | Key::Kind(word) | Key::Tag(word) => none(word),
        Key::Level(Some(depth)) => {
            (words::capital(plan.settings.level(*depth)), String::new(), format!("level {}", depth + 1))
        }
        Key::Task(Some(id)) => plan
            .tasks
            .get(id)
            .map_or_else(|| none(""), |task| (task.title.clone(), format!("/tasks/{id}"), project(task.project))),
        Key::Project(Some(id)) => plan.records.projects.get(id).map_or_else(
            || none(""),
            |it| (it.name.clone(), format!("/projects/{id}"), it.parent.map(project).unwrap_or_default()),
        ),
        Key::Person(Some(id)) => plan.people.get(id).map_or_else(
            || none(""),
            |entry| (entry.person.name.clone(), format!("/people/{id}"), entry.person.role.clone()),
        ),
        Key::Team(Some(id)) => plan.records.teams.get(id).map_or_else(
            || none(""),
            |it| {
                let above = it.parent.and_then(|id| plan.records.teams.get(&id));
                (it.name.clone(), format!("/teams/{id}"), above.map(|it| it.name.clone()).unwrap_or_default())
            },
        ),
    }
}

/// A key as it stands in an address: what its number or word is, `-` for what belongs to none.
pub fn addressed(key: &Key) -> String {
    let number = |id: Option<String>| id.unwrap_or_else(|| "-".to_owned());
    match key {
        Key::Task(id) => number(id.map(|id| id.to_string())),
        Key::Project(id) => number(id.map(|id| id.to_string())),
        Key::Person(id) => number(id.map(|id| id.to_string())),
        Key::Team(id) => number(id.map(|id| id.to_string())),
        Key::Level(depth) => number(depth.map(|depth| depth.to_string())),
        // A word may be any; the mark tells one from none.
        Key::Role(word) | Key::Kind(word) | Key::Tag(word) => format!("={word}"),
    }
}

/// The key of an address; `None` where it names none.
pub fn key_of(by: By, text: &str) -> Option<Key> {
    let number = || match text {
        "-" => Some(None),
        text => text.parse::<i32>().ok().map(Some),
    };
    let word = || text.strip_prefix('=').map(str::to_owned);
    Some(match by {
        By::Task => Key::Task(number()?.map(TaskId)),
        By::Project => Key::Project(number()?.map(ProjectId)),
        By::Person => Key::Person(number()?.map(PersonId)),
        By::Team => Key::Team(number()?.map(TeamId)),
        By::Level => Key::Level(match number()? {
            None => None,
            Some(depth) => Some(usize::try_from(depth).ok()?),
        }),
        By::Role => Key::Role(word()?),
        By::Kind => Key::Kind(word()?),
        By::Tag => Key::Tag(word()?),
    })
}

/// Figures as a row. Where days were cut, what lies outside is not known, so that nothing is said of the whole.
pub fn row(named: (String, String, String), figures: &Actuals, most: i64, is_cut: bool, opens: String) -> Row {
    let (name, href, under) = named;
    let estimate = if figures.estimated { words::hours(figures.estimate()) } else { "–".to_owned() };
    let thought = if figures.estimated { format!("thought {estimate}") } else { "no estimate".to_owned() };
    let [worked, left] = [figures.actual(), figures.remaining()].map(words::hours);
    let whole = |text: String| if is_cut { "–".to_owned() } else { text };
    let percent = figures.variance_per_mille().map_or_else(|| "–".to_owned(), |it| format!("{} %", percent(it)));
    let verdict = if is_cut { String::new() } else { words::verdict(figures) };
    Row {
        vessel: Vessel::of(figures, most),
        says: if is_cut {
            format!("{worked} worked in these days · {thought}")
        } else {
            format!("{worked} worked · {left} to go · {thought}")
        },
        over: !is_cut && figures.variance().is_some_and(|more| more > 0),
        figures: [
            estimate,
            worked,
            left,
            whole(words::hours(figures.projected())),
            whole(words::hours(figures.unestimated())),
            whole(words::verdict(figures)),
            whole(percent),
            figures.without_estimate.to_string(),
        ],
        verdict,
        name,
        href,
        under,
        opens,
    }
}

fn percent(per_mille: i64) -> String {
    let sign = if per_mille > 0 { "+" } else { "" };
    format!("{sign}{}", snug_exchange::hours::percent(per_mille))
}

/// As many entries as one reads of a row.
const MOST: usize = 100;

/// The entries of a row that these eyes see, how many more there are, and how many are of people whose hours they do not see.
pub fn entries(eyes: &Eyes<'_>, all: &[&std::sync::Arc<TimeEntry>]) -> (Vec<EntryView>, usize, usize) {
    let seen: Vec<_> = all.iter().filter(|entry| eyes.knows(entry.person)).collect();
    let shown = seen.iter().take(MOST).map(|entry| EntryView::of(eyes.plan, entry)).collect();
    (shown, seen.len().saturating_sub(MOST), all.len() - seen.len())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_key_of_an_address_is_the_one_that_was_put_there() {
        for (by, key) in [
            (By::Task, Key::Task(None)),
            (By::Task, Key::Task(Some(TaskId(7)))),
            (By::Team, Key::Team(Some(TeamId(3)))),
            (By::Kind, Key::Kind(String::new())),
            (By::Kind, Key::Kind("-".to_owned())),
            (By::Level, Key::Level(Some(0))),
        ] {
            assert_eq!(key_of(by, &addressed(&key)), Some(key));
        }
        assert_eq!(key_of(By::Task, "many"), None);
    }
}
