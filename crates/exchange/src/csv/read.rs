//! Reading CSV files: every bad cell is told with its file, line and column.

use super::{
    cell,
    columns::{FILES, file},
    sheet::{Row, Sheet, Wrong, parsed},
};
use snug_core::{
    import::{
        AbsenceRow, BookingFileRow, Dataset, FieldRow, HolidayRow, LinkRow, MemberRow, MilestoneRow, PatternRow,
        PersonRow, ProjectRow, RateRow, TaskRow, TeamRow, TimeRow,
    },
    people::PersonKind,
    work::{Certainty, Contour, Priority, ProjectStatus},
};
use std::{io::Read, path::Path};

/// A folder cannot be read at all.
#[derive(Debug, thiserror::Error)]
pub enum ReadError {
    /// The folder or a file in it cannot be opened.
    #[error("{0} cannot be read: {1}")]
    Io(String, std::io::Error),
    /// No file of the workspace is there.
    #[error("{0} holds none of the files of a workspace ({list})", list = FILES.map(|file| file.name).join(", "))]
    NoFiles(String),
}

/// Reads every file of a workspace that is in the folder.
pub fn read_folder(folder: &Path) -> Result<Dataset, ReadError> {
    let mut data = Dataset::default();
    let mut any = false;
    for name in FILES.map(|file| file.name) {
        let path = folder.join(name);
        match std::fs::File::open(&path) {
            Ok(file) => {
                any = true;
                read_file(&mut data, name, file);
            }
            Err(error) if error.kind() == std::io::ErrorKind::NotFound && folder.is_dir() => {}
            Err(error) => return Err(ReadError::Io(path.display().to_string(), error)),
        }
    }
    if any { Ok(data) } else { Err(ReadError::NoFiles(folder.display().to_string())) }
}

/// Reads one record as the row of its file, from column and value; columns that are left out are empty.
#[must_use]
pub fn read_row<'a>(name: &str, cells: impl IntoIterator<Item = (&'a str, &'a str)>) -> Dataset {
    let mut data = Dataset::default();
    add_row(&mut data, name, cells);
    data
}

/// The same into a dataset that has rows of other files.
pub fn add_row<'a>(data: &mut Dataset, name: &str, cells: impl IntoIterator<Item = (&'a str, &'a str)>) {
    let (header, row): (Vec<&str>, Vec<&str>) = cells.into_iter().unzip();
    let mut writer = csv::Writer::from_writer(Vec::new());
    // Writing into memory cannot fail; the row has the header's length.
    let _ = writer.write_record(&header);
    let _ = writer.write_record(&row);
    read_file(data, name, writer.into_inner().unwrap_or_default().as_slice());
}

/// Reads one file by its name into the dataset; what cannot be read becomes a problem there.
pub fn read_file(data: &mut Dataset, name: &str, bytes: impl Read) {
    let Some(file) = file(name) else { return };
    let mut sheet = Sheet::read(file, bytes);
    match name {
        "fields.csv" => data.fields.extend(sheet.rows(|row| {
            Ok(FieldRow {
                of: row.needed("of")?,
                name: row.filled("name")?,
                kind: row.needed("kind")?,
                choices: row.with("choices", |text| Ok(cell::list(text)))?,
            })
        })),
        "people.csv" => data.people.extend(sheet.rows(person)),
        "patterns.csv" => data.patterns.extend(sheet.rows(|row| {
            Ok(PatternRow {
                email: row.email("email")?,
                from: row.needed("from")?,
                pattern: row.with("pattern", cell::pattern)?,
            })
        })),
        "rates.csv" => data.rates.extend(sheet.rows(|row| {
            Ok(RateRow {
                email: row.email("email")?,
                from: row.needed("from")?,
                cost_rate: row.option("cost_rate", cell::number)?,
                bill_rate: row.option("bill_rate", cell::number)?,
            })
        })),
        "holidays.csv" => data.holidays.extend(sheet.rows(holiday)),
        "absences.csv" => data.absences.extend(sheet.rows(|row| {
            Ok(AbsenceRow {
                reference: row.text("ref")?,
                email: row.email("email")?,
                start: row.needed("start")?,
                end: row.needed("end")?,
                kind: row.text("kind")?,
                minutes: row.option("hours_per_day", cell::minutes)?,
                at: row.option("at", cell::time_of_day)?,
            })
        })),
        "teams.csv" => data.teams.extend(sheet.rows(|row| {
            Ok(TeamRow {
                code: row.filled("code")?,
                name: row.filled("name")?,
                parent: row.text("parent")?,
                owner: row.email("owner")?,
                week_capacity: row.option("week_capacity_h", cell::minutes)?,
            })
        })),
        "members.csv" => data.members.extend(sheet.rows(member)),
        "projects.csv" => data.projects.extend(sheet.rows(project)),
        "tasks.csv" => data.tasks.extend(sheet.rows(task)),
        "links.csv" => data.links.extend(sheet.rows(|row| {
            let lag = |text: &str| {
                cell::whole(text).and_then(|days| {
                    if days.abs() <= 3_660 { Ok(days) } else { Err("is more than ten years".to_owned()) }
                })
            };
            Ok(LinkRow {
                from: row.filled("from")?,
                to: row.filled("to")?,
                kind: row.needed("type")?,
                lag_days: row.option("lag_days", lag)?.unwrap_or(0),
                note: row.text("note")?,
            })
        })),
        "bookings.csv" => data.bookings.extend(sheet.rows(booking)),
        "time.csv" => data.time.extend(sheet.rows(time)),
        "milestones.csv" => data.milestones.extend(sheet.rows(|row| {
            Ok(MilestoneRow {
                reference: row.text("ref")?,
                name: row.filled("name")?,
                date: row.needed("date")?,
                projects: row.with("projects", |text| Ok(cell::list(text)))?,
            })
        })),
        _ => {}
    }
    data.problems.append(&mut sheet.problems);
    data.unknown_columns.extend(sheet.unknown.into_iter().map(|column| (name.to_owned(), column)));
}

fn person(row: &Row<'_>) -> Result<PersonRow, Wrong> {
    Ok(PersonRow {
        email: row.with("email", |text| {
            if text.contains('@') {
                Ok(text.to_ascii_lowercase())
            } else {
                Err(format!("“{text}” is no e-mail address"))
            }
        })?,
        name: row.filled("name")?,
        role: row.text("role")?,
        kind: row.or("kind", PersonKind::Person)?,
        holiday_calendar: row.text("holiday_calendar")?,
        pattern: row.with("pattern", cell::pattern)?,
        day_limit: row.option("day_limit_h", cell::minutes)?,
        week_limit: row.option("week_limit_h", cell::minutes)?,
        max_projects: row.option("max_projects", cell::whole)?,
        max_tasks: row.option("max_tasks", cell::whole)?,
        max_points: row.option("max_points", cell::number)?,
        skills: row.with("skills", |text| Ok(cell::list(text)))?,
        cost_rate: row.option("cost_rate", cell::number)?,
        bill_rate: row.option("bill_rate", cell::number)?,
        own: row.own()?,
    })
}

fn holiday(row: &Row<'_>) -> Result<HolidayRow, Wrong> {
    let fraction = |text: &str| {
        let fraction = cell::number(text)?;
        let millionths = cell::scaled(fraction, 1_000_000, 1_000_000).filter(|part: &i32| *part > 0);
        millionths.ok_or_else(|| format!("“{text}” is no part of a day; write 1 for the whole day, 0.5 for half of it"))
    };
    Ok(HolidayRow {
        calendar: row.filled("calendar")?,
        date: row.needed("date")?,
        name: row.text("name")?,
        fraction: row.option("fraction", fraction)?.unwrap_or(1_000_000),
    })
}

fn member(row: &Row<'_>) -> Result<MemberRow, Wrong> {
    let share = |text: &str| {
        let share = cell::scaled(cell::number(text)?, 100, 10_000).filter(|share: &i32| *share > 0);
        share.ok_or_else(|| format!("“{text}” is no share; it lies between 0 and 100 percent"))
    };
    Ok(MemberRow {
        team: row.filled("team")?,
        email: row.email("email")?,
        share: row.option("share_percent", share)?.unwrap_or(10_000),
    })
}

fn project(row: &Row<'_>) -> Result<ProjectRow, Wrong> {
    Ok(ProjectRow {
        code: row.filled("code")?,
        name: row.filled("name")?,
        status: row.or("status", ProjectStatus::Active)?,
        parent: row.text("parent")?,
        lead: row.email("lead")?,
        team: row.text("team")?,
        start: row.option("start", parsed)?,
        finish: row.option("finish", parsed)?,
        budget_minutes: row.option("budget_h", cell::minutes)?,
        budget_money: row.option("budget_money", cell::number)?,
        own: row.own()?,
    })
}

fn task(row: &Row<'_>) -> Result<TaskRow, Wrong> {
    let stage = row.text("stage")?;
    Ok(TaskRow {
        reference: row.text("ref")?,
        project: row.filled("project")?,
        parent: row.text("parent")?,
        title: row.filled("title")?,
        kind: row.text("kind")?,
        team: row.text("team")?,
        assignees: row.with("assignees", cell::assignees)?,
        contour: row.or("contour", Contour::Flat)?,
        estimate: row.option("estimate_h", cell::minutes)?,
        remaining: row.option("remaining_h", cell::minutes)?,
        points: row.option("points", cell::number)?,
        start: row.option("start", parsed)?,
        finish: row.option("finish", parsed)?,
        due: row.option("due", parsed)?,
        priority: row.or("priority", Priority::Normal)?,
        stage: if stage.is_empty() { "to do".to_owned() } else { stage },
        progress: row.option("progress", |text| {
            cell::number(text).and_then(|percent| {
                if percent <= 100.into() { Ok(percent) } else { Err("is more than 100 %".to_owned()) }
            })
        })?,
        tags: row.with("tags", |text| Ok(cell::list(text)))?,
        walk_in: row.with("walk_in", cell::yes_or_no)?,
        requester: row.text("requester")?,
        sprint: row.text("sprint")?,
        release: row.text("release")?,
        own: row.own()?,
    })
}

fn booking(row: &Row<'_>) -> Result<BookingFileRow, Wrong> {
    let unit = row.needed("unit")?;
    Ok(BookingFileRow {
        reference: row.text("ref")?,
        email: row.email("email")?,
        team: row.text("team")?,
        role: row.text("role")?,
        project: row.text("project")?,
        start: row.needed("start")?,
        end: row.needed("end")?,
        amount: row.with("amount", |text| cell::amount(text, unit))?,
        certainty: row.or("certainty", Certainty::Firm)?,
        days_off: row.with("days_off", cell::yes_or_no)?,
        note: row.text("note")?,
    })
}

fn time(row: &Row<'_>) -> Result<TimeRow, Wrong> {
    let minutes = |text: &str| {
        cell::minutes(text).and_then(|minutes| {
            if (1..=1_440).contains(&minutes) {
                Ok(minutes)
            } else {
                Err("lies not between a minute and 24 hours".to_owned())
            }
        })
    };
    Ok(TimeRow {
        reference: row.text("ref")?,
        email: row.email("email")?,
        date: row.needed("date")?,
        project: row.text("project")?,
        task: row.text("task")?,
        minutes: row.with("hours", minutes)?,
        billable: row.with("billable", cell::yes_or_no)?,
        note: row.text("note")?,
    })
}
