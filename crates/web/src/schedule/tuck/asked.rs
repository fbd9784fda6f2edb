//! What an address asks to be placed.

use super::PATH;
use crate::{answer::safe_back, words};
use serde::Deserialize;
use snug_core::{
    Day, Plan, ProjectId, TaskId, TeamId,
    kinds::Kind,
    tuck_in::{AHEAD, Ask, MayDate, MayGive, Scope},
};

/// The address at which places are looked for, for the work of a project, some tasks, or all, and what is tried is looked at in the room
/// `from` which one comes.
pub fn way(project: &str, tasks: &str, from: &str) -> String {
    // Of several projects at once none is chosen.
    let project = if project.contains(',') { "" } else { project };
    // Whoever chooses tasks means those that have dates, too.
    let dates = if tasks.is_empty() { "" } else { MayDate::Unpinned.as_str() };
    let [project, task, from, dates] = [project, tasks, from, dates].map(str::to_owned);
    Asked { project, task, dates, from, ..Asked::default() }.address("yes")
}

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
    /// Identities of tasks that are to stay as they are, with commas between them.
    pub pin: String,
    /// The page from which one came, where what is tried is looked at.
    pub from: String,
    /// Whether it is to be searched for: `yes`, or `harder`; empty for not yet.
    pub go: String,
}

impl Asked {
    /// The tasks that were chosen one by one.
    pub fn tasks(&self) -> Vec<TaskId> {
        tasks_in(&self.task)
    }

    /// The tasks that are to stay as they are.
    pub fn pinned(&self) -> Vec<TaskId> {
        tasks_in(&self.pin)
    }

    /// The address that leaves one more task as it is.
    pub fn pinning(&self, task: TaskId) -> String {
        let all = self.pinned().into_iter().chain([task]).map(|id| id.to_string());
        Self { pin: all.collect::<Vec<_>>().join(","), ..self.clone() }.address("yes")
    }

    /// The address that lets everything move again.
    pub fn unpinned(&self) -> String {
        Self { pin: String::new(), ..self.clone() }.address("yes")
    }

    /// What it says, for the hidden fields of a form.
    pub fn pairs(&self) -> [(&'static str, &str); 8] {
        [
            ("project", self.project.as_str()),
            ("team", self.team.as_str()),
            ("task", self.task.as_str()),
            ("until", self.until.as_str()),
            ("dates", self.dates.as_str()),
            ("people", self.people.as_str()),
            ("pin", self.pin.as_str()),
            ("from", self.from.as_str()),
        ]
    }

    /// Whether a choice of dates is the one that is asked for.
    pub fn has_dates(&self, word: &str) -> bool {
        self.dates.parse::<MayDate>().unwrap_or_default().to_string() == word
    }

    /// Whether a choice of people is the one that is asked for.
    pub fn has_people(&self, word: &str) -> bool {
        self.people.parse::<MayGive>().unwrap_or_default().to_string() == word
    }

    /// The room in which what is tried is looked at: the one from which one came, or the Gantt.
    pub fn room(&self) -> &str {
        if self.from.is_empty() { super::super::PATH } else { safe_back(&self.from) }
    }

    /// The same as an address; it searches as `go` says.
    pub fn address(&self, go: &str) -> String {
        let pairs = self.pairs().into_iter().chain([("go", go)]);
        words::address(PATH, pairs.filter(|(_, value)| !value.is_empty()))
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
        Ok(Ask { until, scope, dates, people, pinned: self.pinned().into_iter().collect(), ..Ask::new(today) })
    }
}

fn tasks_in(text: &str) -> Vec<TaskId> {
    text.split(',').filter_map(|id| id.trim().parse().ok()).take(MOST).map(TaskId).collect()
}
