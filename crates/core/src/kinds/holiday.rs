//! Holidays of regions.

use super::{
    About, Access, Column, Input, Record, Room,
    codec::{Date, Line, Used},
    column::{at, may, must},
    record::{has_id, identity},
};
use crate::{
    Day, Plan, Refusal, Role, cell,
    edit::Edit,
    rules::{line, named},
};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

identity!(
    /// One holiday of one calendar.
    HolidayId of Holiday
);

/// One holiday of one calendar.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Holiday {
    /// Identity inside the plan.
    pub id: HolidayId,
    /// The calendar's name.
    pub calendar: String,
    /// The day.
    pub date: Day,
    /// What the day is called.
    pub name: String,
    /// How much of the day is off, in millionths of a day, 1..=1 000 000. Several on one day add up, to the whole day at most.
    pub fraction: i32,
}

impl Record for Holiday {
    has_id!(HolidayId);

    const ABOUT: About = About {
        least: Role::Manager,
        key_column: "",
        title: "date",
        room: Room::Setup,
        says: "Holidays by region; a person follows one calendar.",
        usual: &["name", "date", "calendar", "fraction"],
        facets: &["calendar"],
        ..About::new("holiday", "holidays", "holidays.csv", "holidays")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("calendar", "Calendar", at!(calendar: Used)).hint("The region’s name.").example("Harbour"),
        must("date", "Date", at!(date: Date)).example("2026-05-01"),
        may("name", "Name", at!(name: Line)),
        may(
            "fraction",
            "Part of the day",
            Access::by_hand(
                Input::Number,
                |it: &mut Self, text, _| {
                    let part = cell::scaled(cell::number(text)?, 1_000_000, 1_000_000).filter(|part: &i32| *part > 0);
                    let bad = || format!("“{text}” is no part of a day; write 1 for the whole day, 0.5 for half of it");
                    it.fraction = part.ok_or_else(bad)?;
                    Ok(())
                },
                |it: &Self, _| Decimal::new(i64::from(it.fraction), 6).normalize().to_string(),
            ),
        )
        .hint("1 for the whole day, 0.5 for half of it.")
        .bounds(0, 1),
    ];

    fn blank() -> Self {
        let (calendar, name) = (String::new(), String::new());
        Self { id: HolidayId(0), calendar, date: Day::MIN, name, fraction: 1_000_000 }
    }
    fn key(&self) -> String {
        format!("{}\n{}\n{}", self.calendar, self.date, self.name)
    }
    fn name(&self) -> String {
        self.name.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("calendar", &self.calendar, "Say whose calendar this is, as a region.")?;
        line("name", &self.name)?;
        if (1..=1_000_000).contains(&self.fraction) {
            return Ok(());
        }
        Err(Refusal::value("fraction", "Write 1 for the whole day, 0.5 for half of it."))
    }

    // Each lies in its calendar, in the order of days.
    fn all(plan: &Plan) -> Box<dyn Iterator<Item = Cow<'_, Self>> + '_> {
        Box::new(plan.calendars.values().flat_map(|calendar| &calendar.holidays).map(Cow::Borrowed))
    }
    fn find(plan: &Plan, id: HolidayId) -> Option<Cow<'_, Self>> {
        Self::all(plan).find(|holiday| holiday.id == id)
    }
    fn found(plan: &Plan, edit: &Edit<Self>) -> Option<Self> {
        let of = |holiday: &Self| {
            plan.calendars.get(&holiday.calendar)?.holidays.iter().find(|standing| standing.id == holiday.id).cloned()
        };
        // It may have moved to another calendar.
        edit.before.as_ref().and_then(of).or_else(|| edit.after.as_ref().and_then(of))
    }
    fn put(plan: &mut Plan, edit: &Edit<Self>) {
        plan.put_holiday(edit);
    }
}
