//! Lists and forms of people, teams, projects, tasks and what else the plan is made of.

mod bulk;
mod links;
mod list;
mod page;
mod query;
mod suggest;

use crate::{
    AppState, Error, answer,
    auth::{TOO_SMALL, User},
    columns::{self, Pairs, Problems, columns, listed, record, sent},
    drafts::Here,
    task,
};
use axum::{
    Form, Json, Router,
    extract::{FromRequestParts, OriginalUri, Path},
    http::{HeaderMap, StatusCode, request::Parts},
    response::{Html, IntoResponse, Redirect, Response},
    routing::{get, post},
};
use serde_json::json;
use snug_core::{
    Command, Eyes, NoTag, Plan, Tag, TextId,
    change::{Change, Edit},
    kinds::{Kind, Room},
    text::{Text, TextOn, TextSlot},
};
use snug_exchange::csv::row_of;
use snug_store::Outcome;

/// The routes of every kind.
pub fn routes() -> Router<AppState> {
    let mut router = Router::new().route("/suggest", get(suggest::suggest));
    for path in listed().map(|kind| kind.about().path) {
        router = router
            .route(&format!("/{path}"), get(page::list).post(create))
            .route(&format!("/{path}/rows"), get(page::rows))
            .route(&format!("/{path}/new"), get(page::fresh))
            .route(&format!("/{path}/bulk"), get(bulk::values).post(bulk::change))
            .route(&format!("/{path}/{{id}}"), get(page::one).post(change))
            .route(&format!("/{path}/{{id}}/cell"), post(cell))
            .route(&format!("/{path}/{{id}}/remove"), post(remove))
            .route(&format!("/{path}/{{id}}/description"), post(describe))
            .route(&format!("/{path}/{{id}}/comments"), post(comment));
    }
    router
}

/// The kind whose pages a request is about, by the first part of its path.
struct Listed(Kind);

impl FromRequestParts<AppState> for Listed {
    type Rejection = Error;

    async fn from_request_parts(parts: &mut Parts, _: &AppState) -> Result<Self, Error> {
        let path = parts.extensions.get::<OriginalUri>().map_or(parts.uri.path(), |uri| uri.0.path());
        let first = path.trim_start_matches('/').split('/').next().unwrap_or_default();
        Kind::at(first).filter(|kind| kind.about().room != Room::None).map(Self).ok_or(Error::NotFound)
    }
}

/// The record as the page saw it, if it is the one that the address names and stands as it was. Whoever does not see all of it is
/// told nothing of what stands.
fn seen_in(eyes: &Eyes<'_>, pairs: &Pairs, kind: Kind, id: i32) -> Result<Change, Error> {
    let (plan, tag): (&Plan, Tag) = (eyes.plan, sent(pairs, "seen").parse()?);
    if kind.one(plan, tag.id).is_some_and(|record| !eyes.sees_whole(&*record)) {
        return Err(Error::NotAllowed(TOO_SMALL));
    }
    if tag.id == id { Ok(plan.as_seen(kind, tag)?) } else { Err(NoTag.into()) }
}

/// What was done with the record that was asked about.
fn said(outcome: &Outcome) -> String {
    outcome.changes.first().map(|change| change.says(&outcome.after)).unwrap_or_default()
}

async fn create(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    headers: HeaderMap,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let made = match columns::read(&plan, kind, &pairs, 0) {
        Ok(made) => made,
        Err(problems) => return page::again(&state, &user, kind, None, pairs, problems, Vec::new()).await,
    };
    match answer::carry_out(&state, &user, Command::Edit { changes: vec![made] }).await {
        Ok(outcome) => {
            let title = said(&outcome);
            if answer::is_script(&headers) {
                return Ok(Json(answer::done(&state, &user, title, &outcome).await?).into_response());
            }
            let id = outcome.changes.first().map_or(0, |change| change.subject().1);
            let next = if sent(&pairs, "then") == "another" {
                format!("/{}/new", kind.about().path)
            } else {
                format!("/{}/{id}", kind.about().path)
            };
            answer::back_to(&user, &next, title, &outcome).await
        }
        Err(error) => refused_form(&state, &user, kind, None, pairs, error).await,
    }
}

async fn change(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    Path(id): Path<i32>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let to = match columns::read(&plan, kind, &pairs, id) {
        Ok(to) => to,
        Err(problems) => return page::again(&state, &user, kind, Some(id), pairs, problems, Vec::new()).await,
    };
    let done = async {
        let seen = seen_in(&user.eyes(&plan), &pairs, kind, id)?;
        let changes = Change::between(&seen, &to).into_iter().collect();
        answer::carry_out(&state, &user, Command::Edit { changes }).await
    };
    match done.await {
        Ok(outcome) => answer::back_to(&user, &format!("/{}/{id}", kind.about().path), said(&outcome), &outcome).await,
        Err(error) => refused_form(&state, &user, kind, Some(id), pairs, error).await,
    }
}

/// Shows a form again with what was typed: a refused field says why, and where somebody was quicker each field that differs says
/// what stands there now; what is sent next takes that into account.
async fn refused_form(
    state: &AppState,
    user: &User,
    kind: Kind,
    id: Option<i32>,
    mut pairs: Pairs,
    error: Error,
) -> Result<Response, Error> {
    let Error::Store(snug_store::Error::Refused(refusal)) = error else { return Err(error) };
    let mut theirs = Vec::new();
    if let Some(standing) = &refusal.standing {
        let plan = state.keeper.plan();
        theirs = row_of(&user.eyes(&plan), standing).unwrap_or_default();
        pairs.retain(|(name, _)| name != "seen");
        pairs.extend(standing.record().map(|record| ("seen".to_owned(), record.tag().to_string())));
    }
    let problems: Problems = vec![(refusal.field.to_owned(), refusal.message)];
    page::again(state, user, kind, id, pairs, problems, theirs).await
}

/// Changes one cell of a list.
async fn cell(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    Path(id): Path<i32>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    match change_cell(&state, &user, kind, id, &pairs, &plan).await {
        Ok(response) => Ok(response),
        Err(error) => Ok(answer::refused(error, &user.eyes(&plan))),
    }
}

async fn change_cell(
    state: &AppState,
    user: &User,
    kind: Kind,
    id: i32,
    pairs: &Pairs,
    plan: &Plan,
) -> Result<Response, Error> {
    let eyes = user.eyes(plan);
    let seen = seen_in(&eyes, pairs, kind, id)?;
    let column = sent(pairs, "column");
    if !columns(plan, kind, user.account.role).iter().any(|known| known.name == column) {
        return Err(Error::BadRequest("The page does not say which cell is meant.".to_owned()));
    }
    let to = columns::altered(&eyes, &seen, &[(column, sent(pairs, "value"))]).map_err(|problems| {
        let (field, message) = problems.into_iter().next().unwrap_or_default();
        let message = if field == column { message } else { format!("{field}: {message}") };
        Error::from(snug_core::Refusal::value("value", crate::words::capital(&message)))
    })?;
    let outcome =
        answer::carry_out(state, user, Command::Edit { changes: Change::between(&seen, &to).into_iter().collect() })
            .await?;
    let mut done = answer::done(state, user, said(&outcome), &outcome).await?;
    done["row"] = json!(page::row_html(&outcome.after, user, kind, id, sent(pairs, "room"))?);
    Ok(Json(done).into_response())
}

async fn remove(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    Path(id): Path<i32>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    let done = async {
        let seen = seen_in(&user.eyes(&state.keeper.plan()), &pairs, kind, id)?;
        answer::carry_out(&state, &user, Command::Edit { changes: vec![seen.inverse()] }).await
    };
    match done.await {
        Ok(outcome) => answer::back_to(&user, &format!("/{}", kind.about().path), said(&outcome), &outcome).await,
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            let plan = state.keeper.plan();
            let Some(record) = record(&plan, kind, id) else { return Err(Error::from(refusal)) };
            let values = columns::values(&user.eyes(&plan), &record);
            let problems = vec![(String::new(), refusal.message)];
            page::again(&state, &user, kind, Some(id), values, problems, Vec::new()).await
        }
        Err(error) => Err(error),
    }
}

fn text_on(kind: Kind) -> Result<TextOn, Error> {
    kind.about().texts.ok_or(Error::NotFound)
}

/// Writes the description of a record; the text that its author saw comes along.
async fn describe(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    Path(id): Path<i32>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    let on = text_on(kind)?;
    let body = sent(&pairs, "body").replace("\r\n", "\n");
    let before: Option<Text> = match sent(&pairs, "seen_text") {
        "" => None,
        text => Some(serde_json::from_str(text).map_err(|_| Error::BadRequest("The text is not known.".to_owned()))?),
    };
    if before.as_ref().is_some_and(|text| (text.on, text.subject, text.slot) != (on, id, TextSlot::Description)) {
        return Err(Error::BadRequest("The text is not known.".to_owned()));
    }
    if record(&state.keeper.plan(), kind, id).is_none() {
        return Err(Error::NotFound);
    }
    // Somebody else may have written the first description meanwhile; then theirs is what must have been seen.
    let first =
        before.is_none() && state.keeper.texts_of(on, id).await?.iter().any(|text| text.slot == TextSlot::Description);
    if first {
        let message =
            "Somebody else has written a description since you opened this. Yours was not saved; it stands below.";
        return page::with_text(&state, &user, kind, id, body, message.to_owned()).await;
    }
    let after = Text {
        id: before.as_ref().map_or(TextId(0), |text| text.id),
        on,
        subject: id,
        slot: TextSlot::Description,
        author: user.account.email.clone(),
        day: state.today(),
        body: body.clone(),
    };
    let same = before.as_ref().is_some_and(|text| text.body == body) || before.is_none() && body.trim().is_empty();
    let changes = if same { Vec::new() } else { vec![Change::Text(Edit { before, after: Some(after) })] };
    match answer::carry_out(&state, &user, Command::Edit { changes }).await {
        Ok(outcome) => {
            answer::back_to(&user, &format!("/{}/{id}", kind.about().path), "Description written".to_owned(), &outcome)
                .await
        }
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            page::with_text(&state, &user, kind, id, body, refusal.message).await
        }
        Err(error) => Err(error),
    }
}

async fn comment(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    Path(id): Path<i32>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    let on = text_on(kind)?;
    if record(&state.keeper.plan(), kind, id).is_none() {
        return Err(Error::NotFound);
    }
    let here = format!("/{}/{id}", kind.about().path);
    let body = sent(&pairs, "body").replace("\r\n", "\n");
    if body.trim().is_empty() {
        return Ok(Redirect::to(&format!("{here}#comments")).into_response());
    }
    let outcome = task::comment(&state, &user.account, (on, id), body).await?;
    answer::back_to(&user, &format!("{here}#comments"), "Comment added".to_owned(), &outcome).await
}

/// A page that was refused is answered with this status, so that scripts and tests see it.
fn refused_page(html: String) -> Response {
    (StatusCode::UNPROCESSABLE_ENTITY, Html(html)).into_response()
}
