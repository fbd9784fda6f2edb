//! What a template has: tasks and milestones, with dates counted in working days and roles in place of people.

use super::{
    About, Column, Contour, Key, Record, Room, TeamId, TemplateId,
    codec::{Hours, Line, MayTo, Number, To, Used, Whole, Word, Words, Yes},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Day, Refusal,
    rules::{MOST_EFFORT, line, named},
};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

identity!(
    /// A task of a template.
    TemplateTaskId of TemplateTask
);

/// A task of a template, or a milestone.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct TemplateTask {
    /// Identity inside the plan.
    pub id: TemplateTaskId,
    /// The template.
    pub template: TemplateId,
    /// By what others of the template name it.
    pub line: String,
    /// The line that it is inside of; empty for none.
    pub parent: String,
    /// What is to be done, or what happens.
    pub title: String,
    /// The kind of work.
    pub kind: String,
    /// The roles of those who do it.
    pub roles: Vec<String>,
    /// The team that it is given to.
    pub team: Option<TeamId>,
    /// Minutes thought to be needed.
    pub estimate: Option<i64>,
    /// Size in points.
    pub points: Option<Decimal>,
    /// The first day, in working days after the first one of the project; nothing where it has no dates.
    pub begins: Option<i32>,
    /// How many working days it takes.
    pub days: Option<i32>,
    /// How the effort lies over its days.
    pub contour: Contour,
    /// Whether it is a milestone, on its first day.
    pub milestone: bool,
    /// What it follows, each as `FS line +2`: a type of link, a line, and working days between the two.
    pub after: Vec<String>,
}

/// The farthest that a template reaches, in working days: ten years.
pub const MOST_DAYS: i32 = 2_600;

impl Record for TemplateTask {
    has_id!(TemplateTaskId);

    const ABOUT: About = About {
        counts: ("task of a template", "tasks of templates"),
        key: Key::Pair,
        key_column: "line",
        title: "title",
        room: Room::Schedule,
        says: "What the templates have, with days counted from the beginning and roles in place of people.",
        usual: &["title", "template", "line", "parent", "roles", "team", "estimate_h", "begins", "days", "after"],
        facets: &["template", "team"],
        ..About::new("template task", "template tasks", "template_tasks.csv", "template-tasks")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("template", "Template", at!(template: To)).example("travelling"),
        must("line", "Line", at!(line: Line)).hint("By what other lines of the template name it.").example("A1"),
        may("parent", "Inside", at!(parent: Line)).hint("The line that it is inside of."),
        must("title", "What is to be done", at!(title: Line)).example("Drawings"),
        may("kind", "Kind of work", at!(kind: Used)),
        may("roles", "Roles", at!(roles: Words)).hint("Who does it, by role, with ; between."),
        may("team", "Team", at!(team: MayTo)),
        may("estimate_h", "Estimate", at!(estimate: Hours)).bounds(0, 100_000).adds_up(),
        may("points", "Points", at!(points: Number)).bounds(0, 1_000_000),
        may("begins", "Begins after", at!(begins: Whole))
            .hint("Working days after the first one.")
            .bounds(0, MOST_DAYS),
        may("days", "Takes days", at!(days: Whole)).hint("Working days.").bounds(1, MOST_DAYS),
        may("contour", "Contour", at!(contour: Word)),
        may("milestone", "Milestone", at!(milestone: Yes)).hint("It is a milestone, on its first day."),
        may("after", "Follows", at!(after: Words)).hint("As “FS A1 +2”, with ; between."),
    ];

    fn blank() -> Self {
        Self {
            id: TemplateTaskId(0),
            template: TemplateId(0),
            line: String::new(),
            parent: String::new(),
            title: String::new(),
            kind: String::new(),
            roles: Vec::new(),
            team: None,
            estimate: None,
            points: None,
            begins: None,
            days: None,
            contour: Contour::Flat,
            milestone: false,
            after: Vec::new(),
        }
    }
    fn key(&self) -> String {
        format!("{}\n{}", self.template, self.line)
    }
    fn name(&self) -> String {
        self.title.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("line", &self.line, "Give the line a short name.")?;
        named("title", &self.title, "Say what is to be done.")?;
        line("parent", &self.parent)?;
        line("kind", &self.kind)?;
        if self.estimate.is_some_and(|minutes| !(0..=MOST_EFFORT).contains(&minutes)) {
            return Err(Refusal::value("estimate_h", "Write a number of hours up to 100,000."));
        }
        if self.begins.is_some_and(|days| !(0..=MOST_DAYS).contains(&days)) {
            return Err(Refusal::value("begins", "Write a number of working days up to 2,600."));
        }
        if self.days.is_some_and(|days| !(1..=MOST_DAYS).contains(&days)) {
            return Err(Refusal::value("days", "Write a number of working days from 1 to 2,600."));
        }
        if self.begins.is_none() && self.days.is_some() {
            return Err(Refusal::value("begins", "Say after how many days it begins."));
        }
        if self.milestone && self.begins.is_none() {
            return Err(Refusal::value("begins", "A milestone needs its day."));
        }
        for text in self.roles.iter().chain(&self.after) {
            line("after", text)?;
        }
        for text in &self.after {
            crate::templates::follows(text).map_err(|message| Refusal::value("after", message))?;
        }
        Ok(())
    }

    stands_in!(records.template_tasks);
}
