//! What an address of Even out asks for.

use super::PATH;
use crate::{columns::Pairs, fit::address::query::FitQuery, words};
use snug_core::{BookingId, Day, PersonId, Plan, TaskId, TeamId, even_out::Flatten, kinds::Kind, plan::Entry};
use std::collections::BTreeSet;

/// Which of the two tools.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Tool {
    /// Hours that were not worked are offered again.
    Unworked,
    /// Weeks that spill are flattened.
    Flatten,
}

/// How many weeks are looked at where nothing is said, and at most.
const WEEKS: i32 = 6;
const MOST_WEEKS: i32 = 26;

/// As it stands in the address.
#[derive(Clone, Default)]
pub struct Asked {
    /// `unworked`, or `flatten`, which is also meant where nothing is said.
    pub tool: String,
    /// Identities of people, with commas between them; empty for everybody, or everybody of a team.
    pub person: String,
    /// The code of a team; empty for all.
    pub team: String,
    /// The Monday of the first week; empty for this one.
    pub from: String,
    /// How many weeks: to come where they are flattened, past ones where hours were not worked.
    pub weeks: String,
    /// Identities of bookings that may be cut, with commas between them, or `all`.
    pub cut: String,
    /// Identities of tasks that stay, with commas between them.
    pub pin: String,
}

/// What that means in a plan.
pub struct Picked {
    /// Whose weeks.
    pub people: BTreeSet<PersonId>,
    /// The first Monday and the last Sunday.
    pub days: (Day, Day),
    /// How many weeks that are.
    pub weeks: i32,
    pub pinned: BTreeSet<TaskId>,
    pub movable: BTreeSet<BookingId>,
}

impl Asked {
    /// From the pairs of an address or a form; what is said several times is put together.
    pub fn of(pairs: &Pairs) -> Self {
        let word = |name: &str| -> String {
            let said = pairs.iter().filter(|(known, value)| known == name && !value.is_empty());
            said.map(|(_, value)| value.as_str()).collect::<Vec<_>>().join(",")
        };
        Self {
            tool: word("tool"),
            person: word("person"),
            team: word("team"),
            from: word("from"),
            weeks: word("weeks"),
            cut: word("cut"),
            pin: word("pin"),
        }
    }

    /// What one sees in the Fit room: its weeks, and these people, or where none are named its team, or everybody.
    pub fn in_fit(query: &FitQuery, people: &[i32]) -> Self {
        let weeks = (query.days() + 6) / 7;
        Self {
            person: people.iter().map(i32::to_string).collect::<Vec<_>>().join(","),
            team: if people.is_empty() { query.team.clone() } else { String::new() },
            from: query.from.to_string(),
            weeks: weeks.min(MOST_WEEKS).to_string(),
            ..Self::default()
        }
    }

    pub fn tool(&self) -> Tool {
        if self.tool == "unworked" { Tool::Unworked } else { Tool::Flatten }
    }

    /// What is meant, and what of it cannot be read, in a sentence.
    pub fn picked(&self, plan: &Plan, today: Day) -> (Picked, Option<String>) {
        let mut problem = None;
        let numbers =
            |text: &str| -> BTreeSet<i32> { text.split(',').filter_map(|it| it.trim().parse().ok()).collect() };
        let weeks = self.weeks.parse().unwrap_or(WEEKS).clamp(1, MOST_WEEKS);
        let from = match self.from.trim() {
            "" => today,
            text => text.parse::<Day>().unwrap_or_else(|error| {
                problem = Some(format!("From when? {error}."));
                today
            }),
        };
        let from = from.clamp(today - 366, today + 366).monday();
        let named: BTreeSet<PersonId> = numbers(&self.person).into_iter().map(PersonId).collect();
        let team = plan.find(Kind::Team, &self.team).map(TeamId);
        let people: BTreeSet<PersonId> = match team {
            _ if !self.person.is_empty() => named.into_iter().filter(|id| plan.people.contains_key(id)).collect(),
            Some(team) => {
                let teams = plan.team_and_inner(team);
                let teams = teams.iter().filter_map(|id| plan.records.teams.get(id));
                teams.flat_map(|team| team.members.iter().map(|(id, _)| *id)).collect()
            }
            None => plan.people.keys().copied().collect(),
        };
        let to_come = from.max(today.monday());
        let days = match self.tool() {
            Tool::Flatten => (to_come, to_come + 7 * weeks - 1),
            Tool::Unworked => (today.monday() - 7 * weeks, today - 1),
        };
        let movable = if self.cut == "all" {
            let own = people.iter().filter_map(|id| plan.people.get(id)).flat_map(Entry::bookings);
            own.filter(|row| row.brick.start >= today && row.brick.touches(days.0, days.1)).map(|row| row.id).collect()
        } else {
            numbers(&self.cut).into_iter().map(BookingId).collect()
        };
        let pinned = numbers(&self.pin).into_iter().map(TaskId).collect();
        (Picked { people, days, weeks, pinned, movable }, problem)
    }

    /// What it says, for the hidden fields of a form.
    pub fn pairs(&self) -> [(&'static str, &str); 7] {
        [
            ("tool", self.tool.as_str()),
            ("person", self.person.as_str()),
            ("team", self.team.as_str()),
            ("from", self.from.as_str()),
            ("weeks", self.weeks.as_str()),
            ("cut", self.cut.as_str()),
            ("pin", self.pin.as_str()),
        ]
    }

    /// The same as an address.
    pub fn address(&self) -> String {
        words::address(PATH, self.pairs().into_iter().filter(|(_, value)| !value.is_empty()))
    }

    /// The address of the other tool, for the same people.
    pub fn with_tool(&self, tool: &str) -> String {
        let asked =
            Self { tool: tool.to_owned(), person: self.person.clone(), team: self.team.clone(), ..Self::default() };
        asked.address()
    }

    /// The address under which one more task stays.
    pub fn pinning(&self, task: TaskId) -> String {
        let pin = if self.pin.is_empty() { task.to_string() } else { format!("{},{task}", self.pin) };
        Self { pin, ..self.clone() }.address()
    }

    /// The address under which every task may move again.
    pub fn unpinned(&self) -> String {
        Self { pin: String::new(), ..self.clone() }.address()
    }
}

impl Picked {
    /// What is flattened.
    pub fn flatten(&self, today: Day) -> Flatten {
        Flatten {
            today,
            people: self.people.clone(),
            weeks: self.days,
            pinned: self.pinned.clone(),
            movable: self.movable.clone(),
        }
    }
}
