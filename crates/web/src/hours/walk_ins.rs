//! Walk-ins of a team: what they took sprint by sprint and week by week, who asked, and what is held back for them.

use super::Vessel;
use crate::{
    Error,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{extract::Query, response::Html};
use serde::Deserialize;
use snug_core::{
    Day, Plan, TeamId,
    hours::walk_ins::{Taken, WalkIns},
    kinds::{Kind, Project, Sprint, SprintId, Team},
};
use std::{collections::BTreeMap, sync::Arc};

/// Of which team.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    team: String,
}

/// Some days, and what walk-ins took in them.
struct Period {
    name: String,
    days: String,
    vessel: Vessel,
    took: String,
    says: String,
}

#[derive(Template)]
#[template(path = "hours/walk_ins.html")]
struct WalkInsPage {
    frame: Frame,
    teams: Vec<(String, String)>,
    team: String,
    name: String,
    sprints: Vec<Period>,
    weeks: Vec<Period>,
    /// Who asked and how many hours that took in these weeks, the most first; so the stages, so the tasks with their address.
    requesters: Vec<(String, String)>,
    stages: Vec<(String, String)>,
    tasks: Vec<(String, String, String)>,
    /// What was booked and not worked for them, by project.
    displaced: Vec<(String, String, String)>,
    /// How what is held back comes about, a sentence each.
    reserve: Vec<String>,
    is_held: bool,
}

/// So many weeks are looked at, this one included, and so many finished sprints.
const WEEKS: i32 = 12;
const SPRINTS: usize = 6;
const MOST: usize = 12;

/// `6 h for the Station museum, 2 h for nobody in particular`.
fn who_asked(taken: &Taken) -> String {
    let mut all: Vec<(&String, &i64)> = taken.by_requester.iter().collect();
    all.sort_by_key(|(name, minutes)| (std::cmp::Reverse(**minutes), (*name).clone()));
    let name = |name: &str| if name.is_empty() { "nobody in particular".to_owned() } else { name.to_owned() };
    let parts: Vec<String> =
        all.iter().take(3).map(|(who, minutes)| format!("{} for {}", words::hours(**minutes), name(who))).collect();
    parts.join(", ")
}

fn ranked(sums: &BTreeMap<String, i64>, none: &str) -> Vec<(String, String)> {
    let mut all: Vec<(&String, &i64)> = sums.iter().collect();
    all.sort_by_key(|(name, minutes)| (std::cmp::Reverse(**minutes), (*name).clone()));
    let name = |name: &str| if name.is_empty() { none.to_owned() } else { name.to_owned() };
    all.into_iter().take(MOST).map(|(word, minutes)| (name(word), words::hours(*minutes))).collect()
}

/// The rows of some periods, drawn on one scale.
fn periods(plan: &Plan, of: &WalkIns<'_>, days: &[(String, Day, Day)]) -> Vec<Period> {
    let taken: Vec<Taken> = days.iter().map(|(_, from, to)| of.taken(*from, *to)).collect();
    let most = taken.iter().map(|it| it.minutes).max().unwrap_or(0);
    let period = |((name, from, to), taken): (&(String, Day, Day), &Taken)| Period {
        name: name.clone(),
        days: words::range(*from, *to, plan.settings.date_order),
        vessel: Vessel::filled(None, taken.minutes, 0, most),
        took: words::hours(taken.minutes),
        says: who_asked(taken),
    };
    days.iter().zip(&taken).map(period).collect()
}

/// How what is held back of a period comes about.
fn explained(plan: &Plan, of: &WalkIns<'_>, period: (&str, Day, Day), today: Day) -> Vec<String> {
    let reserve = of.reserve(period.1, period.2, today);
    if reserve.sprints.is_empty() {
        return vec!["No sprint of this team is finished yet, so nothing is held back.".to_owned()];
    }
    let name = |id: SprintId| plan.records.sprints.get(&id).map(|it: &Arc<Sprint>| it.name.clone()).unwrap_or_default();
    let three: Vec<String> =
        reserve.sprints.iter().map(|(id, took, _)| format!("{} in {}", words::hours(*took), name(*id))).collect();
    let had: Vec<String> = reserve.sprints.iter().map(|(_, _, had)| words::hours(*had)).collect();
    let mut says = vec![
        format!("Walk-ins took {}: {} in the mean.", three.join(", "), words::hours(reserve.mean)),
        format!(
            "The team had {} available in them, and has {} in {} from today on.",
            had.join(", "),
            words::hours(reserve.available),
            period.0
        ),
    ];
    says.extend(reserve.running.map(|it| {
        format!(
            "In that proportion {} are held back of {}; walk-ins took {} of them, and {} of open ones remain.",
            words::hours(it.whole),
            name(it.sprint),
            words::hours(it.taken),
            words::hours(it.open)
        )
    }));
    let of = if reserve.running.is_some() { "So" } else { "In that proportion" };
    says.push(format!("{of} {} are held back.", words::hours(reserve.minutes)));
    says
}

/// The page.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let today = state.today();
    let frame = Frame::of(&state, &user, Room::Hours).await?;
    crate::computed(move || made(&plan, frame, &asked, today).render()).await
}

fn made(plan: &Plan, frame: Frame, asked: &Asked, today: Day) -> WalkInsPage {
    let mut teams: Vec<&Arc<Team>> = plan.records.teams.values().collect();
    teams.sort_by_key(|team| team.name.to_lowercase());
    let has_sprints = |team: &&&Arc<Team>| plan.records.sprints.values().any(|sprint| sprint.team == team.id);
    let named = plan.find(Kind::Team, &asked.team).and_then(|id| plan.records.teams.get(&TeamId(id)));
    let team = named.or_else(|| teams.iter().find(has_sprints).or(teams.first()).copied());
    let monday = today.monday();
    let weeks: Vec<(String, Day, Day)> = (0..WEEKS)
        .map(|back| monday - 7 * back)
        .map(|first| (format!("Week {}", chrono::Datelike::iso_week(&first.date()).week()), first, first + 6))
        .collect();
    let mut page = WalkInsPage {
        frame,
        teams: teams.iter().map(|team| (team.code.clone(), team.name.clone())).collect(),
        team: team.map(|team| team.code.clone()).unwrap_or_default(),
        name: team.map(|team| team.name.clone()).unwrap_or_default(),
        sprints: Vec::new(),
        weeks: Vec::new(),
        requesters: Vec::new(),
        stages: Vec::new(),
        tasks: Vec::new(),
        displaced: Vec::new(),
        reserve: Vec::new(),
        is_held: team.is_some_and(|team| team.walk_in_reserve),
    };
    let Some(team) = team else { return page };
    let of = WalkIns::of(plan, team.id);
    let running = of.running();
    let sprints = running.into_iter().chain(of.finished().into_iter().take(SPRINTS));
    let sprints: Vec<_> = sprints.map(|it| (it.name.clone(), it.start, it.finish)).collect();
    let all = of.taken(monday - 7 * (WEEKS - 1), today);
    let mut tasks: Vec<_> = all.by_task.iter().filter_map(|(id, it)| Some((plan.tasks.get(id)?, *it))).collect();
    tasks.sort_by_key(|(task, minutes)| (std::cmp::Reverse(*minutes), task.id));
    let row = |(task, minutes): (&Arc<snug_core::kinds::Task>, i64)| {
        (task.title.clone(), format!("/tasks/{}", task.id), words::hours(minutes))
    };
    page.tasks = tasks.into_iter().take(MOST).map(row).collect();
    let displaced = of.displaced(monday - 7 * (WEEKS - 1), today, today);
    let mut displaced: Vec<_> =
        displaced.iter().filter_map(|(id, it)| Some((plan.records.projects.get(id)?, *it))).collect();
    displaced.sort_by_key(|(project, minutes)| (std::cmp::Reverse(*minutes), project.id));
    let row = |(project, minutes): (&Arc<Project>, i64)| {
        (project.name.clone(), format!("/projects/{}", project.id), words::hours(minutes))
    };
    page.displaced = displaced.into_iter().take(MOST).map(row).collect();
    page.reserve = match running {
        Some(sprint) => explained(plan, &of, (&sprint.name, sprint.start, sprint.finish), today),
        None => explained(plan, &of, ("this week", monday, monday + 6), today),
    };
    page.sprints = periods(plan, &of, &sprints);
    page.weeks = periods(plan, &of, &weeks);
    page.requesters = ranked(&all.by_requester, "Nobody in particular");
    page.stages = ranked(&all.by_stage, "No stage");
    page
}
