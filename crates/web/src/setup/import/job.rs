//! An import under way: it runs by itself, behind every request, and whoever started it sees how far it is and can stop it.

use super::{gone, links, names, read_upload, summary};
use crate::{
    AppState, Error,
    auth::User,
    drafts::Here,
    frame::{Flash, Frame, Room},
    unpacking, worked_out,
};
use askama::Template;
use axum::{
    extract::Path,
    http::HeaderMap,
    response::{Html, IntoResponse as _, Redirect, Response},
};
use snug_core::{Command, Role};
use snug_store::{
    Watch,
    jobs::{self, Job, State as JobState},
    uploads::{self, File},
};
use std::{sync::Arc, time::Duration};

/// How long the page waits for an import to be done; most are by then.
const SOON: Duration = Duration::from_secs(2);
/// How often an import tells how far it is.
const BEAT: Duration = Duration::from_millis(500);

fn here(id: &str) -> String {
    format!("/setup/import/{id}/way")
}

/// Begins to take files over; once, however often it is asked.
pub async fn begin(Here(state): Here, user: User, Path(id): Path<String>) -> Result<Response, Error> {
    user.at_least(Role::Manager)?;
    let db = state.keeper.db();
    let Some(files) = uploads::waiting(db, user.account.id, &id).await? else {
        return gone(&state, &user).await;
    };
    if jobs::begin(db, &id, user.account.id, &names(&files)).await? {
        let running = state.jobs.spawn(run(state.clone(), user.account.email.clone(), id.clone(), files));
        // Where it takes longer the page shows how far it is.
        let _ = tokio::time::timeout(SOON, running).await;
    }
    Ok(Redirect::to(&here(&id)).into_response())
}

/// How far an import is; where it has ended, the page of imports with what was done.
pub async fn show(
    Here(state): Here,
    user: User,
    Path(id): Path<String>,
    headers: HeaderMap,
) -> Result<Response, Error> {
    let again = || Redirect::to(&format!("/setup/import/{id}")).into_response();
    let Some(job) = jobs::of(state.keeper.db(), user.account.id, &id).await? else {
        // What the rules refused waits on, and is shown anew, with what is refused now.
        return Ok(again());
    };
    let flash = match job.stands() {
        JobState::Running => {
            let page = WayPage::of(&state, &user, &job).await?;
            let part = headers.contains_key("x-requested-with");
            return Ok(Html(if part { page.as_way().render()? } else { page.render()? }).into_response());
        }
        JobState::Done => done(&state, &job).await?,
        JobState::Stopped => Flash::plain("Stopped; nothing was taken over"),
        JobState::Failed => {
            let says = "Nothing was taken over. Choose the files again.".to_owned();
            Flash { problem: true, says: vec![says], ..Flash::plain("The import did not come to its end") }
        }
    };
    flash.leave(&user.session).await?;
    Ok(Redirect::to("/setup/import").into_response())
}

async fn done(state: &AppState, job: &Job) -> Result<Flash, Error> {
    let changes = match job.revision {
        Some(revision) => state.keeper.ledger().changes_of(revision).await?,
        None => Vec::new(),
    };
    let message = summary(changes.len(), &job.source);
    Ok(Flash { undo: !changes.is_empty(), links: links(&changes), ..Flash::plain(message) })
}

/// Stops an import: all of it is taken over, or nothing.
pub async fn stop(Here(state): Here, user: User, Path(id): Path<String>) -> Result<Redirect, Error> {
    jobs::stop(state.keeper.db(), user.account.id, &id).await?;
    Ok(Redirect::to(&here(&id)))
}

/// How far it is.
#[derive(Template)]
#[template(path = "setup/import/way.html")]
struct Way<'a> {
    here: &'a str,
    step: &'a str,
    total: i32,
    percent: i64,
}

#[derive(Template)]
#[template(path = "setup/import/way_page.html")]
struct WayPage {
    frame: Frame,
    source: String,
    here: String,
    step: String,
    total: i32,
    percent: i64,
}

impl WayPage {
    async fn of(state: &AppState, user: &User, job: &Job) -> Result<Self, Error> {
        Ok(Self {
            frame: Frame::of(state, user, Room::Setup).await?,
            source: job.source.clone(),
            here: here(&job.id),
            step: job.step.clone(),
            total: job.total,
            percent: i64::from(job.done) * 100 / i64::from(job.total.max(1)),
        })
    }

    fn as_way(&self) -> Way<'_> {
        Way { here: &self.here, step: &self.step, total: self.total, percent: self.percent }
    }
}

/// Takes files over, and writes down how far it is and how it ended.
async fn run(state: AppState, actor: String, id: String, files: Vec<File>) {
    let watch = Arc::new(Watch::default());
    let beating = async {
        loop {
            tokio::select! {
                () = tokio::time::sleep(BEAT) => {}
                () = state.options.stopping.cancelled() => {
                    watch.stop();
                    std::future::pending::<()>().await;
                }
            }
            // A database that does not answer is told by the import itself.
            if jobs::beat(state.keeper.db(), &id, watch.stands()).await.unwrap_or(false) {
                watch.stop();
            }
        }
    };
    let ended = tokio::select! {
        ended = take_over(&state, &actor, files, &watch) => ended,
        () = beating => return,
    };
    let (how, revision) = match &ended {
        Ok(revision) => (JobState::Done, *revision),
        Err(Error::Store(snug_store::Error::Stopped)) => (JobState::Stopped, None),
        // It waits on, to be shown with what refuses it, and may be tried again.
        Err(Error::Store(snug_store::Error::Refused(_))) => {
            if let Err(error) = jobs::forget(state.keeper.db(), &id).await {
                tracing::error!(%error, "a refused import cannot be forgotten");
            }
            return;
        }
        Err(error) => {
            tracing::error!(error = error as &dyn std::error::Error, "an import failed");
            (JobState::Failed, None)
        }
    };
    let db = state.keeper.db();
    let noted = async {
        jobs::end(db, &id, how, revision).await?;
        uploads::forget(db, &id).await
    };
    if let Err(error) = noted.await {
        tracing::error!(%error, "it cannot be written down how an import ended");
    }
}

/// The entry of the ledger, where there was anything to change.
async fn take_over(state: &AppState, actor: &str, files: Vec<File>, watch: &Watch) -> Result<Option<i64>, Error> {
    watch.begin("Reading the files", 0);
    let source = names(&files);
    let data = {
        let _place = unpacking::place(state, actor).await;
        worked_out(move || read_upload(&files)).await?
    };
    let command = Command::Import { source, data: Box::new(data) };
    let outcome = state.keeper.submit_watched(actor, command, state.today(), watch).await?;
    Ok((!outcome.changes.is_empty()).then_some(outcome.revision))
}
