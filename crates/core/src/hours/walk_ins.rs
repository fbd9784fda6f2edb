//! Walk-ins: what unplanned work took of a team, sprint by sprint and week by week, and how much is held back for it (`rules/queue.md`).

use super::{
    earned,
    sum::Minutes,
    worked::{self, Meant},
};
use crate::{
    Day, PersonId, Plan, ProjectId, TaskId, TeamId,
    availability::Days,
    cells::WHOLE,
    demand::left_of,
    kinds::{Sprint, SprintId, SprintState, Task},
    load::team_shares,
    plan::LogRow,
    spread::largest_remainder,
};
use num_rational::BigRational;
use std::collections::{BTreeMap, BTreeSet};

/// A team as walk-ins look at it: who gives it how much, and which teams are inside it.
#[derive(Debug)]
pub struct WalkIns<'p> {
    plan: &'p Plan,
    team: TeamId,
    inside: BTreeSet<TeamId>,
    /// Shares in hundredths of a percent.
    shares: BTreeMap<PersonId, i64>,
}

/// What walk-ins took of a team in some days, in minutes, each figure rounded half up by itself.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Taken {
    /// In all.
    pub minutes: i64,
    /// By who asked; an empty name where nobody said.
    pub by_requester: BTreeMap<String, i64>,
    /// By the stage that the task stands in today.
    pub by_stage: BTreeMap<String, i64>,
    /// By task.
    pub by_task: BTreeMap<TaskId, i64>,
}

/// What is held back for walk-ins, and of what that is made.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Reserve {
    /// The finished sprints, the last one first: walk-in minutes, and minutes that the team had available.
    pub sprints: Vec<(SprintId, i64, i64)>,
    /// The mean of their walk-ins, in minutes, half up.
    pub mean: i64,
    /// What the team has available on the days of the period from today on, in minutes, half up.
    pub available: i64,
    /// What is held back of them, in minutes.
    pub minutes: i64,
    /// Of the sprint that runs on some of these days.
    pub running: Option<Running>,
}

/// What is held back of a sprint that runs: what walk-ins of it took already, and what is left of open ones, is held back no more.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Running {
    /// The sprint.
    pub sprint: SprintId,
    /// What is held back of all its days, in minutes, half up.
    pub whole: i64,
    /// What walk-ins took on its days, in minutes, half up.
    pub taken: i64,
    /// What remains of open walk-ins that are planned in it, in minutes.
    pub open: i64,
}

/// So many finished sprints are looked at.
const SPRINTS: usize = 3;

impl<'p> WalkIns<'p> {
    /// Of one team.
    #[must_use]
    pub fn of(plan: &'p Plan, team: TeamId) -> Self {
        let share = |(person, shares): (PersonId, Vec<(TeamId, i64)>)| {
            let own = shares.into_iter().find(|(id, _)| *id == team)?;
            Some((person, own.1.min(WHOLE)))
        };
        let shares = team_shares(plan).into_iter().filter_map(share).collect();
        Self { plan, team, inside: plan.team_and_inner(team).into_iter().collect(), shares }
    }

    /// What a team has of an entry: the member's share; all of it on a task that names the team or one inside it, nothing on one that
    /// names another.
    fn part(&self, person: PersonId, row: &LogRow, task: &Task) -> Minutes {
        let minutes = i64::from(row.minutes);
        match task.team {
            Some(team) if self.inside.contains(&team) => Minutes::whole(minutes),
            Some(_) => Minutes::default(),
            None => Minutes::share(minutes, self.shares.get(&person).copied().unwrap_or(0)),
        }
    }

    /// Shows each piece of work on walk-ins from a day to another one by members of the team, with what the team has of it.
    fn each(&self, from: Day, to: Day, see: &mut dyn FnMut(PersonId, Day, &Task, Minutes)) {
        for person in self.shares.keys().copied() {
            for row in self.plan.log_of(person, from, to) {
                let task = row.task.and_then(|id| self.plan.tasks.get(&id));
                if let Some(task) = task.filter(|task| task.walk_in) {
                    see(person, row.date, task, self.part(person, row, task));
                }
            }
        }
    }

    fn sum(&self, from: Day, to: Day) -> Minutes {
        let mut sum = Minutes::default();
        self.each(from, to, &mut |_, _, _, part| sum += part);
        sum
    }

    /// What walk-ins took from a day to another one, by members of the team.
    #[must_use]
    pub fn taken(&self, from: Day, to: Day) -> Taken {
        let mut all = Minutes::default();
        let mut by_requester: BTreeMap<String, Minutes> = BTreeMap::new();
        let mut by_stage: BTreeMap<String, Minutes> = BTreeMap::new();
        let mut by_task: BTreeMap<TaskId, Minutes> = BTreeMap::new();
        self.each(from, to, &mut |_, _, task, part| {
            all += part;
            *by_requester.entry(task.requester.clone()).or_default() += part;
            *by_stage.entry(task.stage.clone()).or_default() += part;
            *by_task.entry(task.id).or_default() += part;
        });
        Taken {
            minutes: all.rounded(),
            by_requester: rounded(by_requester),
            by_stage: rounded(by_stage),
            by_task: rounded(by_task),
        }
    }

    /// What walk-ins displaced in the weeks from a day to another one, by project, in minutes: of each member and week, the hours that were
    /// booked on other work and not worked, as far as that member's walk-ins of the week reach, in proportion.
    #[must_use]
    pub fn displaced(&self, from: Day, to: Day, today: Day) -> BTreeMap<ProjectId, i64> {
        let mut walk_ins: BTreeMap<PersonId, BTreeMap<Day, Minutes>> = BTreeMap::new();
        self.each(from, to, &mut |person, date, _, part| {
            *walk_ins.entry(person).or_default().entry(date.monday()).or_default() += part;
        });
        let mut found = BTreeMap::new();
        for (person, weeks) in walk_ins {
            let Some(entry) = self.plan.people.get(&person) else { continue };
            let meant = Meant::for_one(self.plan, entry);
            for (monday, walk_ins) in weeks {
                let rows = worked::of_person(self.plan, &meant, entry, (monday, monday + 6), today);
                let left: Vec<(ProjectId, i64)> =
                    rows.iter().filter_map(|(project, it)| Some(((*project)?, it.unworked()))).collect();
                let weights: Vec<i64> = left.iter().map(|(_, minutes)| *minutes).collect();
                let reach = walk_ins.rounded().min(weights.iter().sum());
                let parts = largest_remainder(reach.max(0), &weights).unwrap_or_default();
                for ((project, _), minutes) in left.iter().zip(parts).filter(|(_, minutes)| *minutes > 0) {
                    *found.entry(*project).or_insert(0) += minutes;
                }
            }
        }
        found
    }

    /// The team's finished sprints, the last one first: by their last day, then by code.
    #[must_use]
    pub fn finished(&self) -> Vec<&'p Sprint> {
        let sprints = self.plan.records.sprints.values().map(|sprint| &**sprint);
        let mut found: Vec<&Sprint> =
            sprints.filter(|it| it.team == self.team && it.state == SprintState::Finished).collect();
        found.sort_by(|a, b| (b.finish, &b.code).cmp(&(a.finish, &a.code)));
        found
    }

    /// Σ share × available minutes of its members, in ten-thousandths of a minute.
    fn available(&self, from: Day, to: Day) -> i128 {
        if from > to {
            return 0;
        }
        let of_one = |(person, share): (&PersonId, &i64)| {
            let days = Days::of(self.plan, self.plan.people.get(person)?, from, to);
            Some(i128::from(days.available.sum(days.indexes(from, to))) * i128::from(*share))
        };
        self.shares.iter().filter_map(of_one).sum()
    }

    /// The sprint of the team that runs.
    #[must_use]
    pub fn running(&self) -> Option<&'p Sprint> {
        let sprints = self.plan.records.sprints.values().map(|sprint| &**sprint);
        let running = sprints.filter(|it| it.team == self.team && it.state == SprintState::Running);
        running.min_by_key(|it| (it.start, &it.code))
    }

    /// What remains of walk-ins that are planned in a sprint and not done, in minutes of everyone.
    fn open_in(&self, sprint: SprintId) -> i64 {
        let tasks = self.plan.tasks.values().filter(|task| task.walk_in && task.sprint == Some(sprint));
        tasks.filter_map(|task| left_of(self.plan, task)).sum()
    }

    /// What is held back on the days of a period from today on: the mean of the last three finished sprints, in the proportion of what the
    /// team has available. Days of a sprint that runs share what is left of that sprint's.
    #[must_use]
    pub fn reserve(&self, from: Day, to: Day, today: Day) -> Reserve {
        let minutes = |sum: BigRational| earned::rounded(&(sum / ratio(WHOLE.into(), 1)));
        let looked_at: Vec<&Sprint> = self.finished().into_iter().take(SPRINTS).collect();
        let taken: Vec<Minutes> = looked_at.iter().map(|it| self.sum(it.start, it.finish)).collect();
        let available: Vec<i128> = looked_at.iter().map(|it| self.available(it.start, it.finish)).collect();
        let first = from.max(today);
        let here = self.available(first, to);
        let (sum, had): (i128, i128) = (taken.iter().map(|it| i128::from(it.exact())).sum(), available.iter().sum());
        let count = i128::try_from(looked_at.len()).unwrap_or(1).max(1);
        // Both means are over the same sprints, so that their number falls out of the proportion; of nothing there is none.
        let held_of = |available: i128| if had > 0 { ratio(sum * available, had) } else { ratio(0, 1) };
        let (mut held, mut running) = (held_of(here), None);
        if let Some(sprint) = self.running().filter(|it| it.start <= to && it.finish >= first) {
            let ahead = self.available(sprint.start.max(today), sprint.finish);
            let shared = self.available(sprint.start.max(first), sprint.finish.min(to));
            let of_all = held_of(self.available(sprint.start, sprint.finish));
            let (taken, open) = (self.sum(sprint.start, sprint.finish), self.open_in(sprint.id));
            let used = ratio(i128::from(taken.exact()) + i128::from(open) * i128::from(WHOLE), 1);
            let left = (of_all.clone() - used).max(ratio(0, 1));
            held += left * ratio(shared, ahead.max(1)) - held_of(shared);
            running = Some(Running { sprint: sprint.id, whole: minutes(of_all), taken: taken.rounded(), open });
        }
        let sprints = looked_at.iter().zip(&taken).zip(&available);
        Reserve {
            mean: minutes(ratio(sum, count)),
            available: minutes(ratio(here, 1)),
            minutes: minutes(held),
            running,
            sprints: sprints.map(|((it, taken), had)| (it.id, taken.rounded(), minutes(ratio(*had, 1)))).collect(),
        }
    }
}

fn ratio(of: i128, by: i128) -> BigRational {
    BigRational::new(of.into(), by.into())
}

/// Sums half up to minutes; those that come to nothing are left out.
fn rounded<K: Ord>(sums: BTreeMap<K, Minutes>) -> BTreeMap<K, i64> {
    let rounded = sums.into_iter().map(|(key, sum)| (key, sum.rounded()));
    rounded.filter(|(_, minutes)| *minutes != 0).collect()
}
