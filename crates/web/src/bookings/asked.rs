//! What forms and gestures say of bookings, and the command that is meant.

use crate::{Error, words};
use serde::Deserialize;
use snug_core::{
    BookingId, Command, Day, PersonId, Plan, ProjectId, Refusal, TaskId, TeamId,
    change::{Change, Edit},
    duration::{Bare, parse, parse_amount},
    gesture::{self, Gesture},
    kinds::{Booking, Certainty, Kind, Task, Unit, Who},
    reshape::{self, Part},
    tray,
};

/// Everything a form or a gesture can say; which fields count is decided by what is asked.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    /// The tag of the booking that the page saw; several with commas between. Of a task that is dropped on somebody its tag.
    seen: String,
    /// The number of a task that goes back to the tray.
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
    line: String,
    shift: i32,
    start_shift: i32,
    end_shift: i32,
    to: String,
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
    ///
    /// # Errors
    /// No tag, more bookings than go at once, or one that does not stand as the page saw it.
    pub fn all_seen(&self, plan: &Plan) -> Result<Vec<Booking>, Error> {
        let many = self.seen.split(',').count();
        if many > MOST_AT_ONCE {
            return Err(Error::BadRequest(format!("{many} bookings are more than go at once; {MOST_AT_ONCE} do.")));
        }
        self.seen.split(',').map(|tag| Ok(plan.record_as_seen(tag.parse()?)?)).collect()
    }

    fn seen(&self, plan: &Plan) -> Result<Booking, Error> {
        Ok(self.all_seen(plan)?.swap_remove(0))
    }

    /// The record that a form means by its number or its key.
    fn one(plan: &Plan, kind: Kind, text: &str) -> Option<i32> {
        let text = text.trim();
        text.parse().ok().or_else(|| plan.find(kind, text))
    }

    /// Who gets it, if it is to change hands.
    fn taker(&self, plan: &Plan) -> Result<Option<PersonId>, Refusal> {
        if self.to.trim().is_empty() {
            return Ok(None);
        }
        let found = Self::one(plan, Kind::Person, &self.to).map(PersonId);
        found.map(Some).ok_or_else(|| Refusal::value("to", "There is nobody by that address in the plan."))
    }

    fn day(field: &'static str, text: &str) -> Result<Day, Refusal> {
        text.parse::<Day>().map_err(|error| Refusal::value(field, error.to_string()))
    }

    fn duration(plan: &Plan, text: &str) -> Result<i64, Refusal> {
        parse(text, plan.settings.day_minutes, Bare::Refused).map_err(|reason| Refusal::value("hours", reason))
    }

    /// The booking that the form describes.
    fn booking(&self, plan: &Plan) -> Result<Booking, Refusal> {
        let who = match (self.seat.trim(), self.team.parse(), Self::one(plan, Kind::Person, &self.person)) {
            ("", Ok(team), _) => Who::Team(TeamId(team)),
            ("", _, Some(id)) => Who::Person(PersonId(id)),
            ("", ..) => return Err(Refusal::value("person", "Say whose time this is.")),
            (seat, ..) => Who::Role(seat.to_owned()),
        };
        let project = match self.project.as_str() {
            "" => None,
            text => {
                let found = Self::one(plan, Kind::Project, text).map(ProjectId);
                Some(found.ok_or_else(|| Refusal::value("project", "There is no such project."))?)
            }
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
            line: self.line.clone(),
        })
    }

    fn gesture(&self, plan: &Plan) -> Result<Gesture, Refusal> {
        let thickness = match self.minutes {
            Some(minutes) => Some((Self::day("at", &self.at)?, minutes)),
            None => None,
        };
        let (shift, start_shift, end_shift) = (self.shift, self.start_shift, self.end_shift);
        Gesture { shift, start_shift, end_shift, to: self.taker(plan)?, thickness }.checked()
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
                let seen = self.seen(plan)?;
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
                let gesture = self.gesture(plan)?;
                let mut edits: Vec<Edit<Booking>> = self
                    .all_seen(plan)?
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
            "remove" => match self.all_seen(plan)?.as_slice() {
                [seen] => Command::RemoveBooking { seen: seen.clone() },
                many => several(
                    &format!("{} bookings removed", many.len()),
                    many.iter().cloned().map(Edit::remove).collect(),
                ),
            },
            "certainty" => {
                let all = self.all_seen(plan)?;
                let to = if self.certainty == "pencilled" { Certainty::Pencilled } else { Certainty::Firm };
                let edits = all.iter().map(|seen| Edit::alter(seen.clone(), Booking { certainty: to, ..seen.clone() }));
                several(if to == Certainty::Firm { "Booking made firm" } else { "Booking pencilled" }, edits.collect())
            }
            "split" => {
                let seen = self.seen(plan)?;
                several("Booking split", reshape::split(plan, &seen, Self::day("at", &self.at)?)?)
            }
            "trim" => {
                let seen = self.seen(plan)?;
                several("Booking trimmed", reshape::trim(plan, &seen, self.part(plan, &seen)?)?)
            }
            "hand-over" => {
                let seen = self.seen(plan)?;
                let to = self.taker(plan)?.ok_or_else(|| Refusal::value("to", "Say who takes it."))?;
                let name = plan.people.get(&to).map_or("somebody", |entry| entry.person.name.as_str());
                let edits = reshape::hand_over(plan, &seen, self.part(plan, &seen)?, to)?;
                several(&format!("Handed over to {name}"), edits)
            }
            "copy" => {
                let gesture = self.gesture(plan)?;
                let copy = |seen: &Booking| reshape::copy(seen, gesture.shift, gesture.to);
                several("Booking copied", self.all_seen(plan)?.iter().map(copy).collect())
            }
            "repeat" => {
                let seen = self.seen(plan)?;
                let edits = reshape::repeat(&seen, self.weeks, Self::day("until", &self.until)?)?;
                several(&format!("Booking repeated {} times", edits.len()), edits)
            }
            "unit" => {
                let seen = self.seen(plan)?;
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
                let seen: Task = plan.record_as_seen(self.seen.parse()?)?;
                let person = self.taker(plan)?.ok_or_else(|| Refusal::value("to", "Say who does it."))?;
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
