//! Booking by hand: forms and gestures become commands, and a preview says what they would do.

use crate::{
    AppState, Error,
    answer::{self, is_script, refused, safe_back},
    auth::User,
    effects::says,
    fit::{self, FitParams, FitQuery},
    frame::Flash,
    words,
};
use axum::{
    Form, Json, Router,
    extract::{Path, State},
    http::HeaderMap,
    response::{IntoResponse, Redirect, Response},
    routing::post,
};
use serde::Deserialize;
use serde_json::{Value, json};
use snug_core::{
    BookingId, Command, Day, PersonId, Plan, ProjectId, Refusal, Role, TaskId,
    change::{Change, Edit},
    duration::{Bare, parse, parse_amount},
    effect::{only_rows_of, people_touched},
    gesture::{self, Gesture},
    reshape::{self, Part},
    tray,
    work::{Booking, Certainty, Task, Unit, Who},
};
use snug_store::ledger;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/bookings", post(place))
        .route("/bookings/{deed}", post(act))
        .route("/undo", post(undo))
        .route("/redo", post(redo))
}

/// Everything a form or a gesture can say; which fields count is decided by what is asked.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
struct Asked {
    /// The booking as the page saw it, as JSON; several in a list.
    seen: String,
    /// The task as the page saw it, as JSON.
    task: String,
    person: String,
    project: String,
    /// For an open seat: the role or skill, in place of a person.
    seat: String,
    start: String,
    end: String,
    amount: String,
    certainty: String,
    days_off: String,
    note: String,
    shift: i32,
    start_shift: i32,
    end_shift: i32,
    to: Option<i32>,
    at: String,
    minutes: Option<i32>,
    /// Days of a part, first and last.
    from: String,
    until: String,
    /// Hours of a part, as `6h`.
    hours: String,
    /// Every how many weeks.
    weeks: i32,
    unit: String,
    /// What to preview.
    what: String,
    /// Where to go back to.
    back: String,
    /// The room's address, so that a preview draws the same window.
    room: String,
}

/// The most bookings that one gesture takes along.
const MOST_AT_ONCE: usize = 200;

impl Asked {
    /// The bookings that are meant: one, or a list.
    fn all_seen(&self) -> Result<Vec<Booking>, Error> {
        let unclear = || Error::BadRequest("The page does not say which booking is meant.".to_owned());
        let list: Vec<Booking> = if self.seen.trim_start().starts_with('[') {
            serde_json::from_str(&self.seen).map_err(|_| unclear())?
        } else {
            vec![serde_json::from_str(&self.seen).map_err(|_| unclear())?]
        };
        match list.len() {
            0 => Err(unclear()),
            many if many > MOST_AT_ONCE => {
                Err(Error::BadRequest(format!("{many} bookings are more than go at once; {MOST_AT_ONCE} do.")))
            }
            _ => Ok(list),
        }
    }

    fn seen(&self) -> Result<Booking, Error> {
        Ok(self.all_seen()?.swap_remove(0))
    }

    fn day(field: &'static str, text: &str) -> Result<Day, Refusal> {
        text.parse::<Day>().map_err(|error| Refusal::value(field, error.to_string()))
    }

    fn duration(plan: &Plan, text: &str) -> Result<i64, Refusal> {
        parse(text, plan.settings.day_minutes, Bare::Refused).map_err(|reason| Refusal::value("hours", reason))
    }

    /// The booking that the form describes.
    fn booking(&self, plan: &Plan) -> Result<Booking, Refusal> {
        let who = match (self.seat.trim(), self.person.parse()) {
            ("", Ok(id)) => Who::Person(PersonId(id)),
            ("", Err(_)) => return Err(Refusal::value("person", "Say whose time this is.")),
            (seat, _) => Who::Role(seat.to_owned()),
        };
        let project = match self.project.as_str() {
            "" => None,
            text => Some(ProjectId(text.parse().map_err(|_| Refusal::value("project", "There is no such project."))?)),
        };
        let amount = parse_amount(&self.amount, plan.settings.day_minutes);
        Ok(Booking {
            id: BookingId(0),
            reference: String::new(),
            who,
            project,
            start: Self::day("start", &self.start)?,
            end: Self::day("end", &self.end)?,
            amount: amount.map_err(|reason| Refusal::value("amount", reason))?,
            certainty: if self.certainty == "pencilled" { Certainty::Pencilled } else { Certainty::Firm },
            days_off: self.days_off == "yes",
            note: self.note.clone(),
        })
    }

    fn gesture(&self) -> Result<Gesture, Refusal> {
        let thickness = match self.minutes {
            Some(minutes) => Some((Self::day("at", &self.at)?, minutes)),
            None => None,
        };
        Ok(Gesture {
            shift: self.shift,
            start_shift: self.start_shift,
            end_shift: self.end_shift,
            to: self.to.map(PersonId),
            thickness,
        })
    }

    fn part(&self, plan: &Plan, booking: &Booking) -> Result<Part, Refusal> {
        let day = |field, text: &str, usual| if text.is_empty() { Ok(usual) } else { Self::day(field, text) };
        let minutes = if self.hours.trim().is_empty() { None } else { Some(Self::duration(plan, &self.hours)?) };
        Ok(Part { from: day("from", &self.from, booking.start)?, to: day("until", &self.until, booking.end)?, minutes })
    }

    /// The command that is asked for.
    fn command(&self, plan: &Plan, what: &str, today: Day) -> Result<Command, Error> {
        let several = |deed: &str, edits: Vec<Edit<Booking>>| Command::Rearrange { deed: deed.to_owned(), edits };
        Ok(match what {
            "place" => Command::PlaceBooking { booking: self.booking(plan)? },
            "change" => {
                let seen = self.seen()?;
                let to = Booking { id: seen.id, reference: seen.reference.clone(), ..self.booking(plan)? };
                // A form that leaves the seat's name out leaves it as it is.
                let who =
                    if self.seat.is_empty() && self.person.is_empty() { seen.who.clone() } else { to.who.clone() };
                Command::ChangeBooking { seen, to: Booking { who, ..to } }
            }
            "move" => {
                let gesture = self.gesture()?;
                let mut edits: Vec<Edit<Booking>> = self
                    .all_seen()?
                    .into_iter()
                    .map(|seen| {
                        let to = gesture::after(plan, &seen, &gesture);
                        Edit::alter(seen, to)
                    })
                    .collect();
                match (edits.len(), edits.pop()) {
                    (1, Some(Edit { before: Some(seen), after: Some(to) })) => Command::ChangeBooking { seen, to },
                    (count, last) => {
                        edits.extend(last);
                        several(&format!("{count} bookings moved"), edits)
                    }
                }
            }
            "remove" => match self.all_seen()?.as_slice() {
                [seen] => Command::RemoveBooking { seen: seen.clone() },
                many => several(
                    &format!("{} bookings removed", many.len()),
                    many.iter().cloned().map(Edit::remove).collect(),
                ),
            },
            "certainty" => {
                let all = self.all_seen()?;
                let to = if self.certainty == "pencilled" { Certainty::Pencilled } else { Certainty::Firm };
                let edits = all.iter().map(|seen| Edit::alter(seen.clone(), Booking { certainty: to, ..seen.clone() }));
                several(if to == Certainty::Firm { "Booking made firm" } else { "Booking pencilled" }, edits.collect())
            }
            "split" => {
                let seen = self.seen()?;
                several("Booking split", reshape::split(plan, &seen, Self::day("at", &self.at)?)?)
            }
            "trim" => {
                let seen = self.seen()?;
                several("Booking trimmed", reshape::trim(plan, &seen, self.part(plan, &seen)?)?)
            }
            "hand-over" => {
                let seen = self.seen()?;
                let to = self.to.map(PersonId).ok_or_else(|| Refusal::value("to", "Say who takes it."))?;
                let name = plan.people.get(&to).map_or("somebody", |entry| entry.person.name.as_str());
                let edits = reshape::hand_over(plan, &seen, self.part(plan, &seen)?, to)?;
                several(&format!("Handed over to {name}"), edits)
            }
            "copy" => {
                let copy = |seen: &Booking| reshape::copy(seen, self.shift, self.to.map(PersonId));
                several("Booking copied", self.all_seen()?.iter().map(copy).collect())
            }
            "repeat" => {
                let seen = self.seen()?;
                let edits = reshape::repeat(&seen, self.weeks, Self::day("until", &self.until)?)?;
                several(&format!("Booking repeated {} times", edits.len()), edits)
            }
            "unit" => {
                let seen = self.seen()?;
                let unit: Unit = self.unit.parse().map_err(|_| Refusal::value("unit", "There is no such unit."))?;
                let amount = reshape::in_unit(plan, &seen, unit).ok_or_else(|| {
                    Refusal::value(
                        "unit",
                        "This booking lands on no day, so there is nothing to go by; type an amount.",
                    )
                })?;
                let to = Booking { amount, ..seen.clone() };
                let deed = format!("{} is {} now", words::amount(seen.amount), words::amount(amount));
                several(&deed, vec![Edit::alter(seen, to)])
            }
            "drop" => {
                let seen: Task = serde_json::from_str(&self.task)
                    .map_err(|_| Error::BadRequest("The page does not say which task is meant.".to_owned()))?;
                let person = self.to.map(PersonId).ok_or_else(|| Refusal::value("to", "Say who does it."))?;
                let to = tray::dropped(plan, &seen, person, Self::day("at", &self.at)?, today);
                Command::Edit { changes: vec![Change::Task(Edit::alter(seen, to))] }
            }
            "untray" => {
                let id: i32 = self.task.parse().map_err(|_| Error::NotFound)?;
                let seen = plan.tasks.get(&TaskId(id)).ok_or(Error::NotFound)?;
                let to = Task { start: None, finish: None, ..(**seen).clone() };
                Command::Edit { changes: vec![Change::Task(Edit::alter((**seen).clone(), to))] }
            }
            _ => return Err(Error::NotFound),
        })
    }
}

async fn place(state: State<AppState>, user: User, headers: HeaderMap, Form(form): Form<Asked>) -> Response {
    carry_out(&state, &user, &headers, &form, "place").await
}

async fn act(
    state: State<AppState>,
    user: User,
    headers: HeaderMap,
    Path(deed): Path<String>,
    Form(form): Form<Asked>,
) -> Response {
    if deed == "preview" {
        return preview(&state, &user, &form).unwrap_or_else(IntoResponse::into_response);
    }
    carry_out(&state, &user, &headers, &form, &deed).await
}

async fn carry_out(state: &AppState, user: &User, headers: &HeaderMap, form: &Asked, what: &str) -> Response {
    let done = async {
        // Before anything that was sent is looked at.
        user.at_least(Role::Lead)?;
        let command = form.command(&state.keeper.plan(), what, state.today())?;
        let title = command.done();
        submit(state, user, command, title).await
    };
    match done.await {
        Err(error) if is_script(headers) => asked_back(error, &state.keeper.plan(), &form.amount),
        done => answer(state, user, done, headers, &form.back).await,
    }
}

/// A refusal; where a bare number was typed as an amount, with what it could have meant.
fn asked_back(error: Error, plan: &Plan, amount: &str) -> Response {
    let number = amount.trim();
    let bare = !number.is_empty() && number.chars().all(|c| c.is_ascii_digit() || c == '.' || c == ',');
    let about_it = matches!(&error, Error::Store(snug_store::Error::Refused(refusal)) if refusal.field == "amount");
    if bare && about_it {
        let meant = ["h/d", "h/w", "h", "%"].map(|unit| format!("{number}{unit}"));
        let message = error.to_string();
        let body = json!({ "message": message, "field": "amount", "ask": meant, "standing": null });
        return (error.status(), Json(body)).into_response();
    }
    refused(error, plan)
}

/// Submits a command; the answer says what was done and what to look out for.
async fn submit(state: &AppState, user: &User, command: Command, title: String) -> Result<Value, Error> {
    let outcome = answer::carry_out(state, user, command).await?;
    let says = says(&outcome.before, &outcome.after, &outcome.changes, state.today());
    let people = only_rows_of(&outcome.changes).map(|people| people.into_iter().map(|id| id.0).collect::<Vec<i32>>());
    let mut done = answer::done(state, user, title, &outcome).await?;
    done["says"] = json!(says);
    // Where more than people's bookings changed, the page reads everything again.
    done["people"] = json!(people);
    Ok(done)
}

/// A script gets what happened as JSON; a plain form is led back to its page.
async fn answer(
    state: &AppState,
    user: &User,
    done: Result<Value, Error>,
    headers: &HeaderMap,
    back: &str,
) -> Response {
    let script = is_script(headers);
    match done {
        Ok(value) if script => Json(value).into_response(),
        Ok(value) => {
            let flash = Flash {
                message: value["message"].as_str().unwrap_or_default().to_owned(),
                says: serde_json::from_value(value["says"].clone()).unwrap_or_default(),
                undo: value["undo"].as_bool().unwrap_or_default(),
                ..Flash::plain(String::new())
            };
            match flash.leave(&user.session).await {
                Ok(()) => Redirect::to(safe_back(back)).into_response(),
                Err(error) => error.into_response(),
            }
        }
        Err(error) if script => refused(error, &state.keeper.plan()),
        Err(error) => error.into_response(),
    }
}

/// What a gesture or a form would do: the rows as they would look, and sentences. Nothing is written.
fn preview(state: &AppState, user: &User, form: &Asked) -> Result<Response, Error> {
    user.at_least(Role::Lead)?;
    let plan = state.keeper.plan();
    let today = state.today();
    let decided = form.command(&plan, &form.what, today).and_then(|command| {
        user.check(&plan, &command)?;
        Ok(plan.decide(&command, today)?)
    });
    let changes = match decided {
        Ok(changes) => changes,
        Err(error) => return Ok(asked_back(error, &plan, &form.amount)),
    };
    let after = plan.with(&changes);
    let params: FitParams = serde_json::from_str(&form.room).unwrap_or_default();
    let query = FitQuery::read(&params, &plan, today);
    let mut rows = serde_json::Map::new();
    let mut touched = people_touched(&changes);
    for seen in form.all_seen().unwrap_or_default() {
        if let Who::Person(person) = seen.who {
            touched.insert(person);
        }
    }
    for person in touched {
        if let Some(row) = fit::row_part(&after, person.0, &query, user.books())? {
            rows.insert(person.0.to_string(), row.into());
        }
    }
    let tip = match changes.first() {
        Some(Change::Booking(Edit { after: Some(_), .. })) if form.all_seen().map_or(0, |seen| seen.len()) > 1 => {
            Some(format!("{} bookings", changes.len()))
        }
        Some(Change::Booking(Edit { after: Some(booking), .. })) => Some(format!(
            "{}, {}",
            words::amount(booking.amount),
            words::range(booking.start, booking.end, plan.settings.date_order)
        )),
        Some(Change::Task(Edit { after: Some(task), .. })) => {
            let days = task.start.zip(task.finish);
            days.map(|(from, to)| format!("{}, {}", task.title, words::range(from, to, plan.settings.date_order)))
        }
        _ => None,
    };
    Ok(Json(json!({ "rows": rows, "says": says(&plan, &after, &changes, today), "tip": tip })).into_response())
}

#[derive(Default, Deserialize)]
#[serde(default)]
struct Back {
    back: String,
}

async fn undo(State(state): State<AppState>, user: User, headers: HeaderMap, Form(form): Form<Back>) -> Response {
    answer(&state, &user, take_back(&state, &user, false).await, &headers, &form.back).await
}

async fn redo(State(state): State<AppState>, user: User, headers: HeaderMap, Form(form): Form<Back>) -> Response {
    answer(&state, &user, take_back(&state, &user, true).await, &headers, &form.back).await
}

async fn take_back(state: &AppState, user: &User, forward: bool) -> Result<Value, Error> {
    let (undo, redo) = ledger::undo_and_redo(state.keeper.db(), user.actor()).await?;
    let Some(entry) = (if forward { redo } else { undo }) else {
        let message =
            if forward { "There is nothing to bring back." } else { "There is nothing of yours to take back." };
        return Ok(json!({ "message": message, "says": [], "people": [], "undo": false }));
    };
    let changes = ledger::changes_of(state.keeper.db(), entry.revision).await?;
    let command = Command::Undo { revision: entry.revision, changes };
    let title = if forward { "Brought back".to_owned() } else { format!("Taken back: {}", entry.title) };
    submit(state, user, command, title).await
}
