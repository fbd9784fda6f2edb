//! What team rows need besides the people's loads: shares, and capacities that were typed.

use super::RowKey;
use crate::{
    PersonId, Plan, TeamId,
    availability::Days,
    by_day::ByDay,
    cells::{Bucket, WHOLE},
    demand::Window,
    kinds::Team,
};
use num_bigint::BigInt;
use num_rational::BigRational;
use std::collections::BTreeMap;

/// Who gives which share of their time to which team, inner teams included; a person in several teams of one parent gives that
/// parent the sum, the whole at most. Shares in hundredths of a percent. What is left of a person's whole is not in here.
#[must_use]
pub fn team_shares(plan: &Plan) -> BTreeMap<PersonId, Vec<(TeamId, i64)>> {
    let mut shares: BTreeMap<PersonId, Vec<(TeamId, i64)>> = BTreeMap::new();
    for team in plan.records.teams.values() {
        let members = plan
            .team_and_inner(team.id)
            .into_iter()
            .filter_map(|id| plan.records.teams.get(&id))
            .flat_map(|inner| &inner.members);
        for (person, share) in members {
            let of_person = shares.entry(*person).or_default();
            match of_person.iter_mut().find(|(known, _)| *known == team.id) {
                Some((_, sum)) => *sum = (*sum + i64::from(*share)).min(WHOLE),
                None => of_person.push((team.id, i64::from(*share))),
            }
        }
    }
    shares
}

/// What team rows need besides the people's loads.
pub(super) struct Teams<'a> {
    plan: &'a Plan,
    /// Who gives how much to which team.
    shares: BTreeMap<PersonId, Vec<(TeamId, i64)>>,
    /// How much of their time each person gives to teams in all.
    given: BTreeMap<PersonId, i64>,
    /// Each team with those inside it.
    pub inside: Vec<(&'a Team, Vec<TeamId>)>,
}

impl<'a> Teams<'a> {
    pub fn new(plan: &'a Plan) -> Self {
        let mut given = BTreeMap::new();
        for (id, share) in plan.records.teams.values().flat_map(|team| &team.members) {
            *given.entry(*id).or_insert(0) += i64::from(*share);
        }
        let inside = plan.records.teams.values().map(|team| (&**team, plan.team_and_inner(team.id))).collect();
        Self { plan, shares: team_shares(plan), given, inside }
    }

    /// Whether somebody is in no team at all.
    pub fn misses(&self, id: PersonId) -> bool {
        !self.given.contains_key(&id)
    }

    /// How much of their time somebody gives to a team, or has left besides all of them.
    pub fn share_of(&self, id: PersonId, team: Option<TeamId>) -> i64 {
        match team {
            None => WHOLE - self.given.get(&id).copied().unwrap_or(0).min(WHOLE),
            Some(team) => {
                let shares = self.shares.get(&id).into_iter().flatten();
                shares.filter(|(known, _)| *known == team).map(|(_, share)| share).sum()
            }
        }
    }

    /// The rows that a person's counts go to: those of their teams, or of who is in none.
    pub fn rows_of(&self, id: PersonId) -> Vec<RowKey> {
        match self.shares.get(&id) {
            Some(teams) => teams.iter().map(|(id, _)| RowKey::Team(Some(*id))).collect(),
            None => vec![RowKey::Team(None)],
        }
    }

    /// The limits of a team whose capacity was typed: capacity a week × Σ available / Σ pattern of its members, exact.
    pub fn typed_capacity(&self, team: &Team, window: &Window, buckets: &[Bucket]) -> Option<Vec<BigRational>> {
        let capacity = i64::from(team.week_capacity?);
        let members = self.members(team, window);
        Some(buckets.iter().map(|bucket| capacity_in(capacity, &members, *bucket)).collect())
    }

    fn members(&self, team: &Team, window: &Window) -> Vec<Days> {
        let (first, last) = window.span();
        let mut ids: Vec<PersonId> = self
            .plan
            .team_and_inner(team.id)
            .into_iter()
            .filter_map(|id| self.plan.records.teams.get(&id))
            .flat_map(|inner| &inner.members)
            .map(|(id, _)| *id)
            .collect();
        ids.sort_unstable();
        ids.dedup();
        let people = ids.iter().filter_map(|id| self.plan.people.get(id));
        let days: Vec<Days> = people.map(|entry| Days::of(self.plan, entry, first, last)).collect();
        if days.is_empty() { vec![Days::of_workspace(&self.plan.settings, first, last)] } else { days }
    }
}

/// A weekly capacity over a bucket: for each week, × available minutes of the bucket's days / pattern minutes of the whole week.
fn capacity_in(capacity: i64, members: &[Days], bucket: Bucket) -> BigRational {
    let mut exact = BigRational::from(BigInt::from(0));
    let mut start = bucket.from;
    while start <= bucket.to {
        let monday = start.monday();
        let end = (monday + 6).min(bucket.to);
        let sum = |of: fn(&Days) -> &ByDay, from, to| -> i64 {
            members.iter().map(|days| of(days).sum(days.indexes(from, to))).sum()
        };
        let pattern = sum(|days| &days.pattern, monday, monday + 6);
        if pattern > 0 {
            let minutes = capacity * sum(|days| &days.available, start, end);
            exact += BigRational::new(minutes.into(), pattern.into());
        }
        start = end + 1;
    }
    exact
}
