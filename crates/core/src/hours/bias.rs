//! By how much estimates are wrong: what finished work took against what was thought, by kind, team and person.

use super::pieces::{Log, Piece, all_pieces};
use crate::{PersonId, Plan, TeamId, words::words};
use std::collections::{BTreeMap, BTreeSet};

/// By what finished work is told apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Of {
    /// The kind of work.
    Kind,
    /// The team that a task names, else each of its people's, outer ones too.
    Team,
    /// Who it was given to: their part of the estimate, and what they logged themselves.
    Person,
}

words!(Of { Kind = "kind", Team = "team", Person = "person" });

/// What a row is about.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Key {
    /// A kind of work; empty for none.
    Kind(String),
    /// A team; `None` for work of none.
    Team(Option<TeamId>),
    /// A person; `None` for work of nobody.
    Person(Option<PersonId>),
}

impl Key {
    /// The key under which the row stands in tables.
    #[must_use]
    pub fn text(&self, plan: &Plan) -> String {
        let found = match self {
            Self::Kind(word) if word.is_empty() => "(no kind)",
            Self::Kind(word) => word,
            Self::Team(id) => id.and_then(|id| plan.records.teams.get(&id)).map_or("(no team)", |team| &team.code),
            Self::Person(id) => id.and_then(|id| plan.people.get(&id)).map_or("(nobody)", |entry| &entry.person.email),
        };
        found.to_owned()
    }
}

/// A number as a fraction of whole numbers; the lower one is above 0.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Ratio(pub i128, pub i128);

impl Ratio {
    /// With so many digits after the point, half up.
    #[must_use]
    pub fn text(self, digits: u32) -> String {
        let scale = 10_i128.pow(digits);
        let scaled = (2 * self.0 * scale + self.1).div_euclid(2 * self.1);
        let mut number = rust_decimal::Decimal::from_i128_with_scale(scaled, digits);
        number.rescale(digits);
        number.to_string()
    }
}

/// What finished work of one row took against what was thought.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Bias {
    /// Estimate and actual of each finished leaf in minutes, both above 0, the smallest actual / estimate first.
    pairs: Vec<(i64, i64)>,
}

/// From so many finished tasks on a hint is given.
const ENOUGH: usize = 5;

impl Bias {
    /// How many tasks it is made of.
    #[must_use]
    pub fn tasks(&self) -> usize {
        self.pairs.len()
    }

    /// Σ E in minutes.
    #[must_use]
    pub fn estimate(&self) -> i64 {
        self.pairs.iter().map(|(estimate, _)| estimate).sum()
    }

    /// Σ A in minutes.
    #[must_use]
    pub fn actual(&self) -> i64 {
        self.pairs.iter().map(|(_, actual)| actual).sum()
    }

    /// Σ A / Σ E.
    #[must_use]
    pub fn ratio(&self) -> Ratio {
        Ratio(self.actual().into(), i128::from(self.estimate()).max(1))
    }

    /// The quartile of A / E after so many fourths of the tasks: linear between ranks, at 1 + (n − 1) × fourths / 4.
    #[must_use]
    pub fn quartile(&self, fourths: usize) -> Ratio {
        let Some(last) = self.pairs.len().checked_sub(1) else { return Ratio(0, 1) };
        let (whole, part) = (last * fourths / 4, last * fourths % 4);
        let (below, above) = (self.pairs[whole], self.pairs[(whole + 1).min(last)]);
        // below + (above − below) × part / 4, on one denominator.
        let [(e, a), (f, b)] = [below, above].map(|(estimate, actual)| (i128::from(estimate), i128::from(actual)));
        let part = i128::try_from(part).unwrap_or(0);
        Ratio(4 * a * f + (b * e - a * f) * part, 4 * e * f)
    }

    /// What an estimate becomes when it is corrected by what work of its kind took, in minutes, half up; `None` where too few tasks
    /// tell, or it would stay as it is.
    #[must_use]
    pub fn corrected(&self, estimate: i64) -> Option<i64> {
        if self.tasks() < ENOUGH || estimate <= 0 {
            return None;
        }
        let exact = 2 * i128::from(estimate) * i128::from(self.actual()) + i128::from(self.estimate());
        let corrected = i64::try_from(exact / (2 * i128::from(self.estimate()))).ok()?;
        (corrected != estimate && corrected > 0).then_some(corrected)
    }

    /// “work of this kind took 1.4 times what was thought (0.9 to 1.8, 12 tasks)”; `None` where too few tasks tell.
    #[must_use]
    pub fn says(&self) -> Option<String> {
        let (ratio, low, high) = (self.ratio().text(1), self.quartile(1).text(1), self.quartile(3).text(1));
        let told =
            format!("work of this kind took {ratio} times what was thought ({low} to {high}, {} tasks)", self.tasks());
        (self.tasks() >= ENOUGH).then_some(told)
    }

    fn sorted(mut self) -> Self {
        self.pairs.sort_by(|a, b| (i128::from(a.1) * i128::from(b.0)).cmp(&(i128::from(b.1) * i128::from(a.0))));
        self
    }
}

/// The rows, in the order of their keys: those with a finished leaf whose estimate and log are both above 0.
#[must_use]
pub fn table(plan: &Plan, of: Of) -> BTreeMap<Key, Bias> {
    let log = Log::All(plan);
    let mut teams: BTreeMap<PersonId, BTreeSet<TeamId>> = BTreeMap::new();
    if of == Of::Team {
        for team in plan.records.teams.values() {
            for (person, _) in &team.members {
                teams.entry(*person).or_default().extend(plan.team_line(team.id).map(|team| team.id));
            }
        }
    }
    let mut found: BTreeMap<Key, Bias> = BTreeMap::new();
    all_pieces(plan, &log, &mut |piece| {
        if piece.is_leaf && piece.task.is_done() {
            for (key, pair) in pairs(plan, of, piece, &teams) {
                if pair.0 > 0 && pair.1 > 0 {
                    found.entry(key).or_default().pairs.push(pair);
                }
            }
        }
    });
    found.into_iter().map(|(key, bias)| (key, bias.sorted())).collect()
}

/// In which rows a finished leaf counts, with which estimate and log.
fn pairs(
    plan: &Plan,
    of: Of,
    piece: &Piece<'_>,
    teams: &BTreeMap<PersonId, BTreeSet<TeamId>>,
) -> Vec<(Key, (i64, i64))> {
    let whole = (piece.estimate.unwrap_or(0), piece.actual());
    match of {
        Of::Kind => vec![(Key::Kind(piece.task.kind.clone()), whole)],
        Of::Person => {
            let parts = piece.parts(plan).into_iter();
            parts.map(|(person, part)| (Key::Person(person), (part.estimate, part.actual))).collect()
        }
        Of::Team => {
            let named: BTreeSet<TeamId> = match piece.task.team {
                Some(team) => plan.team_line(team).map(|team| team.id).collect(),
                None => piece.task.assignees.people().filter_map(|it| teams.get(&it)).flatten().copied().collect(),
            };
            if named.is_empty() {
                return vec![(Key::Team(None), whole)];
            }
            named.into_iter().map(|team| (Key::Team(Some(team)), whole)).collect()
        }
    }
}
