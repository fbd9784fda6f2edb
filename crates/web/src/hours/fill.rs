//! What fills a week sheet without typing.

use super::{log::refused_back, sheet::read_subject};
use crate::{
    Error, answer,
    auth::User,
    columns::{Pairs, sent},
    drafts::Here,
    words,
};
use axum::{
    Form,
    http::HeaderMap,
    response::{IntoResponse as _, Response},
};
use snug_core::{
    Command, Day, PersonId,
    hours::{Cells, Filling},
};

/// Reads which cells are meant: `all`, `last` for the week before, `line 11.41`, `day 2026-03-09`, `cell 11.41.2026-03-09`.
fn read(text: &str) -> Option<(Filling, Cells)> {
    let (what, which) = text.split_once(' ').unwrap_or((text, ""));
    let cells = match what {
        "all" | "last" => Cells::default(),
        "line" => Cells { line: Some(read_subject(which)?), day: None },
        "day" => Cells { line: None, day: Some(which.parse().ok()?) },
        "cell" => {
            let (line, day) = which.rsplit_once('.')?;
            Cells { line: Some(read_subject(line)?), day: Some(day.parse().ok()?) }
        }
        _ => return None,
    };
    Some((if what == "last" { Filling::LastWeek } else { Filling::Planned }, cells))
}

/// Fills empty cells with what was planned, or with the week before.
pub async fn fill(
    Here(state): Here,
    user: User,
    headers: HeaderMap,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    let of = |name: &str| sent(&pairs, name).trim();
    let person = PersonId(of("person").parse().map_err(|_| Error::NotFound)?);
    let week: Day = of("week").parse().map_err(|_| Error::NotFound)?;
    let (with, cells) = read(of("take")).ok_or(Error::NotFound)?;
    let back = words::address("/hours", [("person", of("person")), ("week", of("week"))]);
    let command = Command::FillWeek { person, week, with, cells };
    match answer::carry_out(&state, &user, command).await {
        Ok(outcome) => {
            let count = outcome.changes.iter().filter(|change| change.subject().0 == snug_core::kinds::Kind::TimeEntry);
            let message = format!("{} filled", words::count(count.count(), "cell", "cells"));
            if answer::is_script(&headers) {
                return Ok(axum::Json(answer::done(&state, &user, message, &outcome).await?).into_response());
            }
            answer::back_to(&user, &back, message, &outcome).await
        }
        Err(error) if answer::is_script(&headers) => Ok(answer::refused(error, &user.eyes(&state.keeper.plan()))),
        Err(error) => refused_back(&user, &back, error).await,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use snug_core::{ProjectId, TaskId};

    #[test]
    fn which_cells_are_meant_is_read() {
        let line = Some((Some(ProjectId(11)), Some(TaskId(41))));
        let day = "2026-03-09".parse().ok();
        assert_eq!(read("all"), Some((Filling::Planned, Cells::default())));
        assert_eq!(read("last"), Some((Filling::LastWeek, Cells::default())));
        assert_eq!(read("line 11.41"), Some((Filling::Planned, Cells { line, day: None })));
        assert_eq!(read("line ."), Some((Filling::Planned, Cells { line: Some((None, None)), day: None })));
        assert_eq!(read("cell 11.41.2026-03-09"), Some((Filling::Planned, Cells { line, day })));
        for wrong in ["", "some", "line 11", "day soon", "cell 2026-03-09"] {
            assert_eq!(read(wrong), None, "{wrong}");
        }
    }
}
