//! What an address asks to be placed.

use super::PATH;
use crate::words;
use serde::Deserialize;
use snug_core::{
    Day, Plan, ProjectId, TaskId, TeamId,
    kinds::Kind,
    tuck_in::{AHEAD, Ask, MayDate, MayGive, Scope},
};

/// The most tasks that are chosen one by one.
const MOST: usize = 500;

/// As it stands in the address.
#[derive(Clone, Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    /// The code of a project; empty for all.
    pub project: String,
    /// The code of a team; empty for all.
    pub team: String,
    /// Identities of tasks with commas between them; empty for all.
    pub task: String,
    /// The last day; empty for a year ahead.
    pub until: String,
    /// Which dates may change.
    pub dates: String,
    /// Which people may change.
    pub people: String,
    /// Whether it is to be searched for; empty for not yet.
    pub go: String,
}

impl Asked {
    /// The tasks that were chosen one by one.
    pub fn tasks(&self) -> Vec<TaskId> {
        let ids = self.task.split(',').filter_map(|id| id.trim().parse().ok());
        ids.take(MOST).map(TaskId).collect()
    }

    /// Whether a choice of dates is the one that is asked for.
    pub fn has_dates(&self, word: &str) -> bool {
        self.dates.parse::<MayDate>().unwrap_or_default().to_string() == word
    }

    /// Whether a choice of people is the one that is asked for.
    pub fn has_people(&self, word: &str) -> bool {
        self.people.parse::<MayGive>().unwrap_or_default().to_string() == word
    }

    /// The same as an address; it searches where that is wanted.
    pub fn address(&self, go: bool) -> String {
        let pairs = [
            ("project", self.project.as_str()),
            ("team", self.team.as_str()),
            ("task", self.task.as_str()),
            ("until", self.until.as_str()),
            ("dates", self.dates.as_str()),
            ("people", self.people.as_str()),
            ("go", if go { "yes" } else { "" }),
        ];
        words::address(PATH, pairs.into_iter().filter(|(_, value)| !value.is_empty()))
    }

    /// What is asked, or what is wrong with it in a sentence.
    pub fn ask(&self, plan: &Plan, today: Day) -> Result<Ask, String> {
        let until = match self.until.trim() {
            "" => today + AHEAD,
            text => text.parse::<Day>().map_err(|error| format!("Until when? {error}."))?,
        };
        if !Ask::may_end(today, until) {
            return Err("The last day is to be today or later, within ten years.".to_owned());
        }
        let find = |kind: Kind, code: &str| match code {
            "" => Ok(None),
            code => {
                plan.find(kind, code).map(Some).ok_or_else(|| format!("There is no {} “{code}”.", kind.about().words.0))
            }
        };
        let scope = Scope {
            tasks: self.tasks(),
            projects: find(Kind::Project, &self.project)?.map(ProjectId).into_iter().collect(),
            teams: find(Kind::Team, &self.team)?.map(TeamId).into_iter().collect(),
        };
        let (dates, people) = (self.dates.parse().unwrap_or_default(), self.people.parse().unwrap_or_default());
        Ok(Ask { until, scope, dates, people, ..Ask::new(today) })
    }
}
