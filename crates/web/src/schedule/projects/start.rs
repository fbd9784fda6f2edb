//! A project started from a template, on a day, with people who stand for its roles.

use super::deeds::page_of;
use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    frame::{Frame, Room},
    offers, words,
};
use askama::Template;
use axum::{
    Form,
    extract::Query,
    response::{Html, IntoResponse as _, Response},
};
use snug_core::{
    Command, Day, PersonId, Plan, ProjectId, Refusal, Role,
    kinds::{Kind, Project, ProjectStatus, Record as _, TemplateId},
    templates::{roles, rows},
};

/// A role and who stands for it.
struct Stand {
    role: String,
    who: String,
    /// Who has that role already, as offers: address and name.
    offers: Vec<(String, String)>,
}

#[derive(Template)]
#[template(path = "schedule/projects/start.html")]
struct StartPage {
    frame: Frame,
    /// Code, name, how many lines, and whether it is chosen.
    templates: Vec<(String, String, usize, bool)>,
    chosen: Option<String>,
    stands: Vec<Stand>,
    parents: Vec<(String, String, bool)>,
    code: String,
    name: String,
    start: String,
    problem: Option<Refusal>,
}

pub async fn page(Here(state): Here, user: User, Query(pairs): Query<Pairs>) -> Result<Html<String>, Error> {
    Ok(Html(shown(&state, &user, &pairs, None).await?.render()?))
}

async fn shown(state: &AppState, user: &User, pairs: &Pairs, problem: Option<Refusal>) -> Result<StartPage, Error> {
    let plan = state.keeper.plan();
    let template = template_of(&plan, pairs);
    let typed = |field: &str| sent(pairs, field).trim().to_owned();
    let start = typed("start");
    let mut templates: Vec<_> = plan
        .records
        .templates
        .values()
        .map(|it| (it.code.clone(), it.name.clone(), rows(&plan, it.id).len(), Some(it.id) == template))
        .collect();
    templates.sort_by_cached_key(|(_, name, ..)| name.to_lowercase());
    let stands = template.map(|id| roles(&plan, id)).unwrap_or_default();
    let stand = |role: String| {
        let word = role.trim_end_matches(|c: char| c.is_ascii_digit() || c == ' ');
        let people = plan.people.values().map(|entry| &entry.person);
        let own = people.filter(|person| snug_core::craft::is_same(&person.role, word));
        Stand {
            who: typed(&format!("role.{role}")),
            offers: own.map(|person| (person.email.clone(), person.name.clone())).collect(),
            role,
        }
    };
    Ok(StartPage {
        frame: Frame::of(state, user, Room::Schedule).await?,
        chosen: template.and_then(|id| plan.records.templates.get(&id)).map(|it| it.code.clone()),
        templates,
        stands: stands.into_iter().map(stand).collect(),
        parents: offers::projects(&plan, offers::is_open)
            .into_iter()
            .map(|it| (it.code.clone(), it.name.clone(), it.code == typed("parent")))
            .collect(),
        code: typed("code"),
        name: typed("name"),
        start: if start.is_empty() { state.today().to_string() } else { start },
        problem,
    })
}

fn template_of(plan: &Plan, pairs: &Pairs) -> Option<TemplateId> {
    plan.find(Kind::Template, sent(pairs, "template").trim()).map(TemplateId)
}

/// Starts it; where something is wrong the form comes again with what was typed.
pub async fn start(Here(state): Here, user: User, Form(pairs): Form<Pairs>) -> Result<Response, Error> {
    user.at_least(Role::Manager)?;
    let plan = state.keeper.plan();
    let done = match command(&plan, &pairs) {
        Ok(command) => {
            let title = command.done(&plan);
            answer::carry_out(&state, &user, command).await.map(|outcome| (title, outcome))
        }
        Err(refusal) => Err(refusal.into()),
    };
    match done {
        Ok((title, outcome)) => answer::back_to(&user, &page_of(&outcome.changes), title, &outcome).await,
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            let page = shown(&state, &user, &pairs, Some(refusal)).await?;
            Ok((axum::http::StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response())
        }
        Err(error) => Err(error),
    }
}

fn command(plan: &Plan, pairs: &Pairs) -> Result<Command, Refusal> {
    let typed = |field: &str| sent(pairs, field).trim();
    let template = template_of(plan, pairs).ok_or_else(|| Refusal::value("template", "Choose a template."))?;
    let start: Day =
        typed("start").parse().map_err(|error: snug_core::NoDay| Refusal::value("start", error.to_string()))?;
    let parent = match typed("parent") {
        "" => None,
        code => {
            let found = plan.find(Kind::Project, code).map(ProjectId);
            Some(found.ok_or_else(|| Refusal::value("parent", "There is no such project."))?)
        }
    };
    let mut stands: Vec<(String, PersonId)> = Vec::new();
    for role in roles(plan, template) {
        let who = sent(pairs, &format!("role.{role}")).trim();
        if who.is_empty() {
            continue;
        }
        let person = plan.find(Kind::Person, who).map(PersonId);
        let person = person.ok_or_else(|| {
            Refusal::value("roles", format!("{}: there is nobody by the address “{who}”.", words::capital(&role)))
        })?;
        stands.push((role, person));
    }
    let name = typed("name").to_owned();
    let code = if typed("code").is_empty() { words::slug(&name) } else { typed("code").to_owned() };
    let project = Project { code, name, start: Some(start), parent, status: ProjectStatus::Active, ..Project::blank() };
    Ok(Command::StartProject { template, project: Box::new(project), stands })
}
