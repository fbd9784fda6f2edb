//! Tasks as a kind of record: their columns, what they must keep to by themselves, what members may say of them.

use super::{
    About, Access, Assignees, Awaited, Column, Constraint, Contour, FIRST_STAGE, Input, Key, Keys, PersonId, Priority,
    ProjectId, Record, Room, Task, TaskId,
    codec::{Date, Hours, Line, MayTo, MayWord, Number, People, To, ToSeveral, Used, Whom, Word, Words, Yes},
    column::{at, may, must},
    record::{Figure, has_id},
};
use crate::{
    Actor, Day, Plan, Refusal, cell,
    demand::remaining_of,
    edit::Edit,
    fields::{FieldOf, FieldValues},
    kinds::{Kind, Wrong},
    network,
    rules::{MOST_EFFORT, MOST_PLACE, line, named, place, range},
    text::TextOn,
};
use std::borrow::Cow;

/// The most people who follow one task.
pub const MOST_FOLLOWERS: usize = 200;

/// The stages of every workspace; it may have others of its own.
const STAGES: [&str; 4] = [FIRST_STAGE, "doing", "checking", "done"];

impl Record for Task {
    has_id!(TaskId);

    const ABOUT: About = About {
        own: true,
        key: Key::Ref,
        title: "title",
        room: Room::Schedule,
        says: "Tasks across all projects. One with dates, effort and somebody is placed; the others wait in the tray.",
        usual: &[
            "title",
            "project",
            "assignees",
            "stage",
            "estimate_h",
            "remaining_h",
            "start",
            "finish",
            "due",
            "priority",
        ],
        facets: &["project", "stage", "priority", "kind", "team", "walk_in"],
        found_by: &["ref"],
        beside: "project",
        groups: &[
            (
                "Who",
                &[
                    "team",
                    "assignees",
                    "accountable",
                    "waiting_on",
                    "stuck",
                    "followers",
                    "needs",
                    "walk_in",
                    "requester",
                ],
            ),
            ("When", &["start", "finish", "due", "constraint", "constraint_date", "milestones", "sprint", "release"]),
            ("How much", &["estimate_h", "remaining_h", "points", "progress", "contour"]),
            ("Besides", &["tags", "colour", "ref", "place"]),
        ],
        own_fields: Some(FieldOf::Task),
        texts: Some(TextOn::Task),
        ..About::new("task", "tasks", "tasks.csv", "tasks")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        may("ref", "Ref", at!(reference: Line)).hint("The key in files; made when left empty."),
        must("project", "Project", at!(project: To)).example("moon"),
        may("parent", "Inside", at!(parent: MayTo)).hint("The task it is a part of."),
        must("title", "Title", at!(title: Line)).example("Crater relief, milling"),
        may("kind", "Kind of work", at!(kind: Used)).hint("As “build” or “text”; estimates are compared by it."),
        may("team", "Team", at!(team: MayTo)).hint("Its work counts wholly in this team’s row."),
        may("assignees", "Assignees", at!(assignees: People))
            .hint("Addresses with ; between: alone, with shares (mira@x.test=70), or each in full (mira@x.test=full).")
            .example("oona@tidewater.test=70;teo@tidewater.test=30"),
        may("contour", "Contour", at!(contour: Word)).hint("How the effort lies over its days."),
        may("estimate_h", "Estimate", at!(estimate: Hours))
            .hint("A parent may have one of its own before it is broken down.")
            .bounds(0, 100_000)
            .adds_up(),
        may(
            "remaining_h",
            "Remaining",
            // What was logged when it was typed belongs to it: see `finish`.
            Access::by_hand(
                Input::Hours,
                |_, text, _| cell::minutes::<i64>(text).map(drop),
                |it: &Self, plan| remaining_of(plan, it).map(cell::hours_text).unwrap_or_default(),
            ),
        )
        .hint("Left empty, it is the estimate less what was logged.")
        .bounds(0, 100_000)
        .adds_up(),
        may("points", "Points", at!(points: Number)).bounds(0, 1_000_000),
        may("start", "Start", at!(start: Date)).example("2026-03-09"),
        may("finish", "Finish", at!(finish: Date)).example("2026-03-20"),
        may("due", "Due", at!(due: Date)),
        may("constraint", "Constraint", at!(constraint: MayWord)).hint("What holds its dates."),
        may("constraint_date", "Constraint’s day", at!(constraint_date: Date))
            .hint("For “not before” and “not after”."),
        may("milestones", "Milestones", at!(milestones: ToSeveral)).hint("Refs with ; between: what waits for it."),
        may("needs", "Needs", at!(needs: Used)).hint("The role or skill that it takes."),
        may("priority", "Priority", at!(priority: Word)),
        may(
            "stage",
            "Stage",
            Access::by_hand(
                Input::Choice(|| STAGES.to_vec()),
                |it: &mut Self, text, _| {
                    text.clone_into(&mut it.stage);
                    Ok(())
                },
                |it: &Self, _| it.stage.clone(),
            ),
        )
        .hint("A done task carries no load."),
        may(
            "progress",
            "Progress, %",
            Access::by_hand(
                Input::Number,
                |it: &mut Self, text, _| {
                    let percent = cell::number(text)?;
                    it.progress = Some(percent);
                    if percent <= 100.into() { Ok(()) } else { Err("is more than 100 %".to_owned()) }
                },
                |it: &Self, _| it.progress.map(|percent| percent.to_string()).unwrap_or_default(),
            ),
        )
        .bounds(0, 100),
        may("tags", "Tags", at!(tags: Words)).hint("With ; between."),
        may("walk_in", "Walk-in", at!(walk_in: Yes)).hint("Arrived while the plan was running."),
        may("requester", "Asked for by", at!(requester: Line)).hint("Who asked for the walk-in."),
        may("sprint", "Sprint", at!(sprint: MayTo)),
        may("release", "Release", at!(release: MayTo)),
        may("line", "Budget line", at!(line: Used)).hint("Left empty, the project’s only line."),
        may("accountable", "Accountable", at!(accountable: MayTo)).hint("Who answers for it, whoever does it."),
        may("waiting_on", "Waiting on", at!(waiting_on: Whom))
            .hint("Somebody by their address, or words for somebody else."),
        may("stuck", "Stuck, because", at!(stuck: Line)).hint("Why it does not go on; empty when it does."),
        may("followers", "Followers", at!(followers: ToSeveral))
            .hint("Addresses with ; between: who gets a mail when somebody comments."),
        may("colour", "Colour", at!(colour: MayWord)).hint("Left empty, it has its project’s."),
        may("place", "Place", at!(place: Number))
            .hint("Among those beside it, the smallest first; the outline sets it.")
            .bounds(0, MOST_PLACE),
    ];

    const FIGURES: &'static [Figure<Self>] =
        &[Figure { name: "links", label: "Links", says: |task, plan| network::links_in_words(plan, task.id) }];

    fn blank() -> Self {
        Self {
            id: TaskId(0),
            reference: String::new(),
            project: ProjectId(0),
            parent: None,
            title: String::new(),
            kind: String::new(),
            team: None,
            assignees: Assignees::Even(Vec::new()),
            contour: Contour::Flat,
            estimate: None,
            remaining: None,
            logged_then: 0,
            points: None,
            start: None,
            finish: None,
            due: None,
            priority: Priority::Normal,
            stage: FIRST_STAGE.to_owned(),
            progress: None,
            tags: Vec::new(),
            walk_in: false,
            requester: String::new(),
            sprint: None,
            release: None,
            constraint: None,
            constraint_date: None,
            milestones: Vec::new(),
            needs: String::new(),
            accountable: None,
            waiting_on: None,
            stuck: String::new(),
            followers: Vec::new(),
            colour: None,
            place: None,
            line: String::new(),
            fields: FieldValues::new(),
        }
    }
    fn key(&self) -> String {
        self.reference.clone()
    }
    fn name(&self) -> String {
        self.title.clone()
    }
    fn parent(&self) -> Option<TaskId> {
        self.parent
    }
    fn own(&self) -> Option<(FieldOf, &FieldValues)> {
        Some((FieldOf::Task, &self.fields))
    }
    fn own_mut(&mut self) -> Option<&mut FieldValues> {
        Some(&mut self.fields)
    }
    fn keyed(&mut self) {
        if self.reference.is_empty() {
            self.reference = format!("T{}", self.id);
        }
    }
    fn unkeyed(&mut self) {
        if self.reference == format!("T{}", self.id) {
            self.reference.clear();
        }
    }

    fn finish(&mut self, line: &super::sheet::Line<'_>, keys: &Keys) -> Result<(), Wrong> {
        let known = if self.reference.is_empty() { None } else { keys.get(Kind::Task, &self.reference) };
        let id = TaskId(keys.subject.max(known.unwrap_or(0)));
        let typed = line.read("remaining_h", cell::minutes)?;
        (self.remaining, self.logged_then) = keys.remaining(id, typed);
        Ok(())
    }

    fn tidy(&mut self, plan: &Plan, is_new: bool) {
        self.title = self.title.trim().to_owned();
        self.stuck = self.stuck.trim().to_owned();
        if self.stage.trim().is_empty() {
            FIRST_STAGE.clone_into(&mut self.stage);
        }
        // Files and other records find a task by its reference, so one made by hand gets one.
        if self.reference.is_empty() && is_new {
            let free = |number: &i32| plan.find(Kind::Task, &format!("T{number}")).is_none();
            let number = (self.id.0..i32::MAX).find(free).unwrap_or(self.id.0);
            self.reference = format!("T{number}");
        }
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        range(self.start, self.finish).map_err(|message| Refusal::value("finish", message))?;
        named("title", &self.title, "Say what is to be done.")?;
        for (field, text) in
            [("kind", &self.kind), ("stage", &self.stage), ("requester", &self.requester), ("line", &self.line)]
        {
            line(field, text)?;
        }
        for (field, effort) in [("estimate_h", self.estimate), ("remaining_h", self.remaining)] {
            if effort.is_some_and(|minutes| !(0..=MOST_EFFORT).contains(&minutes)) {
                return Err(Refusal::value(field, "Write a number of hours up to 100,000."));
            }
        }
        if self.progress.is_some_and(|percent| percent.is_sign_negative() || percent > 100.into()) {
            return Err(Refusal::value("progress", "Progress lies between 0 and 100 percent."));
        }
        if self.parent == Some(self.id) && self.id.0 != 0 {
            return Err(Refusal::value("parent", "A task cannot be inside itself."));
        }
        if let Assignees::Shares(shares) = &self.assignees {
            let sum: i32 = shares.iter().map(|(_, share)| share).sum();
            if sum != 10_000 {
                let message = format!("the shares add up to {} %, not to 100 %", f64::from(sum) / 100.0);
                return Err(Refusal::value("assignees", message));
            }
        }
        line("needs", &self.needs)?;
        line("stuck", &self.stuck)?;
        if let Some(Awaited::Other(words)) = &self.waiting_on {
            line("waiting_on", words)?;
        }
        if self.followers.len() > MOST_FOLLOWERS {
            return Err(Refusal::value("followers", format!("A task has at most {MOST_FOLLOWERS} followers.")));
        }
        self.place.map_or(Ok(()), place)?;
        let needs_day = matches!(self.constraint, Some(Constraint::NotBefore | Constraint::NotAfter));
        if needs_day != self.constraint_date.is_some() {
            let message = if needs_day {
                "Say the day before or after which it may not be."
            } else {
                "Only “not before” and “not after” have a day."
            };
            return Err(Refusal::value("constraint_date", message));
        }
        for (field, mut people) in
            [("assignees", self.assignees.people().collect::<Vec<_>>()), ("followers", self.followers.clone())]
        {
            people.sort_unstable();
            if people.windows(2).any(|pair| pair[0] == pair[1]) {
                return Err(Refusal::value(field, "somebody is named twice"));
            }
        }
        Ok(())
    }

    /// A member moves on a task of their own: its stage, progress and what is left, whether it is stuck and whom it waits for. And
    /// everybody says for themselves whether they follow one.
    fn may_own(plan: &Plan, edit: &Edit<Self>, actor: &Actor<'_>) -> bool {
        let (Some(before), Some(after)) = (&edit.before, &edit.after) else { return false };
        let others = |task: &Self| -> Vec<PersonId> {
            task.followers.iter().copied().filter(|person| !actor.is(plan, *person)).collect()
        };
        let followed = Self { followers: after.followers.clone(), ..before.clone() };
        if others(before) == others(after) && followed == *after {
            return true;
        }
        let mine = before.assignees.people().any(|person| actor.is(plan, person));
        let moved = Self {
            stage: after.stage.clone(),
            progress: after.progress,
            remaining: after.remaining,
            // What was logged when that was typed goes with it.
            logged_then: after.logged_then,
            stuck: after.stuck.clone(),
            waiting_on: after.waiting_on.clone(),
            ..before.clone()
        };
        mine && moved == *after
    }

    fn all(plan: &Plan) -> Box<dyn Iterator<Item = Cow<'_, Self>> + '_> {
        Box::new(plan.tasks.values().map(|task| Cow::Borrowed(&**task)))
    }
    fn find(plan: &Plan, id: TaskId) -> Option<Cow<'_, Self>> {
        plan.tasks.get(&id).map(|task| Cow::Borrowed(&**task))
    }
    fn put(plan: &mut Plan, edit: &Edit<Self>) {
        plan.put_task(edit);
    }
}
