//! What forms and gestures say of bookings, and the command that is meant.

use crate::{Error, words};
use serde::Deserialize;
use snug_core::{
    BookingId, Command, Day, PersonId, Plan, ProjectId, Refusal, TaskId, TeamId,
    change::{Change, Edit},
    duration::{Bare, parse, parse_amount},
    gesture::{self, Gesture},
    kinds::{Booking, Certainty, Task, Unit, Who},
    reshape::{self, Part},
    tray,
};

/// Everything a form or a gesture can say; which fields count is decided by what is asked.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    /// The booking as the page saw it, as JSON; several in a list.
    seen: String,
    /// The task as the page saw it, as JSON.
    task: String,
    person: String,
    project: String,
    /// For an open seat: the role or skill, in place of a person.
    seat: String,
    /// For work of a team with no name yet: the team, in place of a person.
    team: String,
    start: String,
    end: String,
    pub amount: String,
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
    pub what: String,
    /// Where to go back to.
    pub back: String,
    /// The room's address, so that a preview draws the same window.
    pub room: String,
}

/// The most bookings that one gesture takes along.
const MOST_AT_ONCE: usize = 200;

impl Asked {
    /// The bookings that are meant: one, or a list.
    pub fn all_seen(&self) -> Result<Vec<Booking>, Error> {
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
        let who = match (self.seat.trim(), self.team.parse(), self.person.parse()) {
            ("", Ok(team), _) => Who::Team(TeamId(team)),
            ("", _, Ok(id)) => Who::Person(PersonId(id)),
            ("", ..) => return Err(Refusal::value("person", "Say whose time this is.")),
            (seat, ..) => Who::Role(seat.to_owned()),
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
        let (shift, start_shift, end_shift) = (self.shift, self.start_shift, self.end_shift);
        Gesture { shift, start_shift, end_shift, to: self.to.map(PersonId), thickness }.checked()
    }

    fn part(&self, plan: &Plan, booking: &Booking) -> Result<Part, Refusal> {
        let day = |field, text: &str, usual| if text.is_empty() { Ok(usual) } else { Self::day(field, text) };
        let minutes = if self.hours.trim().is_empty() { None } else { Some(Self::duration(plan, &self.hours)?) };
        Ok(Part { from: day("from", &self.from, booking.start)?, to: day("until", &self.until, booking.end)?, minutes })
    }

    /// The command that is asked for.
    pub fn command(&self, plan: &Plan, what: &str, today: Day) -> Result<Command, Error> {
        let several = |deed: &str, edits: Vec<Edit<Booking>>| Command::Rearrange { deed: deed.to_owned(), edits };
        Ok(match what {
            "place" => Command::PlaceBooking { booking: self.booking(plan)? },
            "change" => {
                let seen = self.seen()?;
                let to = Booking { id: seen.id, reference: seen.reference.clone(), ..self.booking(plan)? };
                // A form that leaves the seat's name out leaves it as it is.
                let who = if self.seat.is_empty() && self.team.is_empty() && self.person.is_empty() {
                    seen.who.clone()
                } else {
                    to.who.clone()
                };
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
                let gesture = self.gesture()?;
                let copy = |seen: &Booking| reshape::copy(seen, gesture.shift, gesture.to);
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
