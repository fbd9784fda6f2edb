//! What is done with a project as a whole: saved as a template, made real.

use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    frame::Flash,
    words,
};
use axum::{
    Form,
    extract::Path,
    response::{IntoResponse as _, Redirect, Response},
};
use snug_core::{
    Command, Plan, ProjectId, Role,
    change::{Change, Edit},
    kinds::{Booking, Certainty, Kind, Project, ProjectStatus, Who},
};

/// Does something with a project and leads back to its page, or to `then`; a refusal is said there.
async fn done(state: &AppState, user: &User, id: ProjectId, command: Command, then: &str) -> Result<Response, Error> {
    let title = command.done(&state.keeper.plan());
    match answer::carry_out(state, user, command).await {
        Ok(outcome) => answer::back_to(user, then, title, &outcome).await,
        Err(Error::Store(snug_store::Error::Refused(refusal))) => {
            Flash::problem(words::capital(&refusal.message)).leave(&user.session).await?;
            Ok(Redirect::to(&format!("{}/{id}", super::PATH)).into_response())
        }
        Err(error) => Err(error),
    }
}

fn known(plan: &Plan, id: i32) -> Result<(ProjectId, &Project), Error> {
    let id = ProjectId(id);
    Ok((id, plan.records.projects.get(&id).ok_or(Error::NotFound)?))
}

/// Saves a project as one to begin with.
pub async fn save_template(
    Here(state): Here,
    user: User,
    Path(id): Path<i32>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    let (project, _) = known(&state.keeper.plan(), id)?;
    let command = Command::SaveTemplate { project, name: sent(&pairs, "name").to_owned() };
    done(&state, &user, project, command, &format!("{}/{id}", super::PATH)).await
}

/// Makes a sketch a project, and where it is wished its pencilled bookings firm.
pub async fn make_real(
    Here(state): Here,
    user: User,
    Path(id): Path<i32>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    user.at_least(Role::Manager)?;
    let plan = state.keeper.plan();
    let (id, project) = known(&plan, id)?;
    let after = Project { status: ProjectStatus::Active, ..project.clone() };
    let mut changes = vec![Change::Project(Edit::alter(project.clone(), after))];
    if sent(&pairs, "firm") == "yes" {
        let is_meant = |booking: &Booking| booking.project == Some(id) && booking.certainty == Certainty::Pencilled;
        let seats = plan.seats.values().map(|booking| (**booking).clone());
        let of_people = plan.people.values().flat_map(|entry| {
            let own = entry.bookings().filter(|row| row.project == Some(id));
            own.map(|row| row.booking(Who::Person(entry.person.id)))
        });
        let firm = |booking: Booking| {
            let after = Booking { certainty: Certainty::Firm, ..booking.clone() };
            Change::Booking(Edit::alter(booking, after))
        };
        changes.extend(seats.chain(of_people).filter(is_meant).map(firm));
    }
    done(&state, &user, id, Command::Edit { changes }, &format!("{}/{id}", super::PATH)).await
}

/// The page of a project that was just made.
pub fn page_of(changes: &[Change]) -> String {
    let made = changes.iter().find(|change| change.subject().0 == Kind::Project && change.adds());
    made.map_or_else(|| super::PATH.to_owned(), |change| format!("{}/{}", super::PATH, change.subject().1))
}
