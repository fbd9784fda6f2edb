//! Lines that somebody types or pastes, as tasks: what stands deeper is inside what stands before it.
//!
//! Plain lines are titles, with an estimate behind them where the last word is a duration: `Casting, 12h`. They stand as deep as they
//! are indented, by tabs or by blanks; marks of lists are left out. Cells of a spreadsheet are columns of tasks as the first row heads
//! them, or title, estimate, assignees, start and finish; empty cells before the title say how deep it stands.

use crate::{
    Plan, ProjectId, Refusal, TaskId, cell,
    change::{Change, Edit},
    duration::{Bare, parse},
    import::{Dataset, record},
    kinds::{Column, Kind, Record, Task},
};

/// The most lines, and the most characters of all of them.
const MOST_LINES: usize = 500;
const MOST_TEXT: usize = 100_000;

/// What the cells of a row are where no row heads them.
const USUAL: [&str; 5] = ["title", "estimate_h", "assignees", "start", "finish"];

/// A line: how deep it stands, and its cells by column.
#[derive(Clone, Debug, PartialEq, Eq)]
struct Written {
    number: usize,
    depth: usize,
    cells: Vec<(&'static str, String)>,
}

/// The column of tasks that a heading names, as files or as forms call it.
fn column(heading: &str) -> Option<&'static str> {
    let named = |column: &&Column<Task>| {
        [column.spec.name, column.spec.label].iter().any(|name| name.eq_ignore_ascii_case(heading.trim()))
    };
    Task::COLUMNS.iter().find(named).map(|column| column.spec.name)
}

/// The columns that a first row heads: every cell of it that is not empty names one, the title among them.
fn headed(first: &str) -> Option<Vec<Option<&'static str>>> {
    let columns: Vec<Option<&str>> = first.split('\t').map(column).collect();
    let all = first.split('\t').zip(&columns).all(|(cell, column)| cell.trim().is_empty() || column.is_some());
    (all && columns.contains(&Some("title"))).then_some(columns)
}

/// A line without the blanks and the mark before it, and how many blanks those are; a tab is two.
fn unindented(line: &str) -> (usize, &str) {
    let rest = line.trim_start_matches([' ', '\t', '\u{a0}']);
    let blanks = line[..line.len() - rest.len()].chars().map(|c| if c == '\t' { 2 } else { 1 }).sum();
    let marks = ["- ", "* ", "• ", "– ", "[ ] "];
    (blanks, marks.iter().find_map(|mark| rest.strip_prefix(mark)).unwrap_or(rest).trim())
}

/// A title and the estimate behind it.
fn title_and_estimate(line: &str, day_minutes: i32) -> Vec<(&'static str, String)> {
    if let Some((title, last)) = line.rsplit_once([' ', '\t'])
        && let Ok(minutes) = parse(last, day_minutes, Bare::Refused)
    {
        let title = title.trim_end_matches([',', ':', ' ', '–', '-']).to_owned();
        return vec![("title", title), ("estimate_h", cell::hours_text(minutes))];
    }
    vec![("title", line.to_owned())]
}

fn lines(text: &str, day_minutes: i32) -> Result<Vec<Written>, Refusal> {
    if text.len() > MOST_TEXT {
        return Err(Refusal::value("text", "This is more text than can be taken at once; bring it in as a file."));
    }
    let filled = text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty());
    let filled: Vec<(usize, &str)> = filled.map(|(at, line)| (at + 1, line.trim_end())).collect();
    if filled.is_empty() {
        return Err(Refusal::value("text", "Write the title of a task."));
    }
    if filled.len() > MOST_LINES {
        let message = format!("These are {} lines; at most {MOST_LINES} are taken at once.", filled.len());
        return Err(Refusal::value("text", message));
    }
    let is_table = filled.iter().any(|(_, line)| line.trim_start_matches('\t').contains('\t'));
    if !is_table {
        let of = |(number, line): (usize, &str)| {
            let (depth, line) = unindented(line);
            Written { number, depth, cells: title_and_estimate(line, day_minutes) }
        };
        return Ok(filled.into_iter().map(of).collect());
    }
    let heads = headed(filled[0].1);
    let rows = filled.into_iter().skip(usize::from(heads.is_some()));
    let of = |(number, line): (usize, &str)| {
        let cells = line.split('\t');
        if let Some(columns) = &heads {
            let named = columns.iter().zip(cells).filter_map(|(column, cell)| Some(((*column)?, cell)));
            let named: Vec<(&'static str, &str)> = named.collect();
            let depth = named.iter().find(|(name, _)| *name == "title").map_or(0, |(_, cell)| unindented(cell).0);
            let cells = named.into_iter().map(|(name, cell)| (name, cell.trim().to_owned())).collect();
            return Written { number, depth, cells };
        }
        let depth = cells.clone().take_while(|cell| cell.trim().is_empty()).count();
        let cells = USUAL.iter().zip(cells.skip(depth)).map(|(name, cell)| (*name, cell.trim().to_owned())).collect();
        Written { number, depth, cells }
    };
    Ok(rows.map(of).collect())
}

impl Plan {
    /// The tasks that lines describe, in a project, inside a task where one is named. They have the identities that a plan gives them
    /// which takes them in this order.
    ///
    /// # Errors
    /// The first line that cannot be taken, and why.
    pub(crate) fn written_down(
        &self,
        (project, under): (ProjectId, Option<TaskId>),
        text: &str,
    ) -> Result<Vec<Change>, Refusal> {
        let code = self.key_of(Kind::Project, project.0);
        let mut path: Vec<(usize, TaskId)> = Vec::new();
        let mut made = Vec::new();
        for (id, line) in (self.next_id()..).map(TaskId).zip(lines(text, self.settings.day_minutes)?) {
            let wrong = |column: &str, reason: &str| {
                let label = Task::COLUMNS.iter().find(|it| it.spec.name == column).map_or("", |it| it.spec.label);
                Refusal::value("text", format!("Line {}, {}: {reason}.", line.number, label.to_lowercase()))
            };
            let mut cells = Vec::with_capacity(line.cells.len() + 1);
            for (column, text) in &line.cells {
                let text = self.readable(column, text).map_err(|reason| wrong(column, &reason))?;
                cells.push((*column, text));
            }
            cells.retain(|(column, _)| !["ref", "project", "parent"].contains(column));
            cells.push(("project", code.clone()));
            let data = Dataset::of_row("tasks.csv", cells.iter().map(|(column, text)| (*column, text.as_str())));
            let change = record(self, Kind::Task, &data, 0).map_err(|problems| {
                let (column, reason) = problems.into_iter().next().unwrap_or_default();
                wrong(&column, &reason)
            })?;
            while path.last().is_some_and(|(depth, _)| *depth >= line.depth) {
                path.pop();
            }
            let parent = path.last().map(|(_, id)| *id).or(under);
            path.push((line.depth, id));
            let Change::Task(Edit { after: Some(task), .. }) = change else { continue };
            made.push(Change::Task(Edit::new(Task { parent, ..task })));
        }
        Ok(made)
    }

    /// A cell as files hold it: durations as hours, names as addresses.
    fn readable(&self, column: &str, text: &str) -> Result<String, String> {
        match column {
            "estimate_h" | "remaining_h" if text.chars().any(char::is_alphabetic) || text.contains(':') => {
                parse(text, self.settings.day_minutes, Bare::Hours).map(cell::hours_text)
            }
            "assignees" => {
                let address = |part: &str| {
                    let (name, share) = part.split_once('=').map_or((part, None), |(name, share)| (name, Some(share)));
                    let named = |entry: &&crate::plan::Entry| entry.person.name.eq_ignore_ascii_case(name.trim());
                    let known = self.people.values().find(named).map(|entry| entry.person.email.clone());
                    let who = known.unwrap_or_else(|| name.trim().to_owned());
                    share.map_or_else(|| who.clone(), |share| format!("{who}={share}"))
                };
                let parts = text.split([';', ',']).map(str::trim).filter(|part| !part.is_empty());
                Ok(parts.map(address).collect::<Vec<_>>().join(";"))
            }
            _ => Ok(text.to_owned()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> Vec<(usize, Vec<(&'static str, String)>)> {
        lines(text, 480).unwrap_or_default().into_iter().map(|line| (line.depth, line.cells)).collect()
    }

    fn titled(depth: usize, title: &str) -> (usize, Vec<(&'static str, String)>) {
        (depth, vec![("title", title.to_owned())])
    }

    #[test]
    fn plain_lines_are_titles_as_deep_as_they_are_indented() {
        assert_eq!(
            read("Stage\n\n\t- Cut timber\n\t\t* Sand it\n  Paint"),
            [titled(0, "Stage"), titled(2, "Cut timber"), titled(4, "Sand it"), titled(2, "Paint"),]
        );
        let both = |title: &str, hours: &str| (0, vec![("title", title.to_owned()), ("estimate_h", hours.to_owned())]);
        assert_eq!(
            read("Casting, 12h\nHall 7\nGlue 1:30"),
            [both("Casting", "12"), titled(0, "Hall 7"), both("Glue", "1.5")]
        );
    }

    #[test]
    fn cells_are_columns_as_their_heads_say_or_as_is_usual() {
        let cells =
            |list: &[(&'static str, &str)]| list.iter().map(|(name, text)| (*name, (*text).to_owned())).collect();
        assert_eq!(
            read("Stage\t\n\tCut\t8\tana@x.test"),
            [
                (0, cells(&[("title", "Stage")])),
                (1, cells(&[("title", "Cut"), ("estimate_h", "8"), ("assignees", "ana@x.test")])),
            ]
        );
        assert_eq!(
            read("Assignees\tTitle\tEstimate\nAna\tStage\t2d\nBen\t  Cut\t4"),
            [
                (0, cells(&[("assignees", "Ana"), ("title", "Stage"), ("estimate_h", "2d")])),
                (2, cells(&[("assignees", "Ben"), ("title", "Cut"), ("estimate_h", "4")])),
            ]
        );
    }

    #[test]
    fn what_is_too_much_or_nothing_is_refused() {
        assert!(lines(" \n\t\n", 480).is_err());
        assert!(lines(&"x\n".repeat(501), 480).is_err());
        assert!(lines(&"x".repeat(100_001), 480).is_err());
    }
}
