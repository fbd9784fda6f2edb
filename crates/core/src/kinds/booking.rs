//! Bookings: hours set aside.

use super::{
    About, Access, Column, Input, Keys, PersonId, ProjectId, Record, TeamId,
    codec::{Codec as _, Date, Line, MayTo, To, Used, Word, Yes},
    column::{at, may, must},
    record::{has_id, identity},
};
use crate::{
    Day, Plan, Refusal, cell,
    edit::Edit,
    kinds::{Kind, Wrong},
    rules,
    words::{ClosedList as _, words},
};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

identity!(
    /// A booking.
    BookingId of Booking
);

/// Hours of somebody, of a team or of a role, set aside over a range of days.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Booking {
    /// Identity inside the plan.
    pub id: BookingId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// Whose hours.
    pub who: Who,
    /// For which project; `None` is a hold.
    pub project: Option<ProjectId>,
    /// First day.
    pub start: Day,
    /// Last day.
    pub end: Day,
    /// How much, with its unit.
    pub amount: Amount,
    /// Agreed or tentative.
    pub certainty: Certainty,
    /// Counts on days off too.
    pub days_off: bool,
    /// A word on it.
    pub note: String,
    /// The line of the budget that it is on, by its name; empty for none of its own choice.
    #[serde(default)]
    pub line: String,
}

/// Whose hours a booking takes.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Who {
    /// Somebody by name.
    Person(PersonId),
    /// A team, with no name yet.
    Team(TeamId),
    /// An open seat: a role with no name yet.
    Role(String),
}

/// An amount of work and its unit; the unit is part of the value.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Amount {
    /// Minutes, or hundredths of a percent when the unit is percent.
    pub value: i32,
    /// What the value counts.
    pub unit: Unit,
}

/// What an amount counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Unit {
    /// Minutes on each working day.
    PerDay,
    /// Minutes in each ISO week.
    PerWeek,
    /// Minutes in all.
    Total,
    /// Hundredths of a percent of the day's limit.
    Percent,
}

/// Whether a booking is agreed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Certainty {
    /// Agreed.
    Firm,
    /// Tentative.
    Pencilled,
}

words!(Unit { PerDay = "h/day", PerWeek = "h/week", Total = "h", Percent = "%" });
words!(Certainty { Firm = "firm", Pencilled = "pencilled" });

/// The way to a cell that says one thing together with others: see `finish`.
const fn together(input: Input, write: fn(&Booking, &Plan) -> String) -> Access<Booking> {
    Access::by_hand(input, |_, _, _| Ok(()), write)
}

impl Record for Booking {
    has_id!(BookingId);

    const ABOUT: About = About { title: "email", ..About::new("booking", "bookings", "bookings.csv", "bookings") };

    const COLUMNS: &'static [Column<Self>] = &[
        may("ref", "Ref", at!(reference: Line)).hint("The key in files."),
        may(
            "email",
            "Who",
            together(Input::One(Kind::Person), |it, plan| match &it.who {
                Who::Person(id) => To.write(id, plan),
                _ => String::new(),
            }),
        )
        .hint("Give one of email, team and role.")
        .example("oona@tidewater.test"),
        may(
            "team",
            "Team",
            together(Input::One(Kind::Team), |it, plan| match &it.who {
                Who::Team(id) => To.write(id, plan),
                _ => String::new(),
            }),
        ),
        may(
            "role",
            "Role",
            together(Input::Used, |it, _| match &it.who {
                Who::Role(role) => role.clone(),
                _ => String::new(),
            }),
        ),
        may("project", "Project", at!(project: MayTo)).hint("Left out, it is a hold.").example("moon"),
        must("start", "First day", at!(start: Date)).example("2026-03-09"),
        must("end", "Last day", at!(end: Date)).example("2026-03-20"),
        must("amount", "Amount", together(Input::Number, |it, _| cell::amount_text(it.amount)))
            .hint("How much, in the unit.")
            .bounds(0, 100_000)
            .example("6"),
        must("unit", "Unit", together(Input::Choice(Unit::list), |it, _| it.amount.unit.to_string())).example("h/day"),
        may("certainty", "Certainty", at!(certainty: Word)),
        may("days_off", "On days off", at!(days_off: Yes)).hint("Counts on days off, too."),
        may("note", "Note", at!(note: Line)),
        may("line", "Budget line", at!(line: Used)).hint("Left empty, the project’s only line."),
    ];

    fn blank() -> Self {
        Self {
            id: BookingId(0),
            reference: String::new(),
            who: Who::Role(String::new()),
            project: None,
            start: Day::MIN,
            end: Day::MIN,
            amount: Amount { value: 0, unit: Unit::PerDay },
            certainty: Certainty::Firm,
            days_off: false,
            note: String::new(),
            line: String::new(),
        }
    }
    fn key(&self) -> String {
        self.reference.clone()
    }
    fn name(&self) -> String {
        String::new()
    }

    fn finish(&mut self, line: &super::sheet::Line<'_>, keys: &Keys) -> Result<(), Wrong> {
        let [email, team, role] = ["email", "team", "role"].map(|column| line.cell(column));
        self.who = match (email, team, role) {
            (_, "", "") => Who::Person(To.read(email, keys).map_err(|reason| ("email", reason))?),
            ("", _, "") => Who::Team(To.read(team, keys).map_err(|reason| ("team", reason))?),
            ("", "", role) => Who::Role(role.to_owned()),
            _ => return Err(("email", "give one of email, team and role, not several".to_owned())),
        };
        let unit = line.cell("unit").parse().map_err(|error: crate::NoSuchWord| ("unit", error.to_string()))?;
        self.amount = cell::amount(line.cell("amount"), unit).map_err(|reason| ("amount", reason))?;
        Ok(())
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        rules::booking(self)
    }

    fn each_named(&self, see: &mut dyn FnMut(&'static str, Kind, i32)) {
        match &self.who {
            Who::Person(id) => see("who", Kind::Person, id.0),
            Who::Team(id) => see("who", Kind::Team, id.0),
            Who::Role(_) => {}
        }
        self.project.iter().for_each(|id| see("project", Kind::Project, id.0));
    }

    // A person's lie compact with the person, those of teams and roles by themselves.
    fn all(plan: &Plan) -> Box<dyn Iterator<Item = Cow<'_, Self>> + '_> {
        Box::new(plan.bookings().map(Cow::Owned))
    }
    fn find(plan: &Plan, id: BookingId) -> Option<Cow<'_, Self>> {
        plan.booking(id).map(Cow::Owned)
    }
    fn put(plan: &mut Plan, edit: &Edit<Self>) {
        plan.put_booking(edit);
    }
}
