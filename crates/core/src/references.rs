//! Which records refer to which, so that nothing refers to what is not there.

use crate::{
    FieldId, PersonId, Plan, ProjectId, TaskId, TeamId,
    change::Change,
    fields::{Field, FieldValues},
    people::{Absence, Holiday, Person},
    settings::Settings,
    text::Text,
    work::{Booking, Link, Milestone, Project, Task, Team, TimeEntry, Who},
};
use std::collections::{BTreeMap, HashSet};

/// A record that others can refer to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) enum Ref {
    Person(PersonId),
    Team(TeamId),
    Project(ProjectId),
    Task(TaskId),
    Field(FieldId),
}

impl Ref {
    fn of(change: &Change) -> Option<Self> {
        let (kind, id) = change.subject();
        Some(match kind {
            "person" => Self::Person(PersonId(id)),
            "team" => Self::Team(TeamId(id)),
            "project" => Self::Project(ProjectId(id)),
            "task" => Self::Task(TaskId(id)),
            "field" => Self::Field(FieldId(id)),
            _ => return None,
        })
    }

    fn word(self) -> &'static str {
        match self {
            Self::Person(_) => "person",
            Self::Team(_) => "team",
            Self::Project(_) => "project",
            Self::Task(_) => "task",
            Self::Field(_) => "field",
        }
    }
}

/// Shows each record that a record refers to, with the name of the field that does so.
pub(crate) trait Refers {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref));
}

fn fields(values: &FieldValues, see: &mut dyn FnMut(&'static str, Ref)) {
    for id in values.keys() {
        see("fields", Ref::Field(*id));
    }
}

impl Refers for Settings {
    fn each_ref(&self, _: &mut dyn FnMut(&'static str, Ref)) {}
}
impl Refers for Holiday {
    fn each_ref(&self, _: &mut dyn FnMut(&'static str, Ref)) {}
}
impl Refers for Field {
    fn each_ref(&self, _: &mut dyn FnMut(&'static str, Ref)) {}
}
// Text stays when its record goes: it is out of sight, and there again when the removal is taken back.
impl Refers for Text {
    fn each_ref(&self, _: &mut dyn FnMut(&'static str, Ref)) {}
}
impl Refers for Person {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
        fields(&self.fields, see);
    }
}
impl Refers for Absence {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
        see("email", Ref::Person(self.person));
    }
}
impl Refers for Team {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
        self.parent.iter().for_each(|id| see("parent", Ref::Team(*id)));
        self.owner.iter().for_each(|id| see("owner", Ref::Person(*id)));
        self.members.iter().for_each(|(id, _)| see("members", Ref::Person(*id)));
    }
}
impl Refers for Project {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
        self.parent.iter().for_each(|id| see("parent", Ref::Project(*id)));
        self.lead.iter().for_each(|id| see("lead", Ref::Person(*id)));
        self.team.iter().for_each(|id| see("team", Ref::Team(*id)));
        fields(&self.fields, see);
    }
}
impl Refers for Task {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
        see("project", Ref::Project(self.project));
        self.parent.iter().for_each(|id| see("parent", Ref::Task(*id)));
        self.team.iter().for_each(|id| see("team", Ref::Team(*id)));
        self.assignees.people().for_each(|id| see("assignees", Ref::Person(id)));
        fields(&self.fields, see);
    }
}
impl Refers for Link {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
        see("from", Ref::Task(self.from));
        see("to", Ref::Task(self.to));
    }
}
impl Refers for Booking {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
        match &self.who {
            Who::Person(id) => see("who", Ref::Person(*id)),
            Who::Team(id) => see("who", Ref::Team(*id)),
            Who::Role(_) => {}
        }
        self.project.iter().for_each(|id| see("project", Ref::Project(*id)));
    }
}
impl Refers for TimeEntry {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
        see("email", Ref::Person(self.person));
        self.project.iter().for_each(|id| see("project", Ref::Project(*id)));
        self.task.iter().for_each(|id| see("task", Ref::Task(*id)));
    }
}
impl Refers for Milestone {
    fn each_ref(&self, see: &mut dyn FnMut(&'static str, Ref)) {
        self.projects.iter().for_each(|id| see("projects", Ref::Project(*id)));
    }
}

impl Plan {
    pub(crate) fn knows(&self, to: Ref) -> bool {
        match to {
            Ref::Person(id) => self.people.contains_key(&id),
            Ref::Team(id) => self.teams.contains_key(&id),
            Ref::Project(id) => self.projects.contains_key(&id),
            Ref::Task(id) => self.tasks.contains_key(&id),
            Ref::Field(id) => self.fields.contains_key(&id),
        }
    }

    /// The first field of a change that refers to what is not in this plan, and what kind of record is missing.
    pub(crate) fn missing_ref(&self, change: &Change) -> Option<(&'static str, &'static str)> {
        let mut missing = None;
        change.each_ref(&mut |field, to| {
            if missing.is_none() && !self.knows(to) {
                missing = Some((field, to.word()));
            }
        });
        missing
    }

    /// What would be left without what it refers to, were these changes made: kinds of records and how many of each.
    pub(crate) fn orphans(&self, changes: &[Change]) -> BTreeMap<&'static str, usize> {
        let gone: HashSet<Ref> = changes.iter().filter(|change| change.removes()).filter_map(Ref::of).collect();
        let mut found = BTreeMap::new();
        if gone.is_empty() {
            return found;
        }
        let touched: HashSet<(&str, i32)> = changes.iter().map(Change::subject).collect();
        let mut count = |kind: &'static str, id: Option<i32>, record: &dyn Refers| {
            if id.is_some_and(|id| touched.contains(&(kind, id))) {
                return;
            }
            let mut refers = false;
            record.each_ref(&mut |_, to| refers |= gone.contains(&to));
            if refers {
                *found.entry(kind).or_insert(0) += 1;
            }
        };
        for (id, entry) in &self.people {
            count("person", Some(id.0), &*entry.person);
            entry.absences.iter().for_each(|absence| count("absence", Some(absence.id.0), absence));
        }
        self.bookings().for_each(|booking| count("booking", Some(booking.id.0), &booking));
        self.teams.iter().for_each(|(id, team)| count("team", Some(id.0), &**team));
        self.projects.iter().for_each(|(id, project)| count("project", Some(id.0), &**project));
        self.tasks.iter().for_each(|(id, task)| count("task", Some(id.0), &**task));
        self.links.iter().for_each(|(id, link)| count("link", Some(id.0), &**link));
        self.time_entries.iter().for_each(|(id, entry)| count("time entry", Some(id.0), &**entry));
        self.milestones.iter().for_each(|(id, milestone)| count("milestone", Some(id.0), &**milestone));
        for change in changes.iter().filter(|change| !change.removes()) {
            count(change.subject().0, None, change);
        }
        found
    }
}

/// `3 bookings and 1 task`.
pub(crate) fn counted(found: &BTreeMap<&'static str, usize>) -> String {
    let plural = |(kind, count): (&&str, &usize)| match (*kind, count) {
        ("time entry", 2..) => format!("{count} time entries"),
        ("person", 2..) => format!("{count} people"),
        (kind, 1) => format!("1 {kind}"),
        (kind, count) => format!("{count} {kind}s"),
    };
    let parts: Vec<String> = found.iter().map(plural).collect();
    match parts.split_last() {
        Some((last, rest)) if !rest.is_empty() => format!("{} and {last}", rest.join(", ")),
        Some((last, _)) => last.clone(),
        None => String::new(),
    }
}
