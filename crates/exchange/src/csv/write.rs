//! The plan as CSV files. What is written reads back as the same plan.

use super::{
    cell::{pattern_text, percent_text},
    columns::{FILES, OWN, file, file_of},
    row::{Keys, Row, option},
};
use snug_core::{Plan, change::Change, fields::FieldOf, people::Person};
use std::{borrow::Cow, path::Path};

/// Every file of the workspace by name, in a fixed order, rows sorted by key.
#[must_use]
pub fn files_of(plan: &Plan) -> Vec<(&'static str, String)> {
    FILES.iter().map(|file| (file.name, file_text(plan, file.name))).collect()
}

/// Writes every file of the workspace into a folder, which is made when missing.
pub fn write_folder(plan: &Plan, folder: &Path) -> std::io::Result<()> {
    std::fs::create_dir_all(folder)?;
    files_of(plan).into_iter().try_for_each(|(name, text)| std::fs::write(folder.join(name), text))
}

/// One record as the row of its file: column and value, as forms and programs show it. `None` for kinds that have no file.
#[must_use]
pub fn row_of(plan: &Plan, record: &Change) -> Option<Vec<(String, String)>> {
    let row = Row::of(record)?;
    let (kind, _) = record.subject();
    let cell = |column: String| {
        let value = row.cell(plan, &column);
        (column, value)
    };
    Some(header(plan, file_of(kind)?.name).into_iter().map(cell).collect())
}

/// The columns of a file in this workspace: those of every workspace, then its own fields.
#[must_use]
pub fn header(plan: &Plan, name: &str) -> Vec<String> {
    let Some(file) = file(name) else { return Vec::new() };
    let mut header: Vec<String> = file.columns.iter().map(|(name, _)| (*name).to_owned()).collect();
    if let Ok(of) = file.kind.parse::<FieldOf>() {
        header.extend(plan.fields_of(of).iter().map(|field| format!("{OWN}{}", field.name)));
    }
    header
}

/// One file of the workspace.
#[must_use]
pub fn file_text(plan: &Plan, name: &str) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let header = header(plan, name);
    // Writing into memory cannot fail, and every row has the header's length.
    let _ = writer.write_record(&header);
    for row in later_rows(plan, name) {
        let _ = writer.write_record(&row);
    }
    for row in rows(plan, name) {
        let _ = writer.write_record(header.iter().map(|column| row.cell(plan, column)));
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}

/// Rows of the files that add to another file's records.
fn later_rows(plan: &Plan, name: &str) -> Vec<Vec<String>> {
    let patterns = |person: &Person| -> Vec<Vec<String>> {
        let dated = person.patterns.iter().filter_map(|dated| Some((dated.from?, &dated.pattern)));
        dated.map(|(from, pattern)| vec![person.email.clone(), from.to_string(), pattern_text(pattern)]).collect()
    };
    let rates = |person: &Person| -> Vec<Vec<String>> {
        let dated = person.rates.iter().filter_map(|rate| Some((rate.from?, rate)));
        dated
            .map(|(from, rate)| vec![person.email.clone(), from.to_string(), option(rate.cost), option(rate.bill)])
            .collect()
    };
    match name {
        "patterns.csv" => people_of(plan).into_iter().flat_map(patterns).collect(),
        "rates.csv" => people_of(plan).into_iter().flat_map(rates).collect(),
        "members.csv" => {
            let keys = Keys { plan };
            let members = by_key(plan.teams.values(), |team| team.code.clone()).into_iter().flat_map(|team| {
                team.members.iter().map(|(id, share)| (team.code.clone(), *id, *share)).collect::<Vec<_>>()
            });
            members.map(|(team, id, share)| vec![team, keys.person(Some(id)), percent_text(share)]).collect()
        }
        _ => Vec::new(),
    }
}

/// The records of a file, in the order in which it holds them.
fn rows<'a>(plan: &'a Plan, name: &str) -> Vec<Row<'a>> {
    let keys = Keys { plan };
    match name {
        "fields.csv" => {
            let fields = by_key(plan.fields.values(), |it| (it.of, it.name.clone()));
            fields.into_iter().map(|it| Row::Field(it)).collect()
        }
        "people.csv" => people_of(plan).into_iter().map(Row::Person).collect(),
        "holidays.csv" => plan.calendars.values().flat_map(|calendar| &calendar.holidays).map(Row::Holiday).collect(),
        "absences.csv" => {
            let all = plan.people.values().flat_map(|entry| entry.absences.iter());
            by_key(all, |it| (keys.person(Some(it.person)), it.start, it.id)).into_iter().map(Row::Absence).collect()
        }
        "teams.csv" => by_key(plan.teams.values(), |it| it.code.clone()).into_iter().map(|it| Row::Team(it)).collect(),
        "projects.csv" => {
            by_key(plan.projects.values(), |it| it.code.clone()).into_iter().map(|it| Row::Project(it)).collect()
        }
        "tasks.csv" => plan.tasks.values().map(|it| Row::Task(it)).collect(),
        "links.csv" => plan.links.values().map(|it| Row::Link(it)).collect(),
        "bookings.csv" => {
            by_key(plan.bookings(), |it| it.id).into_iter().map(|it| Row::Booking(Cow::Owned(it))).collect()
        }
        "time.csv" => plan.time_entries.values().map(|it| Row::TimeEntry(it)).collect(),
        "milestones.csv" => {
            by_key(plan.milestones.values(), |it| it.id).into_iter().map(|it| Row::Milestone(it)).collect()
        }
        _ => Vec::new(),
    }
}

fn people_of(plan: &Plan) -> Vec<&Person> {
    by_key(plan.people.values().map(|entry| &*entry.person), |person| person.email.clone())
}

fn by_key<T, K: Ord>(items: impl Iterator<Item = T>, key: impl Fn(&T) -> K) -> Vec<T> {
    let mut items: Vec<T> = items.collect();
    items.sort_by_key(key);
    items
}
