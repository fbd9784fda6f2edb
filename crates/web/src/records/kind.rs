//! What kinds of records there are lists and forms for, and what their columns are called. The columns are those of the files, so a
//! list, a form, a file and a program's request speak of the same things in the same words.

use crate::frame::Room;
use snug_core::{
    Plan,
    fields::{FieldKind, FieldOf},
    people::PersonKind,
    work::{Contour, Priority, ProjectStatus},
};
use snug_exchange::csv::OWN;

/// How a value is typed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Input {
    /// A line of text.
    Line,
    /// A number.
    Number,
    /// Hours as a decimal.
    Hours,
    /// A day.
    Date,
    /// Yes or nothing.
    Yes,
    /// Words with `;` between them.
    Words,
    /// One of a closed list.
    Choice(Closed),
    /// One of what is used already, or something new.
    Used,
    /// Somebody's address, by name.
    Person,
    /// Several people, each alone or with a share.
    People,
    /// A team.
    Team,
    /// A project.
    Project,
    /// A task.
    Task,
}

/// One column.
#[derive(Clone, Debug)]
pub struct Column {
    /// Its name in files.
    pub name: String,
    /// What it is called on pages.
    pub label: String,
    /// How its values are typed.
    pub input: Input,
    /// What a form says of it.
    pub hint: &'static str,
    /// The choices of a field of the workspace's own.
    pub choices: Vec<String>,
}

/// One kind of record.
pub struct Kind {
    /// The address of its list.
    pub path: &'static str,
    /// The kind as the core calls it.
    pub subject: &'static str,
    /// The file that holds it.
    pub file: &'static str,
    /// One of them, and several.
    pub words: (&'static str, &'static str),
    /// The room in which the list stands.
    pub room: Room,
    /// What the list is for.
    pub says: &'static str,
    /// Name, label, input and hint of each column of its file.
    columns: &'static [(&'static str, &'static str, Input, &'static str)],
    /// The columns that a list shows when nobody has chosen.
    pub usual: &'static [&'static str],
    /// The column by which a record is called.
    pub title: &'static str,
    /// The columns whose values a list offers as filter and grouping.
    pub facets: &'static [&'static str],
    /// Which of the workspace's own fields it has.
    pub own: Option<FieldOf>,
}

/// A closed list.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Closed {
    /// People and equipment.
    PersonKind,
    /// Where a project stands.
    Status,
    /// How effort lies over days.
    Contour,
    /// How urgent a task is.
    Priority,
    /// The first stages.
    Stage,
    /// Which records have a field.
    FieldOf,
    /// What a field's value is like.
    FieldKind,
    /// The choices of a field of the workspace's own.
    Own,
}

impl Closed {
    fn list(self) -> Vec<String> {
        fn words<T: ToString>(all: &[T]) -> Vec<String> {
            all.iter().map(ToString::to_string).collect()
        }
        match self {
            Self::PersonKind => words(PersonKind::ALL),
            Self::Status => words(ProjectStatus::ALL),
            Self::Contour => words(Contour::ALL),
            Self::Priority => words(Priority::ALL),
            Self::Stage => words(&["to do", "doing", "checking", "done"]),
            Self::FieldOf => words(FieldOf::ALL),
            Self::FieldKind => words(FieldKind::ALL),
            Self::Own => Vec::new(),
        }
    }
}

use Input::{Choice, Date, Hours, Line, Number, People, Person, Project, Task, Team, Used, Words, Yes};

/// All of them.
pub static KINDS: [Kind; 8] = [
    Kind {
        path: "people",
        subject: "person",
        file: "people.csv",
        words: ("person", "people"),
        room: Room::Setup,
        says: "People and equipment: how much they work, what they can do, and their own limits.",
        columns: &[
            ("email", "E-mail", Line, "The key in files; a piece of equipment needs one too, as lift@example.test."),
            ("name", "Name", Line, ""),
            ("role", "Role", Used, "What this person does, as “rigger”."),
            ("kind", "Kind", Choice(Closed::PersonKind), "Equipment is booked exactly as people are."),
            ("holiday_calendar", "Holidays", Used, "The calendar of the region."),
            (
                "pattern",
                "Usual week",
                Line,
                "Seven numbers of hours from Monday, 8 8 8 8 8 0 0; rotating weeks with | between.",
            ),
            ("day_limit_h", "Hours a day, at most", Hours, ""),
            ("week_limit_h", "Hours a week, at most", Hours, ""),
            ("max_projects", "Projects at a time", Number, ""),
            ("max_tasks", "Tasks at a time", Number, ""),
            ("max_points", "Points a sprint", Number, ""),
            ("skills", "Skills", Words, "With ; between, as “welding; rigging”."),
            ("cost_rate", "Cost an hour", Number, ""),
            ("bill_rate", "Billed an hour", Number, ""),
        ],
        usual: &["name", "role", "pattern", "week_limit_h", "max_projects", "skills", "holiday_calendar"],
        title: "name",
        facets: &["role", "kind", "holiday_calendar"],
        own: Some(FieldOf::Person),
    },
    Kind {
        path: "teams",
        subject: "team",
        file: "teams.csv",
        words: ("team", "teams"),
        room: Room::Setup,
        says: "Teams, one inside another; somebody may give a share of their time to each of several.",
        columns: &[
            ("code", "Code", Line, "Short, unique; the key in files."),
            ("name", "Name", Line, ""),
            ("parent", "Inside", Team, "The team it is a part of."),
            ("owner", "Owner", Person, "Who answers for it."),
            ("week_capacity_h", "Capacity a week", Hours, "Typed, it replaces the sum of the members’ shares."),
        ],
        usual: &["name", "code", "parent", "owner", "week_capacity_h"],
        title: "name",
        facets: &["parent"],
        own: None,
    },
    Kind {
        path: "projects",
        subject: "project",
        file: "projects.csv",
        words: ("project", "projects"),
        room: Room::Schedule,
        says: "Projects, one inside another. A sketch project has no tasks yet and is planned by bookings.",
        columns: &[
            ("code", "Code", Line, "Short, unique; the key in files."),
            ("name", "Name", Line, ""),
            ("status", "Status", Choice(Closed::Status), "Nothing can be booked on a closed project."),
            ("parent", "Inside", Project, "The project it is a part of."),
            ("lead", "Lead", Person, ""),
            ("team", "Default team", Team, "Who gets its work when nobody picks."),
            ("start", "Start", Date, ""),
            ("finish", "Finish", Date, ""),
            ("budget_h", "Budget, hours", Hours, ""),
            ("budget_money", "Budget, money", Number, ""),
        ],
        usual: &["name", "code", "status", "parent", "lead", "start", "finish", "budget_h"],
        title: "name",
        facets: &["status", "lead", "parent", "team"],
        own: Some(FieldOf::Project),
    },
    Kind {
        path: "tasks",
        subject: "task",
        file: "tasks.csv",
        words: ("task", "tasks"),
        room: Room::Schedule,
        says: "Tasks across all projects. One with dates, effort and somebody is placed; the others wait in the tray.",
        columns: &[
            ("ref", "Ref", Line, "The key in files; made when left empty."),
            ("project", "Project", Project, ""),
            ("parent", "Inside", Task, "The task it is a part of."),
            ("title", "Title", Line, ""),
            ("kind", "Kind of work", Used, "As “build” or “text”; estimates are compared by it."),
            ("team", "Team", Team, "Its work counts wholly in this team’s row."),
            (
                "assignees",
                "Assignees",
                People,
                "Addresses with ; between: alone, with shares (mira@x.test=70), or each in full (mira@x.test=full).",
            ),
            ("contour", "Contour", Choice(Closed::Contour), "How the effort lies over its days."),
            ("estimate_h", "Estimate", Hours, "A parent may have one of its own before it is broken down."),
            ("remaining_h", "Remaining", Hours, "Left empty, it is the estimate less what was logged."),
            ("points", "Points", Number, ""),
            ("start", "Start", Date, ""),
            ("finish", "Finish", Date, ""),
            ("due", "Due", Date, ""),
            ("priority", "Priority", Choice(Closed::Priority), ""),
            ("stage", "Stage", Choice(Closed::Stage), "A done task carries no load."),
            ("progress", "Progress, %", Number, ""),
            ("tags", "Tags", Words, "With ; between."),
            ("walk_in", "Walk-in", Yes, "Arrived while the plan was running."),
            ("requester", "Asked for by", Line, "Who asked for the walk-in."),
            ("sprint", "Sprint", Line, ""),
            ("release", "Release", Line, ""),
        ],
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
        title: "title",
        facets: &["project", "stage", "priority", "kind", "team", "walk_in"],
        own: Some(FieldOf::Task),
    },
    Kind {
        path: "milestones",
        subject: "milestone",
        file: "milestones.csv",
        words: ("milestone", "milestones"),
        room: Room::Schedule,
        says: "Dates that matter to one, several or (with no project named) all projects.",
        columns: &[
            ("ref", "Ref", Line, "The key in files."),
            ("name", "Name", Line, ""),
            ("date", "Date", Date, ""),
            ("projects", "Projects", Words, "Codes with ; between; empty for all."),
        ],
        usual: &["name", "date", "projects"],
        title: "name",
        facets: &[],
        own: None,
    },
    Kind {
        path: "time-off",
        subject: "absence",
        file: "absences.csv",
        words: ("time off", "time off"),
        room: Room::Setup,
        says: "When somebody is away, for whole days or for some hours of each.",
        columns: &[
            ("ref", "Ref", Line, "The key in files."),
            ("email", "Who", Person, ""),
            ("start", "First day", Date, ""),
            ("end", "Last day", Date, ""),
            ("kind", "Kind", Used, "As “vacation”."),
            ("hours_per_day", "Hours a day", Hours, "Empty: the whole day."),
            ("at", "From", Line, "As 09:30, where it is known: what overlaps counts once."),
        ],
        usual: &["email", "start", "end", "kind", "hours_per_day", "at"],
        title: "email",
        facets: &["kind"],
        own: None,
    },
    Kind {
        path: "holidays",
        subject: "holiday",
        file: "holidays.csv",
        words: ("holiday", "holidays"),
        room: Room::Setup,
        says: "Holidays by region; a person follows one calendar.",
        columns: &[
            ("calendar", "Calendar", Used, "The region’s name."),
            ("date", "Date", Date, ""),
            ("name", "Name", Line, ""),
            ("fraction", "Part of the day", Number, "1 for the whole day, 0.5 for half of it."),
        ],
        usual: &["name", "date", "calendar", "fraction"],
        title: "date",
        facets: &["calendar"],
        own: None,
    },
    Kind {
        path: "fields",
        subject: "field",
        file: "fields.csv",
        words: ("field", "fields"),
        room: Room::Setup,
        says: "Fields of your own for people, projects and tasks: columns, filters, grouping.",
        columns: &[
            ("of", "Of", Choice(Closed::FieldOf), "Which records have it."),
            ("name", "Name", Line, ""),
            ("kind", "Kind", Choice(Closed::FieldKind), "A number can be measured."),
            ("choices", "Choices", Words, "For a choice: what there is to choose from, with ; between."),
        ],
        usual: &["name", "of", "kind", "choices"],
        title: "name",
        facets: &["of", "kind"],
        own: None,
    },
];

impl Kind {
    /// The kind whose list stands at an address.
    pub fn at(path: &str) -> Option<&'static Self> {
        KINDS.iter().find(|kind| kind.path == path)
    }

    /// The kind by its name in the core.
    pub fn of(kind: &str) -> Option<&'static Self> {
        KINDS.iter().find(|one| one.subject == kind)
    }

    /// Its columns in this workspace, the workspace's own fields last.
    pub fn columns(&self, plan: &Plan) -> Vec<Column> {
        let fixed = self.columns.iter().map(|(name, label, input, hint)| Column {
            name: (*name).to_owned(),
            label: (*label).to_owned(),
            input: *input,
            hint,
            choices: match input {
                Choice(closed) => closed.list(),
                _ => Vec::new(),
            },
        });
        let own = self.own.map(|of| plan.fields_of(of)).unwrap_or_default();
        let own = own.into_iter().map(|field| Column {
            name: format!("{OWN}{}", field.name),
            label: field.name.clone(),
            input: match field.kind {
                FieldKind::Number => Number,
                FieldKind::Date => Date,
                FieldKind::Text => Line,
                FieldKind::Choice => Choice(Closed::Own),
            },
            hint: "",
            choices: field.choices.clone(),
        });
        fixed.chain(own).collect()
    }

    /// Whether records of this kind can have a description and comments.
    pub fn has_text(&self) -> bool {
        matches!(self.subject, "task" | "project" | "person")
    }

    /// `New person`.
    pub fn new_title(&self) -> String {
        format!("New {}", self.words.0)
    }

    /// `People`.
    pub fn many(&self) -> String {
        crate::words::capital(self.words.1)
    }
}
