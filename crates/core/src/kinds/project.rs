//! Projects.

use super::{
    About, Column, Key, PersonId, Record, Room, Sight, TeamId,
    codec::{Date, Hours, Line, MayTo, Number, Word},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Day, Refusal, Role,
    fields::{FieldOf, FieldValues},
    rules::{named, range},
    text::TextOn,
    words::words,
};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

identity!(
    /// A project.
    ProjectId of Project
);

/// A project, possibly inside another one.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Project {
    /// Identity inside the plan.
    pub id: ProjectId,
    /// The key in files, unique.
    pub code: String,
    /// The name shown.
    pub name: String,
    /// Where the project stands.
    pub status: ProjectStatus,
    /// The project it is a part of.
    pub parent: Option<ProjectId>,
    /// Who leads it.
    pub lead: Option<PersonId>,
    /// The team its work goes to when nobody picks.
    pub team: Option<TeamId>,
    /// First day.
    pub start: Option<Day>,
    /// Last day.
    pub finish: Option<Day>,
    /// Minutes it may take.
    pub budget_minutes: Option<i64>,
    /// Money it may take, in the workspace currency.
    pub budget_money: Option<Decimal>,
    /// Values of the workspace's own fields.
    #[serde(default, skip_serializing_if = "FieldValues::is_empty", with = "crate::fields::pairs")]
    pub fields: FieldValues,
}

/// Where a project stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum ProjectStatus {
    /// Planned ahead, with no tasks yet.
    Sketch,
    /// Running.
    Active,
    /// Resting; may be planned, not pressing.
    Paused,
    /// Over: nothing can be booked on it.
    Closed,
}

words!(ProjectStatus { Sketch = "sketch", Active = "active", Paused = "paused", Closed = "closed" });

impl Record for Project {
    has_id!(ProjectId);

    const ABOUT: About = About {
        least: Role::Manager,
        key: Key::Named,
        key_column: "code",
        room: Room::Schedule,
        says: "Projects, one inside another. A sketch project has no tasks yet and is planned by bookings.",
        usual: &["name", "code", "status", "parent", "lead", "start", "finish", "budget_h"],
        facets: &["status", "lead", "parent", "team"],
        found_by: &["code"],
        beside: "status",
        own_fields: Some(FieldOf::Project),
        texts: Some(TextOn::Project),
        ..About::new("project", "projects", "projects.csv", "projects")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("code", "Code", at!(code: Line)).hint("Short, unique; the key in files.").example("moon"),
        must("name", "Name", at!(name: Line)).example("Moon Garden"),
        may("status", "Status", at!(status: Word)).hint("Nothing can be booked on a closed project.").example("active"),
        may("parent", "Inside", at!(parent: MayTo)).hint("The project it is a part of."),
        may("lead", "Lead", at!(lead: MayTo)),
        may("team", "Default team", at!(team: MayTo)).hint("Who gets its work when nobody picks."),
        may("start", "Start", at!(start: Date)).example("2026-03-09"),
        may("finish", "Finish", at!(finish: Date)).example("2026-06-30"),
        may("budget_h", "Budget, hours", at!(budget_minutes: Hours)).bounds(0, 1_000_000).adds_up(),
        may("budget_money", "Budget, money", at!(budget_money: Number)).bounds(0, 1_000_000_000).seen(Sight::Money),
    ];

    fn blank() -> Self {
        Self {
            id: ProjectId(0),
            code: String::new(),
            name: String::new(),
            status: ProjectStatus::Active,
            parent: None,
            lead: None,
            team: None,
            start: None,
            finish: None,
            budget_minutes: None,
            budget_money: None,
            fields: FieldValues::new(),
        }
    }
    fn key(&self) -> String {
        self.code.clone()
    }
    fn name(&self) -> String {
        self.name.clone()
    }
    fn parent(&self) -> Option<ProjectId> {
        self.parent
    }
    fn own(&self) -> Option<(FieldOf, &FieldValues)> {
        Some((FieldOf::Project, &self.fields))
    }
    fn own_mut(&mut self) -> Option<&mut FieldValues> {
        Some(&mut self.fields)
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("code", &self.code, "Give a short code; files use it.")?;
        named("name", &self.name, "Give the project a name.")?;
        range(self.start, self.finish).map_err(|message| Refusal::value("finish", message))?;
        if self.budget_minutes.is_some_and(|minutes| !(0..=60_000_000).contains(&minutes)) {
            return Err(Refusal::value("budget_h", "Write a number of hours up to 1,000,000."));
        }
        if self.budget_money.is_some_and(|money| money.is_sign_negative()) {
            return Err(Refusal::value("budget_money", "A budget is not less than nothing."));
        }
        Ok(())
    }

    stands_in!(records.projects);
}
