//! Meetings of projects: they take their time from those who come.

use super::{
    About, Access, Column, Input, Key, PersonId, ProjectId, Record, Room,
    codec::{Date, Hours, Line, To, ToSeveral, Whole},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Day, Plan, Refusal, cell,
    rules::{LONGEST_DAYS, line, named},
};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

identity!(
    /// A meeting of a project.
    MeetingId of Meeting
);

/// A meeting, once or every so many weeks.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Meeting {
    /// Identity inside the plan.
    pub id: MeetingId,
    /// The key in files; empty for none.
    #[serde(rename = "ref")]
    pub reference: String,
    /// The project that meets.
    pub project: ProjectId,
    /// What it is about.
    pub title: String,
    /// Who comes.
    pub people: Vec<PersonId>,
    /// The first day.
    pub date: Day,
    /// The minute of the day at which it begins.
    pub at: i32,
    /// How long it takes, in minutes.
    pub minutes: i32,
    /// Every how many weeks; 0 for once.
    pub every_weeks: i32,
    /// The last day on which it may be; nothing for once.
    pub until: Option<Day>,
}

/// The most times that one meeting is held: every week for ten years.
const MOST_TIMES: i32 = 522;
/// The most people who come to one.
const MOST_PEOPLE: usize = 500;

impl Meeting {
    /// The days on which it is held.
    pub fn days(&self) -> impl Iterator<Item = Day> + '_ {
        let step = self.every_weeks * 7;
        let last = if step > 0 { self.until.unwrap_or(self.date) } else { self.date };
        let times = if step > 0 { (last.since(self.date) / step).min(MOST_TIMES) } else { 0 };
        (0..=times).map(move |time| self.date + time * step)
    }
}

impl Record for Meeting {
    has_id!(MeetingId);

    const ABOUT: About = About {
        key: Key::Ref,
        title: "title",
        room: Room::Schedule,
        says: "Meetings of projects. They take their time from what those who come can give.",
        usual: &["title", "project", "people", "date", "at", "hours", "every_weeks", "until"],
        facets: &["project"],
        found_by: &["ref"],
        beside: "project",
        ..About::new("meeting", "meetings", "meetings.csv", "meetings")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        may("ref", "Ref", at!(reference: Line)).hint("The key in files."),
        must("project", "Project", at!(project: To)).example("moon"),
        must("title", "What it is about", at!(title: Line)).example("Monday round of the dome"),
        may("people", "Who comes", at!(people: ToSeveral)).hint("Addresses with ; between."),
        must("date", "First day", at!(date: Date)).example("2026-03-09"),
        must(
            "at",
            "From",
            Access::by_hand(
                Input::Line,
                |it: &mut Self, text, _| {
                    it.at = cell::time_of_day(text)?;
                    Ok(())
                },
                |it: &Self, _| cell::time_of_day_text(it.at),
            ),
        )
        .hint("As 09:30.")
        .example("09:30"),
        must("hours", "Hours", at!(minutes: Hours)).bounds(0, 24).example("1"),
        may("every_weeks", "Every … weeks", at!(every_weeks: Whole)).hint("Empty or 0: once.").bounds(0, 52),
        may("until", "Last day", at!(until: Date)).hint("Of one that comes again."),
    ];

    fn blank() -> Self {
        Self {
            id: MeetingId(0),
            reference: String::new(),
            project: ProjectId(0),
            title: String::new(),
            people: Vec::new(),
            date: Day::MIN,
            at: 540,
            minutes: 60,
            every_weeks: 0,
            until: None,
        }
    }
    fn key(&self) -> String {
        self.reference.clone()
    }
    fn name(&self) -> String {
        self.title.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        line("ref", &self.reference)?;
        named("title", &self.title, "Say what the meeting is about.")?;
        if !(1..=1_440).contains(&self.minutes) {
            return Err(Refusal::value("hours", "Write hours between 0 and 24."));
        }
        if self.at < 0 || self.at + self.minutes > 1_440 {
            return Err(Refusal::value("at", "Write a time from which the hours end before midnight, as 09:30."));
        }
        if !(0..=52).contains(&self.every_weeks) {
            return Err(Refusal::value("every_weeks", "Write a number of weeks up to 52, or nothing for once."));
        }
        if self.people.len() > MOST_PEOPLE {
            return Err(Refusal::value("people", format!("At most {MOST_PEOPLE} people come to a meeting.")));
        }
        match (self.every_weeks, self.until) {
            (0, Some(_)) => Err(Refusal::value("every_weeks", "Say every how many weeks it comes again.")),
            (1.., None) => Err(Refusal::value("until", "Say until when it comes again.")),
            (_, Some(until)) if until < self.date => {
                Err(Refusal::value("until", "The last day is not before the first."))
            }
            (_, Some(until)) if until.since(self.date) > LONGEST_DAYS => {
                Err(Refusal::value("until", "A meeting comes again for ten years at most."))
            }
            _ => Ok(()),
        }
    }

    fn tidy(&mut self, _: &Plan, _: bool) {
        let mut seen = BTreeSet::new();
        self.people.retain(|person| seen.insert(*person));
    }

    stands_in!(records.meetings, put_meeting);
}
