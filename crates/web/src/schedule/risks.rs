//! Risks on a board by response, and as a grid of probability and impact.

use super::address::{Said, href};
use crate::{
    AppState, Error,
    answer::{self, is_script, refused, safe_back},
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    fit,
    frame::{Flash, Frame, Room},
    offers, words,
};
use askama::Template;
use axum::{
    Form, Json,
    extract::Path,
    http::HeaderMap,
    response::{Html, IntoResponse as _, Redirect, Response as Answer},
};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use snug_core::{
    Command, Day, Plan, ProjectId, Refusal, Role, Tag,
    change::{Change, Edit},
    kinds::{Kind, MOST_RISK, Response, Risk, RiskState},
};

/// Where the board stands.
pub const PATH: &str = "/schedule/risks";

/// What is asked.
#[derive(Clone, Default, Deserialize, Serialize)]
#[serde(default)]
pub struct Params {
    /// Code of a project, with those inside it.
    project: String,
    /// `grid`, where it is seen as one.
    view: String,
    /// `yes`, where closed ones are seen, too.
    closed: String,
}

/// A risk as a slip of the board, or in the grid.
struct Slip {
    id: i32,
    tag: String,
    hue: usize,
    title: String,
    project: String,
    says: String,
    weight: i32,
    overdue: bool,
    response: String,
}

/// A column of the board: its word, its name, what it means, and what is in it.
struct Column {
    word: &'static str,
    name: String,
    means: &'static str,
    slips: Vec<Slip>,
}

/// A cell of the grid: how much it weighs, its words, and what is in it.
struct Cell {
    /// 1 to 5.
    shade: i32,
    label: String,
    slips: Vec<Slip>,
}

#[derive(Template)]
#[template(path = "schedule/risks.html")]
struct RisksPage {
    frame: Frame,
    shown: String,
    is_grid: bool,
    views: [(String, &'static str, bool); 2],
    closed: bool,
    projects: Vec<(String, String, bool)>,
    project: String,
    view: String,
    columns: Vec<Column>,
    /// Rows from all but certain to rare, each with its words.
    grid: Vec<(&'static str, Vec<Cell>)>,
    impacts: [&'static str; 5],
    responses: Vec<&'static str>,
    in_all: usize,
    may_change: bool,
    here: String,
}

/// How likely, from 1 on.
const LIKELY: [&str; 5] = ["rare", "unlikely", "possible", "likely", "all but certain"];
/// How bad, from 1 on.
const BAD: [&str; 5] = ["slight", "minor", "moderate", "major", "severe"];

fn word(list: [&'static str; 5], number: i32) -> &'static str {
    usize::try_from(number - 1).ok().and_then(|at| list.get(at)).copied().unwrap_or("")
}

pub async fn page(Here(state): Here, user: User, Said(params): Said<Params>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, Room::Schedule).await?;
    crate::computed(move || {
        let today = state.today();
        let chosen = plan.find(Kind::Project, &params.project).map(ProjectId);
        let in_view = |risk: &Risk| {
            chosen.is_none_or(|one| plan.project_line(risk.project).any(|above| above.id == one))
                && (params.closed == "yes" || risk.state != RiskState::Closed)
        };
        let mut risks: Vec<&Risk> =
            plan.records.risks.values().map(|risk| &**risk).filter(|risk| in_view(risk)).collect();
        risks.sort_by_key(|risk| (std::cmp::Reverse(risk.weight()), risk.id));
        let may_change = user.books();
        let draw = |risk: &&Risk| slip(&plan, risk, today, may_change);
        let column = |response: Option<Response>| Column {
            word: response.map_or("", |response| response.as_str()),
            name: response.map_or("Not decided".to_owned(), |response| words::capital(response.as_str())),
            means: match response {
                None => "what is done about it is open",
                Some(Response::Avoid) => "plan so that it cannot happen",
                Some(Response::Mitigate) => "make it less likely, or less bad",
                Some(Response::Transfer) => "let somebody else bear it",
                Some(Response::Accept) => "live with it",
            },
            slips: risks.iter().filter(|risk| risk.response == response).map(draw).collect(),
        };
        let cell = |probability: i32, impact: i32| {
            let here = risks.iter().filter(|risk| (risk.probability, risk.impact) == (probability, impact));
            Cell {
                shade: (probability * impact + 4) / 5,
                label: format!("{}, {}", word(LIKELY, probability), word(BAD, impact)),
                slips: here.map(draw).collect(),
            }
        };
        let with = |view: &str| href(PATH, &Params { view: view.to_owned(), ..params.clone() });
        let is_grid = params.view == "grid";
        let page = RisksPage {
            shown: words::count(risks.len(), "risk", "risks"),
            views: [(with(""), "Board", !is_grid), (with("grid"), "Grid", is_grid)],
            columns: std::iter::once(None).chain(Response::ALL.iter().copied().map(Some)).map(column).collect(),
            grid: (1..=MOST_RISK)
                .rev()
                .map(|probability| {
                    (word(LIKELY, probability), (1..=MOST_RISK).map(|impact| cell(probability, impact)).collect())
                })
                .collect(),
            impacts: BAD,
            responses: Response::ALL.iter().map(|response| response.as_str()).collect(),
            projects: offers::projects(&plan, |it| offers::is_open(it) || it.code == params.project)
                .into_iter()
                .map(|it| (it.code.clone(), it.name.clone(), it.code == params.project))
                .collect(),
            in_all: plan.records.risks.len(),
            here: href(PATH, &params),
            project: params.project.clone(),
            view: params.view.clone(),
            closed: params.closed == "yes",
            is_grid,
            may_change,
            frame,
        };
        page.render()
    })
    .await
}

fn slip(plan: &Plan, risk: &Risk, today: Day, may_change: bool) -> Slip {
    let project = plan.records.projects.get(&risk.project).map_or("", |project| project.name.as_str());
    let owner = risk.owner.and_then(|id| plan.people.get(&id)).map(|entry| entry.person.name.clone());
    let due = risk.due.map(|due| format!("by {}", words::day(due, plan.settings.date_order)));
    let work = (!risk.tasks.is_empty()).then(|| words::count(risk.tasks.len(), "task", "tasks"));
    let state = (risk.state != RiskState::Open).then(|| risk.state.to_string());
    let chance = format!("{}, {}", word(LIKELY, risk.probability), word(BAD, risk.impact));
    let says: Vec<String> = std::iter::once(chance).chain(owner).chain(due).chain(work).chain(state).collect();
    Slip {
        id: risk.id.0,
        tag: if may_change { Tag::of(risk).to_string() } else { String::new() },
        hue: fit::hue(plan, risk.project),
        title: risk.title.clone(),
        project: project.to_owned(),
        says: says.join(" · "),
        weight: risk.weight(),
        overdue: risk.is_overdue(today),
        response: risk.response.map(|response| response.to_string()).unwrap_or_default(),
    }
}

/// Gives a risk a response, or none.
pub async fn respond(
    Here(state): Here,
    user: User,
    headers: HeaderMap,
    Path(id): Path<i32>,
    Form(pairs): Form<Pairs>,
) -> Result<Answer, Error> {
    let back = safe_back(sent(&pairs, "back")).to_owned();
    match responded(&state, &user, id, &pairs).await {
        Ok(done) if is_script(&headers) => Ok(Json(done).into_response()),
        Ok(done) => {
            let message = done["message"].as_str().unwrap_or_default().to_owned();
            Flash { undo: true, ..Flash::plain(message) }.leave(&user.session).await?;
            Ok(Redirect::to(&back).into_response())
        }
        Err(error) if is_script(&headers) => Ok(refused(error, &user.eyes(&state.keeper.plan()))),
        Err(error) => Err(error),
    }
}

async fn responded(state: &AppState, user: &User, id: i32, pairs: &Pairs) -> Result<Value, Error> {
    user.at_least(Role::Lead)?;
    let plan = state.keeper.plan();
    let risk: Risk = plan.record_as_seen(sent(pairs, "seen").parse::<Tag>()?)?;
    if risk.id.0 != id {
        return Err(Error::BadRequest("The page does not say which risk is meant.".to_owned()));
    }
    let response = match sent(pairs, "response") {
        "" => None,
        word => Some(
            word.parse().map_err(|_| Refusal::value("response", "Choose one of the responses that are offered."))?,
        ),
    };
    let command = Command::Edit { changes: vec![Change::Risk(Edit::alter(risk.clone(), Risk { response, ..risk }))] };
    let title = command.done(&plan);
    let outcome = answer::carry_out(state, user, command).await?;
    answer::done(state, user, title, &outcome).await
}
