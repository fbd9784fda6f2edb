//! The files of a workspace and their columns, in the order in which they are written.

/// A column: its name, and whether a file must have it.
pub type Column = (&'static str, bool);

/// One file.
#[derive(Debug)]
pub struct File {
    /// Its name.
    pub name: &'static str,
    /// The kind of record of the core that its rows stand for; empty for files that add to another's records.
    pub kind: &'static str,
    /// Its columns.
    pub columns: &'static [Column],
}

const fn must(name: &'static str) -> Column {
    (name, true)
}

const fn may(name: &'static str) -> Column {
    (name, false)
}

/// The files of a workspace, in the order in which they are read and written.
pub const FILES: [File; 14] = [
    File { name: "fields.csv", kind: "field", columns: &[must("of"), must("name"), must("kind"), may("choices")] },
    File {
        name: "people.csv",
        kind: "person",
        columns: &[
            must("email"),
            must("name"),
            may("role"),
            may("kind"),
            may("holiday_calendar"),
            may("pattern"),
            may("day_limit_h"),
            may("week_limit_h"),
            may("max_projects"),
            may("max_tasks"),
            may("max_points"),
            may("skills"),
            may("cost_rate"),
            may("bill_rate"),
        ],
    },
    File { name: "patterns.csv", kind: "", columns: &[must("email"), must("from"), must("pattern")] },
    File { name: "rates.csv", kind: "", columns: &[must("email"), must("from"), may("cost_rate"), may("bill_rate")] },
    File {
        name: "holidays.csv",
        kind: "holiday",
        columns: &[must("calendar"), must("date"), may("name"), may("fraction")],
    },
    File {
        name: "absences.csv",
        kind: "absence",
        columns: &[may("ref"), must("email"), must("start"), must("end"), may("kind"), may("hours_per_day"), may("at")],
    },
    File {
        name: "teams.csv",
        kind: "team",
        columns: &[must("code"), must("name"), may("parent"), may("owner"), may("week_capacity_h")],
    },
    File { name: "members.csv", kind: "", columns: &[must("team"), must("email"), may("share_percent")] },
    File {
        name: "projects.csv",
        kind: "project",
        columns: &[
            must("code"),
            must("name"),
            may("status"),
            may("parent"),
            may("lead"),
            may("team"),
            may("start"),
            may("finish"),
            may("budget_h"),
            may("budget_money"),
        ],
    },
    File {
        name: "tasks.csv",
        kind: "task",
        columns: &[
            may("ref"),
            must("project"),
            may("parent"),
            must("title"),
            may("kind"),
            may("team"),
            may("assignees"),
            may("contour"),
            may("estimate_h"),
            may("remaining_h"),
            may("points"),
            may("start"),
            may("finish"),
            may("due"),
            may("priority"),
            may("stage"),
            may("progress"),
            may("tags"),
            may("walk_in"),
            may("requester"),
            may("sprint"),
            may("release"),
        ],
    },
    File {
        name: "links.csv",
        kind: "link",
        columns: &[must("from"), must("to"), must("type"), may("lag_days"), may("note")],
    },
    File {
        name: "bookings.csv",
        kind: "booking",
        columns: &[
            may("ref"),
            may("email"),
            may("team"),
            may("role"),
            may("project"),
            must("start"),
            must("end"),
            must("amount"),
            must("unit"),
            may("certainty"),
            may("days_off"),
            may("note"),
        ],
    },
    File {
        name: "time.csv",
        kind: "time entry",
        columns: &[
            may("ref"),
            must("email"),
            must("date"),
            may("project"),
            may("task"),
            must("hours"),
            may("billable"),
            may("note"),
        ],
    },
    File {
        name: "milestones.csv",
        kind: "milestone",
        columns: &[may("ref"), must("name"), must("date"), may("projects")],
    },
];

/// A file by its name.
#[must_use]
pub fn file(name: &str) -> Option<&'static File> {
    FILES.iter().find(|file| file.name == name)
}

/// The file that holds a kind of record.
#[must_use]
pub fn file_of(kind: &str) -> Option<&'static File> {
    FILES.iter().find(|file| file.kind == kind)
}

/// The file whose columns a header row names, by what its columns say: the one that has the most of them and lacks none it must have.
#[must_use]
pub fn guess(header: &[&str]) -> Option<&'static File> {
    let has = |name: &str| header.iter().any(|title| title.trim() == name);
    let fits = FILES.iter().filter(|file| file.columns.iter().all(|(name, must)| !must || has(name)));
    fits.max_by_key(|file| file.columns.iter().filter(|(name, _)| has(name)).count())
}

/// Columns of the workspace's own fields are headed by this and the field's name.
pub const OWN: &str = "field.";
