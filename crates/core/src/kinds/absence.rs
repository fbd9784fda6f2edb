//! Time off.

use super::{
    About, Access, Column, Input, PersonId, Record, Sight,
    codec::{Date, Hours, Line, To, Used},
    column::{at, may, must},
    record::{has_id, identity},
};
use crate::{
    Actor, Day, Plan, Refusal, cell,
    edit::Edit,
    kinds::Room,
    rules::{line, range},
};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

identity!(
    /// A stretch of time off.
    AbsenceId of Absence
);

/// A stretch of time off.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Absence {
    /// Identity inside the plan.
    pub id: AbsenceId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// Who is off.
    pub person: PersonId,
    /// First day.
    pub start: Day,
    /// Last day.
    pub end: Day,
    /// Vacation, sick, … in the workspace's own words.
    pub kind: String,
    /// Minutes off on each day; `None` for the whole day.
    pub minutes: Option<i32>,
    /// The minute of the day at which they begin, where it is known: times that overlap are counted once. Only with `minutes`.
    #[serde(default)]
    pub at: Option<i32>,
}

impl Record for Absence {
    has_id!(AbsenceId);

    const ABOUT: About = About {
        counts: ("absence", "absences"),
        own: true,
        title: "email",
        room: Room::Setup,
        says: "When somebody is away, for whole days or for some hours of each.",
        usual: &["email", "start", "end", "kind", "hours_per_day", "at"],
        facets: &["kind"],
        ..About::new("time off", "time off", "absences.csv", "time-off")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        may("ref", "Ref", at!(reference: Line)).hint("The key in files."),
        must("email", "Who", at!(person: To)).example("oona@tidewater.test"),
        must("start", "First day", at!(start: Date)).example("2026-03-09"),
        must("end", "Last day", at!(end: Date)).example("2026-03-20"),
        may("kind", "Kind", at!(kind: Used)).hint("As “vacation”.").seen(Sight::Private),
        may("hours_per_day", "Hours a day", at!(minutes: Hours)).hint("Empty: the whole day.").bounds(0, 24),
        may(
            "at",
            "From",
            Access::by_hand(
                Input::Line,
                |it: &mut Self, text, _| {
                    it.at = Some(cell::time_of_day(text)?);
                    Ok(())
                },
                |it: &Self, _| it.at.map(cell::time_of_day_text).unwrap_or_default(),
            ),
        )
        .hint("As 09:30, where it is known: what overlaps counts once."),
    ];

    fn blank() -> Self {
        let (id, person) = (AbsenceId(0), PersonId(0));
        let (reference, kind) = (String::new(), String::new());
        Self { id, reference, person, start: Day::MIN, end: Day::MIN, kind, minutes: None, at: None }
    }
    fn key(&self) -> String {
        self.reference.clone()
    }
    // Its kind is for some eyes only.
    fn name(&self) -> String {
        String::new()
    }
    fn whose(&self) -> Option<PersonId> {
        Some(self.person)
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        range(Some(self.start), Some(self.end)).map_err(|message| Refusal::value("end", message))?;
        line("kind", &self.kind)?;
        match (self.minutes, self.at) {
            (Some(minutes), _) if !(1..=1_440).contains(&minutes) => {
                Err(Refusal::value("hours_per_day", "Write hours between 0 and 24, or nothing for the whole day."))
            }
            (None, Some(_)) => Err(Refusal::value("at", "A time of day needs the hours that it takes, too.")),
            (Some(minutes), Some(at)) if at < 0 || at + minutes > 1_440 => {
                Err(Refusal::value("at", "Write a time from which the hours end before midnight, as 09:30."))
            }
            _ => Ok(()),
        }
    }

    fn may_own(plan: &Plan, edit: &Edit<Self>, actor: &Actor<'_>) -> bool {
        edit.both(|absence| actor.is(plan, absence.person))
    }

    // Each lies with its person, so that one person's change copies one person.
    fn all(plan: &Plan) -> Box<dyn Iterator<Item = Cow<'_, Self>> + '_> {
        Box::new(plan.people.values().flat_map(|entry| entry.absences.iter()).map(Cow::Borrowed))
    }
    fn find(plan: &Plan, id: AbsenceId) -> Option<Cow<'_, Self>> {
        Self::all(plan).find(|absence| absence.id == id)
    }
    fn found(plan: &Plan, edit: &Edit<Self>) -> Option<Self> {
        let of = |absence: &Self| {
            plan.people.get(&absence.person)?.absences.iter().find(|standing| standing.id == absence.id).cloned()
        };
        // It may have gone from one person to another.
        edit.before.as_ref().and_then(of).or_else(|| edit.after.as_ref().and_then(of))
    }
    fn put(plan: &mut Plan, edit: &Edit<Self>) {
        plan.put_absence(edit);
    }
}
