//! What team rows need besides the people's loads: shares, and capacities that were typed.

use super::{PersonCells, groups::Rows};
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
use std::{collections::BTreeMap, sync::Arc};

/// The key of what is left of people's time besides their teams.
pub(super) const NO_TEAM: &str = "(no team)";

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

    /// Adds one person to the rows of their teams, and what is left of them to `(no team)`; to one row only, where one is wanted.
    pub fn add(&self, rows: &mut Rows, buckets: &[Bucket], cells: &PersonCells<'_>, wanted: Option<&str>) {
        let load = &cells.load;
        let id = cells.person.id;
        let shares = self.shares.get(&id).map_or(&[][..], Vec::as_slice);
        let named = load.named();
        let (mut firm, mut all) = (ByDay::default(), ByDay::default());
        if !named.is_empty() {
            (firm, all) = (load.firm.clone(), load.load.clone());
            for (_, minutes) in &named {
                firm.subtract(minutes);
                all.subtract(minutes);
            }
        }
        let mut add = |key: &str, share: i64, wholly: &ByDay| {
            let work = (!named.is_empty()).then_some((&firm, &all, wholly));
            for (cell, bucket) in rows.of(key, true).iter_mut().zip(buckets) {
                cells.add_share(cell, *bucket, share, work);
            }
        };
        let none = ByDay::zeros(load.days.pattern.weeks());
        for (team, inside) in self.inside.iter().filter(|(team, _)| wanted.is_none_or(|key| key == team.code)) {
            let share = shares.iter().find(|(id, _)| *id == team.id).map_or(0, |(_, share)| *share);
            if share == 0 && named.is_empty() {
                continue;
            }
            let mut wholly = none.clone();
            named.iter().filter(|(id, _)| inside.contains(id)).for_each(|(_, minutes)| wholly.add(minutes));
            if share > 0 || wholly.slots().iter().any(|minutes| *minutes > 0) {
                add(&team.code, share, &wholly);
            }
        }
        let given = self.given.get(&id).copied().unwrap_or(0);
        if given < WHOLE && wanted.is_none_or(|key| key == NO_TEAM) {
            add(NO_TEAM, WHOLE - given, &none);
        }
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

    /// The teams of a person that counts go to, by code; `(no team)` for who is in none.
    pub fn codes_of(&self, id: PersonId) -> Vec<String> {
        match self.shares.get(&id) {
            Some(teams) => {
                teams.iter().filter_map(|(id, _)| Some(self.plan.records.teams.get(id)?.code.clone())).collect()
            }
            None => vec![NO_TEAM.to_owned()],
        }
    }

    /// The limits of teams whose capacity was typed, by code.
    pub fn typed_capacities(&self, window: &Window, buckets: &[Bucket]) -> BTreeMap<String, Vec<BigRational>> {
        let limits = |team: &Arc<Team>| Some((team.code.clone(), self.typed_capacity(team, window, buckets)?));
        self.plan.records.teams.values().filter_map(limits).collect()
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
