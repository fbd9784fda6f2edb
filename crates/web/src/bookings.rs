//! Booking by hand: forms and gestures become commands, and a preview says what they would do.

use crate::{
    AppState, Error,
    answer::{self, is_script, refused, safe_back},
    auth::User,
    fit::{FitParams, FitQuery, RowPart, columns, row_of},
    frame::Flash,
    words,
};
use askama::Template as _;
use axum::{
    Form, Json, Router,
    extract::State,
    http::HeaderMap,
    response::{IntoResponse, Redirect, Response},
    routing::post,
};
use serde::Deserialize;
use serde_json::{Value, json};
use snug_core::{
    BookingId, Command, Day, PersonId, Plan, ProjectId, Refusal,
    change::Change,
    effect::{Warning, people_touched, warnings, week_effects},
    gesture::{self, Gesture},
    work::{Amount, Booking, Certainty, Unit, Who},
};
use snug_store::ledger;
use std::collections::BTreeMap;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/bookings", post(place))
        .route("/bookings/change", post(change))
        .route("/bookings/move", post(by_hand))
        .route("/bookings/remove", post(remove))
        .route("/bookings/preview", post(preview))
        .route("/undo", post(undo))
        .route("/redo", post(redo))
}

/// Everything a form or a gesture can say; which fields count is decided by what is asked.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
struct BookingFields {
    /// The booking as the page saw it, as JSON.
    seen: String,
    person: String,
    project: String,
    start: String,
    end: String,
    amount: String,
    unit: String,
    certainty: String,
    days_off: String,
    note: String,
    shift: i32,
    start_shift: i32,
    end_shift: i32,
    to: Option<i32>,
    at: String,
    minutes: Option<i32>,
    /// What to preview: place, change, move or remove.
    what: String,
    /// Where to go back to.
    back: String,
    /// The room's address, so that a preview draws the same window.
    room: String,
}

impl BookingFields {
    fn seen(&self) -> Result<Booking, Error> {
        serde_json::from_str(&self.seen)
            .map_err(|_| Error::BadRequest("The page does not say which booking is meant.".to_owned()))
    }

    /// The booking that the form describes.
    fn booking(&self) -> Result<Booking, Refusal> {
        let day = |field: &'static str, text: &str| {
            text.parse::<Day>().map_err(|error| Refusal::value(field, error.to_string()))
        };
        let unit: Unit = self
            .unit
            .parse()
            .map_err(|_| Refusal::value("unit", "Say what the amount counts: h/day, h/week, h in all, or %."))?;
        let person: i32 = self.person.parse().map_err(|_| Refusal::value("person", "Say whose time this is."))?;
        let project = match self.project.as_str() {
            "" => None,
            text => Some(ProjectId(text.parse().map_err(|_| Refusal::value("project", "There is no such project."))?)),
        };
        Ok(Booking {
            id: BookingId(0),
            reference: String::new(),
            who: Who::Person(PersonId(person)),
            project,
            start: day("start", &self.start)?,
            end: day("end", &self.end)?,
            amount: amount(&self.amount, unit)?,
            certainty: if self.certainty == "pencilled" { Certainty::Pencilled } else { Certainty::Firm },
            days_off: self.days_off == "yes",
            note: self.note.clone(),
        })
    }

    fn gesture(&self) -> Result<Gesture, Refusal> {
        let thickness = match self.minutes {
            Some(minutes) => {
                let at = self.at.parse().map_err(|error: snug_core::NoDay| Refusal::value("at", error.to_string()))?;
                Some((at, minutes))
            }
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

    /// The command that is asked for.
    fn command(&self, plan: &Plan, what: &str) -> Result<Command, Error> {
        Ok(match what {
            "place" => Command::PlaceBooking { booking: self.booking()? },
            "change" => {
                let seen = self.seen()?;
                let to = Booking { id: seen.id, reference: seen.reference.clone(), ..self.booking()? };
                Command::ChangeBooking { seen, to }
            }
            "move" => {
                let seen = self.seen()?;
                let to = gesture::after(plan, &seen, &self.gesture()?);
                Command::ChangeBooking { seen, to }
            }
            "remove" => Command::RemoveBooking { seen: self.seen()? },
            _ => return Err(Error::BadRequest("There is nothing to preview.".to_owned())),
        })
    }
}

/// Reads an amount in its unit: hours as `7.5`, percent as `40`.
fn amount(text: &str, unit: Unit) -> Result<Amount, Refusal> {
    snug_exchange::csv::amount(text.trim(), unit).map_err(|reason| Refusal::value("amount", reason))
}

async fn place(state: State<AppState>, user: User, headers: HeaderMap, Form(form): Form<BookingFields>) -> Response {
    carry_out(&state, &user, &headers, &form, "place").await
}

async fn change(state: State<AppState>, user: User, headers: HeaderMap, Form(form): Form<BookingFields>) -> Response {
    carry_out(&state, &user, &headers, &form, "change").await
}

async fn by_hand(state: State<AppState>, user: User, headers: HeaderMap, Form(form): Form<BookingFields>) -> Response {
    carry_out(&state, &user, &headers, &form, "move").await
}

async fn remove(state: State<AppState>, user: User, headers: HeaderMap, Form(form): Form<BookingFields>) -> Response {
    carry_out(&state, &user, &headers, &form, "remove").await
}

async fn carry_out(state: &AppState, user: &User, headers: &HeaderMap, form: &BookingFields, what: &str) -> Response {
    let done = async {
        let command = form.command(&state.keeper.plan(), what)?;
        let title = command.done();
        submit(state, user, command, title).await
    };
    answer(state, user, done.await, headers, &form.back).await
}

/// Submits a command; the answer says what was done and what to look out for.
async fn submit(state: &AppState, user: &User, command: Command, title: String) -> Result<Value, Error> {
    let outcome = answer::carry_out(state, user, command).await?;
    let says = says(&outcome.before, &outcome.after, &outcome.changes, state.today());
    let people: Vec<i32> = people_touched(&outcome.changes).into_iter().map(|id| id.0).collect();
    let only_bookings = outcome.changes.iter().all(|change| matches!(change, Change::Booking(_)));
    let mut done = answer::done(state, user, title, &outcome).await?;
    done["says"] = json!(says);
    // Where more than bookings changed, the page reads everything again.
    done["people"] = if only_bookings { json!(people) } else { Value::Null };
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

/// What a change does to the weeks of the people it touches, in sentences.
fn says(before: &Plan, after: &Plan, changes: &[Change], today: Day) -> Vec<String> {
    let order = after.settings.date_order;
    let name = |id: PersonId| after.people.get(&id).map_or("", |entry| entry.person.name.as_str());
    let mut found = Vec::new();
    let mut by_person: BTreeMap<PersonId, Vec<_>> = BTreeMap::new();
    for effect in week_effects(before, after, changes, today) {
        by_person.entry(effect.person).or_default().push(effect);
    }
    for (person, mut effects) in by_person {
        // What is past cannot be helped; a planner wants to hear of what is to come.
        if effects.iter().any(|effect| effect.week.to >= today) {
            effects.retain(|effect| effect.week.to >= today);
        }
        let over = |cell: &snug_core::cells::Cell| cell.spill.max(cell.peak);
        let worse: Vec<_> = effects.iter().filter(|effect| over(&effect.after) > over(&effect.before)).collect();
        if let Some(worst) = worse.iter().max_by_key(|effect| over(&effect.after)) {
            let rest = worse.len() - 1;
            let more = if rest == 0 { String::new() } else { format!(", and over in {rest} more weeks") };
            let (much, when) = (words::hours(over(&worst.after)), words::day(worst.week.from, order));
            found.push(format!("{}: {much} over the limit in the week of {when}{more}", name(person)));
        } else if let Some(first) = effects.first() {
            let (room, when) = (words::hours(first.after.room), words::day(first.week.from, order));
            let what = if over(&first.after) > 0 {
                format!("still {} over", words::hours(over(&first.after)))
            } else {
                format!("{room} of room")
            };
            found.push(format!("{}: {what} in the week of {when}", name(person)));
        }
    }
    for change in changes {
        let Change::Booking(edit) = change else { continue };
        let Some(booking) = &edit.after else { continue };
        for warning in warnings(after, booking) {
            found.push(match warning {
                Warning::Stranded(person) => {
                    format!("{} has no working day for this: some or all of it lands nowhere", name(person))
                }
                Warning::Lost(person, minutes) => {
                    format!("{} is partly off on some days: {} do not land", name(person), words::hours(minutes))
                }
                Warning::DaysOff(person, days) => {
                    format!("{} works on {days} days off with this", name(person))
                }
            });
        }
    }
    found
}

/// What a gesture or a form would do: the rows as they would look, and sentences. Nothing is written.
async fn preview(
    State(state): State<AppState>,
    user: User,
    Form(form): Form<BookingFields>,
) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let today = state.today();
    let decided = form.command(&plan, &form.what).and_then(|command| {
        user.check(&plan, &command)?;
        Ok(plan.decide(&command, today)?)
    });
    let changes = match decided {
        Ok(changes) => changes,
        Err(error) => return Ok(refused(error, &plan)),
    };
    let after = plan.with(&changes);
    let params: FitParams = serde_json::from_str(&form.room).unwrap_or_default();
    let query = FitQuery::read(&params, &plan, today);
    let mut rows = serde_json::Map::new();
    let mut touched = people_touched(&changes);
    if let Ok(Booking { who: Who::Person(person), .. }) = form.seen() {
        touched.insert(person);
    }
    for person in touched {
        if let Some(row) = row_of(&after, person.0, &query) {
            let part = RowPart { row, columns: columns(&query), may_book: user.books() };
            rows.insert(person.0.to_string(), part.render()?.into());
        }
    }
    let booking = changes.iter().find_map(|change| match change {
        Change::Booking(edit) => edit.after.as_ref(),
        _ => None,
    });
    let tip = booking.map(|booking| {
        format!(
            "{}, {}",
            words::amount(booking.amount),
            words::range(booking.start, booking.end, plan.settings.date_order)
        )
    });
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
