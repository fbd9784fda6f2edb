//! People and teams: several files make one record of each.

use super::{
    Dataset, Line, PersonRow, TeamRow,
    records::{self, Wrong, lawful, no_such},
    resolve::{Work, count, line_of, nested},
};
use crate::{
    PersonId, TeamId,
    change::{Change, Edit},
    people::{DatedPattern, DatedRate, Person},
    rules,
    work::Team,
};
use std::collections::{BTreeMap, HashMap};

impl Work<'_> {
    pub(super) fn people(&mut self, data: &Dataset) {
        let mut touched: BTreeMap<PersonId, Person> = BTreeMap::new();
        let mut seen = HashMap::new();
        for line in &data.people {
            if !self.only_once(&mut seen, line.row.email.clone(), "people.csv", line.line, "email") {
                continue;
            }
            match self.person(&line.row) {
                Ok(person) => {
                    let before = self.plan.people.get(&person.id).map(|entry| &*entry.person);
                    count(self.out.files.entry("people.csv".to_owned()).or_default(), before, &person);
                    touched.insert(person.id, person);
                }
                Err(wrong) => self.refuse("people.csv", line.line, wrong),
            }
        }
        let mut seen = HashMap::new();
        for Line { line, row } in &data.patterns {
            let Some(mut person) = self.touch(&touched, &row.email, "patterns.csv", *line) else { continue };
            if self.only_once(&mut seen, (person.id, row.from), "patterns.csv", *line, "from") {
                let dated = DatedPattern { from: Some(row.from), pattern: row.pattern.clone() };
                let same = person.patterns.iter().find(|other| other.from == dated.from).cloned();
                count(self.tally("patterns.csv"), same.as_ref(), &dated);
                person.patterns.retain(|other| other.from != dated.from);
                person.patterns.push(dated);
                person.patterns.sort_by_key(|dated| dated.from);
                touched.insert(person.id, person);
            }
        }
        let mut seen = HashMap::new();
        for Line { line, row } in &data.rates {
            let Some(mut person) = self.touch(&touched, &row.email, "rates.csv", *line) else { continue };
            if self.only_once(&mut seen, (person.id, row.from), "rates.csv", *line, "from") {
                let dated = DatedRate { from: Some(row.from), cost: row.cost_rate, bill: row.bill_rate };
                let same = person.rates.iter().find(|other| other.from == dated.from).cloned();
                count(self.tally("rates.csv"), same.as_ref(), &dated);
                person.rates.retain(|other| other.from != dated.from);
                person.rates.push(dated);
                person.rates.sort_by_key(|dated| dated.from);
                touched.insert(person.id, person);
            }
        }
        for person in touched.into_values() {
            let before = self.plan.people.get(&person.id).map(|entry| (*entry.person).clone());
            self.put(before, person, Change::Person);
        }
    }

    /// The person as the rows before this one have made them.
    fn touch(&mut self, touched: &BTreeMap<PersonId, Person>, email: &str, file: &str, line: u64) -> Option<Person> {
        let id = self.keys.get("person", email).map(PersonId);
        let known = id
            .and_then(|id| touched.get(&id).or_else(|| self.plan.people.get(&id).map(|entry| &*entry.person)))
            .cloned();
        if known.is_none() {
            self.refuse(file, line, ("email", no_such("person", email)));
        }
        known
    }

    /// The person of a row, with the later patterns and rates that stand.
    fn person(&self, row: &PersonRow) -> Result<Person, Wrong> {
        let before = self.keys.get("person", &row.email).and_then(|id| self.plan.people.get(&PersonId(id)));
        let before = before.map(|entry| &entry.person);
        let patterns = before.into_iter().flat_map(|person| &person.patterns).filter(|dated| dated.from.is_some());
        let rates = before.into_iter().flat_map(|person| &person.rates).filter(|rate| rate.from.is_some());
        let person = records::person(&self.keys, row, patterns.cloned().collect(), rates.cloned().collect())?;
        lawful(&self.keys, &Change::Person(Edit::new(person.clone())))?;
        Ok(person)
    }

    pub(super) fn teams(&mut self, data: &Dataset) {
        let mut touched: BTreeMap<TeamId, Team> =
            self.plan.teams.values().map(|team| (team.id, (**team).clone())).collect();
        let mut seen = HashMap::new();
        for Line { line, row } in &data.teams {
            if !self.only_once(&mut seen, row.code.clone(), "teams.csv", *line, "code") {
                continue;
            }
            match self.team(row) {
                Ok(team) => {
                    let before = self.plan.teams.get(&team.id).map(|team| &**team);
                    count(self.out.files.entry("teams.csv".to_owned()).or_default(), before, &team);
                    touched.insert(team.id, team);
                }
                Err(wrong) => self.refuse("teams.csv", *line, wrong),
            }
        }
        let mut given: HashMap<PersonId, i32> = HashMap::new();
        for (person, share) in touched.values().flat_map(|team| &team.members) {
            *given.entry(*person).or_default() += share;
        }
        let mut seen = HashMap::new();
        for Line { line, row } in &data.members {
            let found = self.keys.known("team", &row.team, "team").map(TeamId);
            let found = found.and_then(|team| Ok((team, PersonId(self.keys.known("person", &row.email, "email")?))));
            match found {
                Err(wrong) => self.refuse("members.csv", *line, wrong),
                Ok((team, person)) if self.only_once(&mut seen, (team, person), "members.csv", *line, "email") => {
                    let Some(team) = touched.get_mut(&team) else { continue };
                    let standing = team.members.iter_mut().find(|(id, _)| *id == person);
                    let tally = self.out.files.entry("members.csv".to_owned()).or_default();
                    count(tally, standing.as_ref().map(|(_, share)| share), &row.share);
                    let given = given.entry(person).or_default();
                    *given += row.share - standing.as_ref().map_or(0, |(_, share)| *share);
                    match standing {
                        Some((_, share)) => *share = row.share,
                        None => team.members.push((person, row.share)),
                    }
                    if *given > 10_000 {
                        let given = f64::from(*given) / 100.0;
                        let reason =
                            format!("{} gives {given} % of their time to teams, more than there is", row.email);
                        self.refuse("members.csv", *line, ("share_percent", reason));
                    }
                }
                Ok(_) => {}
            }
        }
        if let Some((id, how)) = rules::nesting(touched.values().map(|team| (team.id, team.parent))) {
            let line = touched.get(&id).map_or(0, |team| line_of(&data.teams, |row| row.code == team.code));
            self.refuse("teams.csv", line, ("parent", nested(how)));
        }
        for team in touched.into_values() {
            let before = self.plan.teams.get(&team.id).map(|team| (**team).clone());
            self.put(before, team, Change::Team);
        }
    }

    /// The team of a row, with the members that stand.
    fn team(&self, row: &TeamRow) -> Result<Team, Wrong> {
        let before = self.keys.get("team", &row.code).and_then(|id| self.plan.teams.get(&TeamId(id)));
        let team = records::team(&self.keys, row, before.map(|team| team.members.clone()).unwrap_or_default())?;
        lawful(&self.keys, &Change::Team(Edit::new(team.clone())))?;
        Ok(team)
    }
}
