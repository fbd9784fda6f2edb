//! Pages of notes of a project, in Markdown; the first line of a page is its title.

use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    frame::{Frame, Room},
    markdown,
};
use askama::Template;
use axum::{
    Form,
    extract::Path,
    http::StatusCode,
    response::{Html, IntoResponse as _, Response},
};
use snug_core::{
    Command, ProjectId, Role,
    change::{Change, Edit},
    text::{Text, TextId, TextOn, TextSlot},
};

#[derive(Template)]
#[template(path = "schedule/projects/note.html")]
struct NotePage {
    frame: Frame,
    project: String,
    back: String,
    action: String,
    title: String,
    html: String,
    body: String,
    seen: String,
    problem: Option<String>,
    /// What stands, where somebody else was quicker.
    theirs: Option<String>,
    is_new: bool,
    may_change: bool,
}

/// What a page shows of a note, or of none yet.
async fn shown(state: &AppState, user: &User, id: i32, note: Option<&Text>) -> Result<NotePage, Error> {
    let plan = state.keeper.plan();
    let project = plan.records.projects.get(&ProjectId(id)).ok_or(Error::NotFound)?;
    let back = format!("{}/{id}", super::PATH);
    Ok(NotePage {
        frame: Frame::of(state, user, Room::Schedule).await?,
        project: project.name.clone(),
        action: note.map_or_else(|| format!("{back}/notes"), |note| format!("{back}/notes/{}", note.id)),
        back,
        title: note.map_or_else(|| "A page of notes".to_owned(), Text::title),
        html: note.map(|note| markdown::with_people(&plan, &note.body)).unwrap_or_default(),
        body: note.map(|note| note.body.clone()).unwrap_or_default(),
        seen: note.and_then(|note| serde_json::to_string(note).ok()).unwrap_or_default(),
        problem: None,
        theirs: None,
        is_new: note.is_none(),
        may_change: user.books(),
    })
}

async fn standing(state: &AppState, id: i32, note: i32) -> Result<Text, Error> {
    let all = state.keeper.texts_of(TextOn::Project, id).await?;
    all.into_iter().find(|text| text.id == TextId(note) && text.slot == TextSlot::Note).ok_or(Error::NotFound)
}

pub async fn fresh(Here(state): Here, user: User, Path(id): Path<i32>) -> Result<Html<String>, Error> {
    Ok(Html(shown(&state, &user, id, None).await?.render()?))
}

pub async fn page(Here(state): Here, user: User, Path((id, note)): Path<(i32, i32)>) -> Result<Html<String>, Error> {
    let note = standing(&state, id, note).await?;
    Ok(Html(shown(&state, &user, id, Some(&note)).await?.render()?))
}

/// Writes a new page.
pub async fn write(
    Here(state): Here,
    user: User,
    Path(id): Path<i32>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    save(&state, &user, id, None, &pairs).await
}

/// Writes a page anew, or takes it away where nothing is left of it; the page that its author saw comes along.
pub async fn write_over(
    Here(state): Here,
    user: User,
    Path((id, note)): Path<(i32, i32)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    let before: Text = serde_json::from_str(sent(&pairs, "seen"))
        .map_err(|_| Error::BadRequest("The page is not known.".to_owned()))?;
    if (before.id, before.on, before.subject, before.slot) != (TextId(note), TextOn::Project, id, TextSlot::Note) {
        return Err(Error::BadRequest("The page is not known.".to_owned()));
    }
    save(&state, &user, id, Some(before), &pairs).await
}

async fn save(state: &AppState, user: &User, id: i32, before: Option<Text>, pairs: &Pairs) -> Result<Response, Error> {
    if !state.keeper.plan().records.projects.contains_key(&ProjectId(id)) {
        return Err(Error::NotFound);
    }
    let body = sent(pairs, "body").replace("\r\n", "\n");
    let gone = before.is_some() && sent(pairs, "deed") == "remove";
    let after = (!gone).then(|| Text {
        id: before.as_ref().map_or(TextId(0), |text| text.id),
        on: TextOn::Project,
        subject: id,
        slot: TextSlot::Note,
        author: user.account.email.clone(),
        day: state.today(),
        body: body.clone(),
    });
    let number = before.as_ref().map(|text| text.id.0);
    let title = if gone { "Page taken away" } else { "Page written" };
    let changes = vec![Change::Text(Edit { before: before.clone(), after })];
    match answer::carry_out(state, user, Command::Edit { changes }).await {
        Ok(outcome) => {
            let made = outcome.changes.first().map(|change| change.subject().1).or(number);
            let path = match made.filter(|_| !gone) {
                Some(note) => format!("{}/{id}/notes/{note}", super::PATH),
                None => format!("{}/{id}", super::PATH),
            };
            answer::back_to(user, &path, title.to_owned(), &outcome).await
        }
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            // What was typed stays; where somebody else was quicker, what they wrote stands beside it.
            let now = match number {
                Some(note) => standing(state, id, note).await.ok(),
                None => None,
            };
            let mut page = shown(state, user, id, now.as_ref().or(before.as_ref())).await?;
            page.theirs =
                now.filter(|now| before.as_ref().is_some_and(|seen| seen.body != now.body)).map(|now| now.body);
            (page.body, page.problem) = (body, Some(refusal.message));
            Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response())
        }
        Err(error) => Err(error),
    }
}
