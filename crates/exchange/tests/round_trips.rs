//! Random workspaces of every kind of record, out as files, in again, and out: byte for byte the same.
//!
//! Rows are drawn from what the kinds say of their columns, so that a new kind, or a new column, is drawn without a word here.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use proptest::prelude::*;
use snug_core::{
    Command, Day, Eyes, Plan,
    change::{Change, Edit},
    import::{Dataset, preview_beside},
    kinds::{File, InChange as _, Input, Kind, Project, Record as _, Text, files},
    network::Mode,
};
use snug_exchange::csv::{files_of, read_file};
use std::collections::{BTreeMap, BTreeSet};

fn today() -> Day {
    "2026-03-18".parse().unwrap()
}

/// Keys of records that rows before have made, by kind.
type Keys = BTreeMap<Kind, Vec<String>>;

/// A source of choices: the same numbers draw the same workspace.
struct Draw<'a> {
    numbers: &'a [u16],
    at: usize,
}

impl Draw<'_> {
    fn below(&mut self, most: usize) -> usize {
        self.at += 1;
        let number = usize::from(self.numbers[self.at % self.numbers.len()]) + self.at * 7;
        number % most.max(1)
    }

    fn of<T: Clone>(&mut self, list: &[T]) -> Option<T> {
        (!list.is_empty()).then(|| list[self.below(list.len())].clone())
    }

    /// A day; last days come after first ones.
    fn date(&mut self, column: &str) -> String {
        let first = if ["finish", "end"].contains(&column) { 7 } else { 1 };
        format!("2026-{:02}-{:02}", first + self.below(6), 1 + self.below(28))
    }
}

/// The key of a new record: rows of a kind are told apart by their number.
fn key(kind: Kind, at: usize) -> String {
    if kind == Kind::Person { format!("p{at}@x.test") } else { format!("{}-{at}", kind.about().path) }
}

/// A row of a file: what its columns say would do.
fn row(file: &File, at: usize, keys: &Keys, draw: &mut Draw<'_>) -> Vec<String> {
    let words = ["Crater relief", "“Night”, the second", "x; y", "é ☂", "00", "a|b=c"];
    let (about, is_even) = (file.kind.about(), at.is_multiple_of(2));
    let mut cells: Vec<String> = Vec::new();
    for spec in &file.columns {
        let together = ["absences.csv", "tasks.csv", "bookings.csv", "attachments.csv", "meetings.csv", "expenses.csv"]
            .contains(&file.name)
            && !matches!(spec.input, Input::Words);
        let left_out = !spec.must && draw.below(3) == 0 && !together;
        let is_key = file.part.is_none() && spec.name == about.key_column;
        let known = |kind: Kind| keys.get(&kind).cloned().unwrap_or_default();
        let text = match (file.name, spec.name) {
            _ if left_out => String::new(),
            ("people.csv" | "patterns.csv", "pattern") => "8 7.5 8 0 8 0 0 | 6 6 6 6 6 0 0.25".to_owned(),
            // Cells that say something together.
            ("absences.csv", "hours_per_day" | "at") | ("tasks.csv", "constraint" | "constraint_date") if is_even => {
                String::new()
            }
            ("meetings.csv", "every_weeks" | "until") | ("expenses.csv", "amount") if is_even => String::new(),
            ("meetings.csv", "every_weeks") => "2".to_owned(),
            ("meetings.csv", "until") => "2026-12-01".to_owned(),
            ("meetings.csv", "hours") => "1.25".to_owned(),
            ("template_tasks.csv", "after") => "FS one +2;SS two".to_owned(),
            ("absences.csv", "hours_per_day") => "1.5".to_owned(),
            ("absences.csv" | "meetings.csv", "at") => "09:30".to_owned(),
            ("tasks.csv", "constraint") => "not before".to_owned(),
            ("tasks.csv", "constraint_date") => "2026-03-09".to_owned(),
            ("bookings.csv", "email" | "team" | "role") if ["email", "team", "role"][at % 3] != spec.name => {
                String::new()
            }
            ("attachments.csv", "task" | "project") if (spec.name == "task") != is_even => String::new(),
            // A line that few projects have; rows of others are left out.
            ("tasks.csv" | "bookings.csv" | "expenses.csv", "line") if draw.below(3) > 0 => String::new(),
            ("tasks.csv" | "bookings.csv" | "expenses.csv", "line") => key(Kind::BudgetLine, 0),
            ("expenses.csv", "quantity" | "unit_price") if !is_even => String::new(),
            ("expenses.csv", "receipt") => format!("{}.pdf", "0123456789abcdef".repeat(4)),
            ("week_sheets.csv", "week") => (today().monday() - 7 * i32::try_from(at).unwrap()).to_string(),
            ("attachments.csv", "name") => format!("relief {at}.pdf"),
            ("attachments.csv", "sum") => "0123456789abcdef".repeat(4),
            ("references.csv", "address") => format!("https://drawings.x.test/{at}?é"),
            ("checklist.csv", "text") => format!("Line {at}, “sanded”"),
            ("links.csv", "from") => known(Kind::Task).get(at).cloned().unwrap_or_default(),
            ("links.csv", "to") => known(Kind::Task).get(at + 1).cloned().unwrap_or_default(),
            ("lists.csv", "ideas") => "behind".to_owned(),
            ("baselines.csv", "of") => "moon".to_owned(),
            ("texts.csv", "of") => "task".to_owned(),
            ("texts.csv", "key") => draw.of(&known(Kind::Task)).unwrap_or_default(),
            ("trail.csv", "list") => known(Kind::List).join("|"),
            ("trail.csv", "rank") => vec!["1.25"; known(Kind::List).len()].join("|"),
            ("fields.csv", "choices") => "oak;ash".to_owned(),
            ("baseline_items.csv", "teams") => {
                known(Kind::Team).iter().take(2).map(|team| format!("{team}=50")).collect::<Vec<_>>().join(";")
            }
            _ if is_key && !matches!(spec.input, Input::One(_)) => key(file.kind, at),
            _ => match spec.input {
                Input::Line if ["note", "text"].contains(&spec.name) && is_even => "two\nlines, “both”".to_owned(),
                Input::Line | Input::Used | Input::File => draw.of(&words).unwrap().to_owned(),
                Input::Words => "one;two words".to_owned(),
                Input::Number if spec.name == "fraction" => ["0.5", "0.333333", "1"][draw.below(3)].to_owned(),
                Input::Number => format!("{}.{}", 1 + draw.below(20), [5, 25, 125][draw.below(3)]),
                Input::Hours => format!("{}.25", 1 + draw.below(20)),
                Input::Whole => draw.below(9).to_string(),
                Input::Date => draw.date(spec.name),
                Input::Yes => "yes".to_owned(),
                Input::Choice(list) => draw.of(&list()).unwrap_or_default().to_owned(),
                Input::One(kind) if spec.name == "parent" && known(kind).len() < 2 => String::new(),
                Input::One(kind) => draw.of(&known(kind)).unwrap_or_default(),
                Input::Several(kind) => known(kind).into_iter().take(2).collect::<Vec<_>>().join(";"),
                Input::Whom if is_even => draw.of(&known(Kind::Person)).unwrap_or_default(),
                Input::Whom => "the timber yard; both".to_owned(),
                Input::People => draw.of(&known(Kind::Person)).map(|one| format!("{one}=full")).unwrap_or_default(),
            },
        };
        cells.push(text);
    }
    cells
}

fn text_of(file: &File, rows: &[Vec<String>]) -> Vec<u8> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(file.columns.iter().map(|spec| spec.name)).unwrap();
    for row in rows {
        writer.write_record(row).unwrap();
    }
    writer.into_inner().unwrap()
}

/// A workspace as files make it, with the texts beside its plan.
fn taken(files: &[(&str, Vec<u8>)]) -> (Dataset, Vec<snug_core::import::Problem>, Plan, Vec<Text>) {
    let mut data = Dataset::default();
    for (name, text) in files {
        read_file(&mut data, name, text.as_slice());
    }
    let found = preview_beside(&Plan::empty(), &data, &[], today());
    let texts = found.changes.iter().filter_map(|change| Text::in_change(change)?.after.clone()).collect();
    let plan = Plan::empty().with(&found.changes);
    (data, found.problems, plan, texts)
}

/// A random workspace: rows that cannot stand beside the others, as two trail days of one task on one day, are drawn and left out.
fn workspace(numbers: &[u16], most: usize) -> (Plan, Vec<Text>) {
    let mut draw = Draw { numbers, at: 0 };
    let (mut keys, mut written) = (Keys::new(), Vec::new());
    for file in files() {
        let rows: Vec<Vec<String>> = (0..2 + draw.below(most)).map(|at| row(file, at, &keys, &mut draw)).collect();
        if file.part.is_none() && file.kind.about().named() {
            let place = file.place(file.kind.about().key_column).unwrap();
            let made = (0..rows.len()).filter(|at| !rows[*at][place].is_empty());
            keys.insert(file.kind, made.map(|at| key(file.kind, at)).collect());
        }
        written.push((file, rows));
    }
    loop {
        let texts: Vec<(&str, Vec<u8>)> = written.iter().map(|(file, rows)| (file.name, text_of(file, rows))).collect();
        let (data, problems, plan, texts) = taken(&texts);
        if problems.is_empty() {
            return (plan, texts);
        }
        // The rows of the lines that are refused go; what is refused as a whole takes its file with it.
        let refused: BTreeSet<(String, u64)> = problems.iter().map(|it| (it.file.clone(), it.line)).collect();
        for (file, rows) in &mut written {
            if refused.contains(&(file.name.to_owned(), 0)) {
                rows.clear();
                continue;
            }
            let lines: Vec<u64> = data.lines(file.name).map(|line| line.number()).collect();
            let mut stays = lines.iter().map(|line| !refused.contains(&(file.name.to_owned(), *line)));
            rows.retain(|_| stays.next().unwrap_or(false));
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn what_goes_out_comes_in_and_goes_out_the_same(numbers in prop::collection::vec(any::<u16>(), 40..90), most in 1usize..7) {
        let (plan, texts) = workspace(&numbers, most);
        let out = files_of(&Eyes::of_all(&plan), &texts);
        let bytes: Vec<(&str, Vec<u8>)> = out.iter().map(|(name, text)| (*name, text.clone().into_bytes())).collect();
        let (data, problems, elsewhere, there) = taken(&bytes);
        prop_assert_eq!(problems, vec![]);
        for ((name, first), (_, second)) in out.iter().zip(files_of(&Eyes::of_all(&elsewhere), &there)) {
            prop_assert_eq!(first, &second, "{}", name);
        }
        // Where they stand already they say nothing new.
        let again = preview_beside(&plan, &data, &texts, today());
        prop_assert_eq!(again.changes, vec![]);
    }
}

/// A command on something that the workspace has; nothing where it has none of it.
fn command(plan: &Plan, which: usize, at: usize) -> Option<Command> {
    let project = plan.records.projects.keys().copied().nth(at)?;
    let task = || plan.tasks.values().filter(|task| task.start.is_some()).nth(at);
    Some(match which {
        0 => Command::SaveTemplate { project, name: "Saved".into() },
        1 => Command::StartProject {
            template: plan.records.templates.keys().copied().nth(at)?,
            project: Box::new(Project {
                code: "started".into(),
                name: "Started".into(),
                start: Some(today()),
                ..Project::blank()
            }),
            stands: Vec::new(),
        },
        2 => Command::Freeze { project, name: "Kept".into() },
        3 => Command::WriteDown { project, parent: None, text: "Hull\n  Planks 3h\n  Caulking 2h".into() },
        4 => Command::MoveTasks { tasks: vec![((**task()?).clone(), today() + 14)], mode: Mode::Push },
        5 => Command::MoveTasks { tasks: vec![((**task()?).clone(), today() + 14)], mode: Mode::Finish },
        _ => {
            let milestone = plan.records.milestones.values().nth(at)?;
            Command::Edit { changes: vec![Change::Milestone(Edit::remove((**milestone).clone()))] }
        }
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// Whatever is done is taken back by Undo, and done again by taking that back: the files are the same to the byte.
    #[test]
    fn what_is_done_is_taken_back_and_done_again(
        numbers in prop::collection::vec(any::<u16>(), 40..90), most in 2usize..7, which in 0..7usize, at in 0..4usize,
    ) {
        let (plan, texts) = workspace(&numbers, most);
        let Some(command) = command(&plan, which, at) else { return Ok(()) };
        let Ok(changes) = plan.decide(&command, today()) else { return Ok(()) };
        let out = |plan: &Plan| files_of(&Eyes::of_all(plan), &texts);
        let done = plan.with(&changes);
        let undo = done.decide(&Command::Undo { revision: 1, changes: changes.clone() }, today()).unwrap();
        let undone = done.with(&undo);
        prop_assert_eq!(out(&undone), out(&plan));
        let redo = undone.decide(&Command::Undo { revision: 2, changes: undo }, today()).unwrap();
        prop_assert_eq!(out(&undone.with(&redo)), out(&done));
        prop_assert_eq!(out(&done) == out(&plan), changes.is_empty());
    }
}

#[test]
fn every_file_has_rows_in_some_random_workspace() {
    let mut seen: BTreeSet<&str> = BTreeSet::new();
    for seed in 0..40u16 {
        let numbers: Vec<u16> = (0..60).map(|at| seed.wrapping_mul(7_919).wrapping_add(at * 257)).collect();
        let (plan, texts) = workspace(&numbers, 5);
        seen.extend(
            files_of(&Eyes::of_all(&plan), &texts)
                .into_iter()
                .filter(|(_, text)| text.lines().count() > 1)
                .map(|(name, _)| name),
        );
    }
    let all: BTreeSet<&str> = files().iter().map(|file| file.name).collect();
    assert_eq!(seen, all);
}
