//! The rows of estimate against actual as they are summed up, piece by piece.

use super::{
    actuals::{Actuals, By, Key},
    filter::Counts,
    pieces::{Part, Piece},
};
use crate::{PersonId, Plan, ProjectId, TeamId, cells::WHOLE, load::team_shares};
use std::collections::{BTreeMap, BTreeSet};

/// Rows being summed up.
pub(super) struct Rows<'p> {
    plan: &'p Plan,
    by: By,
    counts: &'p Counts<'p>,
    /// Who gives how much to which team; of `None` what is left.
    shares: BTreeMap<PersonId, Vec<(Option<TeamId>, i64)>>,
    pub found: BTreeMap<Key, Actuals>,
}

impl<'p> Rows<'p> {
    pub fn new(plan: &'p Plan, by: By, counts: &'p Counts<'p>) -> Self {
        let mut shares = BTreeMap::new();
        if by == By::Team {
            shares = shares_with_rest(plan);
        }
        Self { plan, by, counts, shares, found: BTreeMap::new() }
    }

    fn add(&mut self, key: Key, figures: &Actuals) {
        self.found.entry(key).or_default().add(figures);
    }

    /// Everybody's parts of a piece that count.
    fn parts(&self, piece: &Piece<'_>) -> Vec<(Option<PersonId>, Part)> {
        let mut parts = piece.parts(self.plan);
        if !self.counts.is_whole(Some(piece.task)) {
            parts.retain(|(who, _)| who.is_some_and(|person| self.counts.of_person(Some(piece.task), person)));
        }
        parts
    }

    /// What of a piece counts, as a whole.
    fn whole(&self, piece: &Piece<'_>) -> Actuals {
        if self.counts.is_whole(Some(piece.task)) {
            return Actuals::of_piece(piece);
        }
        let mut sum = Actuals::default();
        self.parts(piece).iter().for_each(|(_, part)| sum.add(&Actuals::of_part(piece, part, WHOLE)));
        sum.without_estimate = sum.without_estimate.min(1);
        sum
    }

    /// Takes in what of a piece of work counts.
    pub fn take_piece(&mut self, piece: &Piece<'_>) {
        let task = piece.task;
        let people = || task.assignees.people().chain(piece.log.iter().map(|logged| logged.person));
        if !self.counts.take(Some(task), Some(task.project), people()) {
            return;
        }
        match self.by {
            By::Person | By::Role => {
                let parts = self.parts(piece).into_iter();
                self.add_parts(piece, parts.map(|(person, part)| (self.key_of(person), part, WHOLE)).collect());
            }
            By::Team => self.take_of_teams(piece),
            By::Task => {
                let figures = self.whole(piece);
                let line = std::iter::successors(Some(task.id), |id| self.plan.tasks.get(id)?.parent);
                line.for_each(|id| self.found.entry(Key::Task(Some(id))).or_default().add(&figures));
            }
            By::Project => self.add_to_projects(Some(task.project), &self.whole(piece)),
            By::Kind => self.add(Key::Kind(task.kind.clone()), &self.whole(piece)),
            By::Tag if task.tags.is_empty() => self.add(Key::Tag(String::new()), &self.whole(piece)),
            By::Tag => {
                let tags: BTreeSet<&String> = task.tags.iter().collect();
                for tag in tags {
                    self.add(Key::Tag(tag.clone()), &self.whole(piece));
                }
            }
            By::Level => self.add(self.level(Some(task.project)), &self.whole(piece)),
        }
    }

    /// All of a task that names a team, in its row and those of the teams that it is in; else what its people have × share.
    fn take_of_teams(&mut self, piece: &Piece<'_>) {
        if let Some(team) = piece.task.team {
            let figures = self.whole(piece);
            let line = self.plan.team_line(team);
            line.for_each(|team| self.found.entry(Key::Team(Some(team.id))).or_default().add(&figures));
            return;
        }
        let mut parts = Vec::new();
        for (person, part) in self.parts(piece) {
            parts.extend(self.shares_of(person).into_iter().map(|(team, share)| (Key::Team(team), part, share)));
        }
        self.add_parts(piece, parts);
    }

    /// Adds shares of people's parts to rows. However many people of a row have a part in it, it is one task.
    fn add_parts(&mut self, piece: &Piece<'_>, parts: Vec<(Key, Part, i64)>) {
        let mut of_rows: BTreeMap<Key, Actuals> = BTreeMap::new();
        for (key, part, share) in parts {
            of_rows.entry(key).or_default().add(&Actuals::of_part(piece, &part, share));
        }
        for (key, mut figures) in of_rows {
            figures.without_estimate = figures.without_estimate.min(1);
            self.add(key, &figures);
        }
    }

    /// Takes in what somebody logged on no task.
    pub fn take_apart(&mut self, project: Option<ProjectId>, person: PersonId, minutes: i64) {
        let figures = Actuals::apart(minutes, WHOLE);
        match self.by {
            By::Task => self.add(Key::Task(None), &figures),
            By::Project => self.add_to_projects(project, &figures),
            By::Person | By::Role => self.add(self.key_of(Some(person)), &figures),
            By::Team => {
                for (team, share) in self.shares_of(Some(person)) {
                    self.add(Key::Team(team), &Actuals::apart(minutes, share));
                }
            }
            By::Kind => self.add(Key::Kind(String::new()), &figures),
            By::Tag => self.add(Key::Tag(String::new()), &figures),
            By::Level => self.add(self.level(project), &figures),
        }
    }

    fn add_to_projects(&mut self, project: Option<ProjectId>, figures: &Actuals) {
        match project {
            None => self.add(Key::Project(None), figures),
            Some(id) => {
                let line = self.plan.project_line(id);
                line.for_each(|above| self.found.entry(Key::Project(Some(above.id))).or_default().add(figures));
            }
        }
    }

    fn level(&self, project: Option<ProjectId>) -> Key {
        Key::Level(project.map(|id| self.plan.project_line(id).count().saturating_sub(1)))
    }

    fn key_of(&self, person: Option<PersonId>) -> Key {
        if self.by == By::Person {
            return Key::Person(person);
        }
        let role = person.and_then(|id| self.plan.people.get(&id)).map(|entry| &entry.person.role);
        Key::Role(role.map_or_else(String::new, |role| self.plan.spellings().role(role)))
    }

    fn shares_of(&self, person: Option<PersonId>) -> Vec<(Option<TeamId>, i64)> {
        person.and_then(|person| self.shares.get(&person)).cloned().unwrap_or_else(|| vec![(None, WHOLE)])
    }
}

/// What everybody gives to each team, outer ones too, and what is left of their whole besides all of them.
fn shares_with_rest(plan: &Plan) -> BTreeMap<PersonId, Vec<(Option<TeamId>, i64)>> {
    let given = crate::rules::given(plan);
    let with_rest = |(person, shares): (PersonId, Vec<(TeamId, i64)>)| {
        let rest = WHOLE - i64::from(given.get(&person).copied().unwrap_or(0));
        let shares = shares.into_iter().map(|(team, share)| (Some(team), share)).chain([(None, rest)]);
        (person, shares.filter(|(_, share)| *share > 0).collect())
    };
    team_shares(plan).into_iter().map(with_rest).collect()
}
