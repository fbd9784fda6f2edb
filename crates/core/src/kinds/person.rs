//! People and equipment.

use super::{
    About, Access, Column, Input, Key, Kind, Part, Record, Room, Sight, Spec,
    codec::{Hours, Line, Number, Used, Whole, Word, Words},
    column::{at, may, must, spec},
    part::put_by,
    record::{has_id, identity},
};
use crate::{
    Day, Plan, Refusal, Role, cell,
    edit::Edit,
    fields::{FieldOf, FieldValues},
    kinds::Wrong,
    pattern::Pattern,
    rules::{line, named},
    text::TextOn,
    words::words,
};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

identity!(
    /// A person or a piece of equipment.
    PersonId of Person
);

/// Somebody, or something, whose time can be booked.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Person {
    /// Identity inside the plan.
    pub id: PersonId,
    /// The key in files, unique, lower case.
    pub email: String,
    /// The name shown.
    pub name: String,
    /// What this person does, "rigger"; empty for none.
    pub role: String,
    /// A person or a piece of equipment; both are booked alike.
    pub kind: PersonKind,
    /// The name of the holiday calendar; empty for none.
    pub calendar: String,
    /// Working patterns, the first in force from ever, the others from their day on; never empty.
    pub patterns: Vec<DatedPattern>,
    /// The most minutes on one day.
    pub day_limit: Option<i32>,
    /// The most minutes in one ISO week.
    pub week_limit: Option<i32>,
    /// The most projects at a time.
    pub max_projects: Option<i32>,
    /// The most tasks at a time.
    pub max_tasks: Option<i32>,
    /// The most points a sprint.
    pub max_points: Option<Decimal>,
    /// What this person can do, in the order written.
    pub skills: Vec<String>,
    /// Rates per hour, the first in force from ever, the others from their day on.
    pub rates: Vec<DatedRate>,
    /// Values of the workspace's own fields.
    #[serde(default, skip_serializing_if = "FieldValues::is_empty", with = "crate::fields::pairs")]
    pub fields: FieldValues,
}

/// Whether a row of the plan is somebody or something.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum PersonKind {
    /// A human being.
    Person,
    /// A machine, a vehicle, a bench.
    Equipment,
}

words!(PersonKind { Person = "person", Equipment = "equipment" });

/// A working pattern and the day from which it holds.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct DatedPattern {
    /// The first day; `None` for the pattern that holds from ever.
    pub from: Option<Day>,
    /// The pattern.
    pub pattern: Pattern,
}

impl DatedPattern {
    /// The Monday from which weeks are counted: that of the start, or of ISO week 1 of 2024 for the first pattern.
    #[must_use]
    pub fn anchor(&self) -> Day {
        self.from.map_or(Day::from_number(19_723), Day::monday)
    }
}

/// The week of the pattern that is in force on a day, in minutes from Monday on; `None` before the first one. They stand in the order of
/// their days.
#[must_use]
pub fn week_in_force(patterns: &[DatedPattern], day: Day) -> Option<&[i32; 7]> {
    let dated = patterns.iter().rev().find(|dated| dated.from.is_none_or(|from| from <= day))?;
    dated.pattern.week(dated.anchor(), day)
}

/// Money per hour and the day from which it holds.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct DatedRate {
    /// The first day; `None` for the rate that holds from ever.
    pub from: Option<Day>,
    /// What an hour costs.
    pub cost: Option<Decimal>,
    /// What an hour is billed at.
    pub bill: Option<Decimal>,
}

const fn owner() -> Spec {
    Spec { must: true, ..spec("email", "E-mail", Input::One(Kind::Person)) }
}

const fn from() -> Spec {
    Spec { must: true, ..spec("from", "From", Input::Date) }
}

const PATTERNS: Part<Person> = Part {
    name: "patterns",
    file: "patterns.csv",
    title: "Later patterns",
    says: "From a day on, another usual week. Clear a row to take it away.",
    columns: &[owner(), from(), Spec { must: true, ..spec("pattern", "Usual week", Input::Line) }],
    twice: "Two patterns begin on one day.",
    rows: |person, _| {
        let dated = person.patterns.iter().filter_map(|dated| Some((dated.from?, &dated.pattern)));
        dated.map(|(from, pattern)| vec![from.to_string(), cell::pattern_text(pattern)]).collect()
    },
    put: |person, row, _| {
        let (from, text) = begins(row)?;
        let pattern = cell::pattern(text.first().copied().unwrap_or_default()).map_err(|reason| ("pattern", reason))?;
        let dated = DatedPattern { from: Some(from), pattern };
        Ok(put_by(&mut person.patterns, dated, |dated| dated.from))
    },
    keep: |person, standing| {
        person.patterns.extend(standing.patterns.iter().filter(|dated| dated.from.is_some()).cloned());
    },
};

const RATES: Part<Person> = Part {
    name: "rates",
    file: "rates.csv",
    title: "Later rates",
    says: "From a day on, other rates.",
    columns: &[
        owner(),
        from(),
        Spec { sight: Sight::Money, ..spec("cost_rate", "Cost an hour", Input::Number) },
        Spec { sight: Sight::Money, ..spec("bill_rate", "Billed an hour", Input::Number) },
    ],
    twice: "Two rates begin on one day.",
    rows: |person, _| {
        let text = |money: Option<Decimal>| money.map(|money| money.to_string()).unwrap_or_default();
        let dated = person.rates.iter().filter_map(|rate| Some((rate.from?, rate)));
        dated.map(|(from, rate)| vec![from.to_string(), text(rate.cost), text(rate.bill)]).collect()
    },
    put: |person, row, _| {
        let (from, money) = begins(row)?;
        let read = |at: usize, column: &'static str| match money.get(at).copied().unwrap_or_default() {
            "" => Ok(None),
            text => cell::number(text).map(Some).map_err(|reason| (column, reason)),
        };
        let rate = DatedRate { from: Some(from), cost: read(0, "cost_rate")?, bill: read(1, "bill_rate")? };
        Ok(put_by(&mut person.rates, rate, |rate| rate.from))
    },
    keep: |person, standing| {
        person.rates.extend(standing.rates.iter().filter(|rate| rate.from.is_some()).cloned());
    },
};

/// The day from which a row holds, and its other cells.
fn begins<'a>(row: &'a [&'a str]) -> Result<(Day, &'a [&'a str]), Wrong> {
    let (from, rest) = row.split_first().unwrap_or((&"", &[]));
    let from =
        if from.is_empty() { Err("is empty".to_owned()) } else { from.parse::<Day>().map_err(|e| e.to_string()) };
    Ok((from.map_err(|reason| ("from", reason))?, rest))
}

/// The highest rate an hour, so that no sum of costs is too large.
const HIGHEST_RATE: i32 = 1_000_000;

/// The first rate, which holds from ever, and the way to it.
fn first_rate(person: &mut Person) -> &mut DatedRate {
    if person.rates.first().is_none_or(|rate| rate.from.is_some()) {
        person.rates.insert(0, DatedRate { from: None, cost: None, bill: None });
    }
    &mut person.rates[0]
}

fn rate(person: &Person, of: impl Fn(&DatedRate) -> Option<Decimal>) -> String {
    let first = person.rates.iter().find(|rate| rate.from.is_none());
    first.and_then(of).map(|money| money.to_string()).unwrap_or_default()
}

impl Record for Person {
    has_id!(PersonId);

    const ABOUT: About = About {
        least: Role::Manager,
        key: Key::Named,
        key_column: "email",
        room: Room::Setup,
        says: "People and equipment: how much they work, what they can do, and their own limits.",
        usual: &["name", "role", "pattern", "week_limit_h", "max_projects", "skills", "holiday_calendar"],
        facets: &["role", "kind", "holiday_calendar"],
        found_by: &["role", "email"],
        beside: "role",
        own_fields: Some(FieldOf::Person),
        texts: Some(TextOn::Person),
        ..About::new("person", "people", "people.csv", "people")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must(
            "email",
            "E-mail",
            Access::by_hand(
                Input::Line,
                |it: &mut Self, text, _| {
                    it.email = text.to_lowercase();
                    if text.contains('@') { Ok(()) } else { Err(format!("“{text}” is no e-mail address")) }
                },
                |it: &Self, _| it.email.clone(),
            ),
        )
        .hint("The key in files; a piece of equipment needs one too, as lift@example.test.")
        .example("oona@tidewater.test"),
        must("name", "Name", at!(name: Line)).example("Oona Varga"),
        may("role", "Role", at!(role: Used)).hint("What this person does, as “rigger”."),
        may("kind", "Kind", at!(kind: Word)).hint("Equipment is booked exactly as people are.").example("person"),
        may("holiday_calendar", "Holidays", at!(calendar: Used)).hint("The calendar of the region."),
        may(
            "pattern",
            "Usual week",
            Access::by_hand(
                Input::Line,
                |it: &mut Self, text, _| {
                    it.patterns[0].pattern = cell::pattern(text)?;
                    Ok(())
                },
                |it: &Self, _| it.patterns.first().map(|dated| cell::pattern_text(&dated.pattern)).unwrap_or_default(),
            ),
        )
        .hint("Seven numbers of hours from Monday, 8 8 8 8 8 0 0; rotating weeks with | between.")
        .example("8 8 8 8 8 0 0"),
        may("day_limit_h", "Hours a day, at most", at!(day_limit: Hours)).bounds(0, 24),
        may("week_limit_h", "Hours a week, at most", at!(week_limit: Hours)).bounds(0, 168),
        may("max_projects", "Projects at a time", at!(max_projects: Whole)).bounds(0, 1_000),
        may("max_tasks", "Tasks at a time", at!(max_tasks: Whole)).bounds(0, 1_000),
        may("max_points", "Points a sprint", at!(max_points: Number)).bounds(0, 1_000_000),
        may("skills", "Skills", at!(skills: Words)).hint("With ; between, as “welding; rigging”."),
        may(
            "cost_rate",
            "Cost an hour",
            Access::by_hand(
                Input::Number,
                |it: &mut Self, text, _| {
                    first_rate(it).cost = Some(cell::number(text)?);
                    Ok(())
                },
                |it: &Self, _| rate(it, |rate| rate.cost),
            ),
        )
        .bounds(0, HIGHEST_RATE)
        .seen(Sight::Money),
        may(
            "bill_rate",
            "Billed an hour",
            Access::by_hand(
                Input::Number,
                |it: &mut Self, text, _| {
                    first_rate(it).bill = Some(cell::number(text)?);
                    Ok(())
                },
                |it: &Self, _| rate(it, |rate| rate.bill),
            ),
        )
        .bounds(0, HIGHEST_RATE)
        .seen(Sight::Money),
    ];

    const PARTS: &'static [Part<Self>] = &[PATTERNS, RATES];

    fn blank() -> Self {
        Self {
            id: PersonId(0),
            email: String::new(),
            name: String::new(),
            role: String::new(),
            kind: PersonKind::Person,
            calendar: String::new(),
            patterns: vec![DatedPattern { from: None, pattern: Pattern::full_time() }],
            day_limit: None,
            week_limit: None,
            max_projects: None,
            max_tasks: None,
            max_points: None,
            skills: Vec::new(),
            rates: Vec::new(),
            fields: FieldValues::new(),
        }
    }
    fn key(&self) -> String {
        self.email.to_lowercase()
    }
    fn key_in(line: &super::sheet::Line<'_>) -> String {
        line.cell("email").to_lowercase()
    }
    fn name(&self) -> String {
        self.name.clone()
    }
    fn own(&self) -> Option<(FieldOf, &FieldValues)> {
        Some((FieldOf::Person, &self.fields))
    }
    fn own_mut(&mut self) -> Option<&mut FieldValues> {
        Some(&mut self.fields)
    }

    fn tidy(&mut self, _: &Plan, _: bool) {
        self.email = self.email.trim().to_lowercase();
        self.name = self.name.trim().to_owned();
        self.role = self.role.trim().to_owned();
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("name", &self.name, "Give a name.")?;
        line("email", &self.email)?;
        line("role", &self.role)?;
        line("holiday_calendar", &self.calendar)?;
        let address = self.email.split_once('@').is_some_and(|(name, host)| !name.is_empty() && !host.is_empty());
        if !address || self.email.contains(char::is_whitespace) {
            let message = format!("“{}” is no e-mail address; write one as mira@example.test.", self.email);
            return Err(Refusal::value("email", message));
        }
        if self.patterns.is_empty() {
            return Err(Refusal::value("pattern", "Say how many hours a day are worked."));
        }
        self.patterns.iter().try_for_each(|dated| possible(&dated.pattern))?;
        let most = |field, value: Option<i32>, most: i32, says: &'static str| match value {
            Some(value) if !(0..=most).contains(&value) => Err(Refusal::value(field, says)),
            _ => Ok(()),
        };
        most("day_limit_h", self.day_limit, 1_440, "A day has 24 hours.")?;
        most("week_limit_h", self.week_limit, 10_080, "A week has 168 hours.")?;
        most("max_projects", self.max_projects, 1_000, "Write a number of projects from 0 to 1,000.")?;
        most("max_tasks", self.max_tasks, 1_000, "Write a number of tasks from 0 to 1,000.")?;
        let rates = self.rates.iter().flat_map(|rate| [("cost_rate", rate.cost), ("bill_rate", rate.bill)]);
        for (column, rate) in rates {
            if rate.is_some_and(|rate| !(Decimal::ZERO..=Decimal::from(HIGHEST_RATE)).contains(&rate)) {
                return Err(Refusal::value(column, "Write what an hour costs as a number from 0 to 1,000,000."));
            }
        }
        self.skills.iter().try_for_each(|skill| line("skills", skill))
    }

    // A person stands with everything that decides their load.
    fn all(plan: &Plan) -> Box<dyn Iterator<Item = Cow<'_, Self>> + '_> {
        Box::new(plan.people.values().map(|entry| Cow::Borrowed(&*entry.person)))
    }
    fn find(plan: &Plan, id: PersonId) -> Option<Cow<'_, Self>> {
        plan.people.get(&id).map(|entry| Cow::Borrowed(&*entry.person))
    }
    fn put(plan: &mut Plan, edit: &Edit<Self>) {
        plan.put_person(edit);
    }
}

fn possible(pattern: &Pattern) -> Result<(), Refusal> {
    let possible = !pattern.0.is_empty() && pattern.0.iter().flatten().all(|minutes| (0..=1_440).contains(minutes));
    if possible { Ok(()) } else { Err(Refusal::value("pattern", "A day has between 0 and 24 hours.")) }
}
