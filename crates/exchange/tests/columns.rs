//! Every column of every file: what it takes, what it refuses, and that a record, a form and a file are the same row.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

use proptest::prelude::*;
use snug_core::{
    Eyes, Plan,
    change::{Change, Edit},
    import::{self, Dataset, preview},
    kinds::{File, Kind, file, files, guess},
};
use snug_exchange::csv::{files_of, header, read_file, read_folder, row_of};
use std::path::Path;

fn ground() -> Plan {
    let files = [
        (
            "fields.csv",
            "of,name,kind,choices\ntask,Bench,choice,north;south\nproject,Opens,date,\nperson,Aider,text,\ntask,Weight,number,\n",
        ),
        ("people.csv", "email,name\nada@x.test,Ada\nbo@x.test,Bo\n"),
        ("teams.csv", "code,name\nworkshop,Workshop\nrig,Rig\n"),
        ("projects.csv", "code,name\nmoon,Moon Garden\nsound,Museum of Sound\n"),
        ("tasks.csv", "ref,project,title\nT1,moon,First\nT2,moon,Second\n"),
        ("milestones.csv", "ref,name,date\nM7,Opening,2026-05-16\nM8,Handover,2026-05-30\n"),
        ("sprints.csv", "code,name,team,start,finish\nS4,Four,workshop,2026-03-09,2026-03-20\n"),
        ("releases.csv", "code,name\nR1,One\n"),
        ("templates.csv", "code,name\nsmall,Small\n"),
        ("lists.csv", "code,name,teams\nnext,Next,workshop\n"),
        ("budget_lines.csv", "project,line\nmoon,Build\n"),
        ("baselines.csv", "code,name,kind,of,date\nB-S4,Four,sprint,S4,2026-03-09\n"),
    ];
    let mut data = Dataset::default();
    for (name, text) in files {
        read_file(&mut data, name, text.as_bytes());
    }
    let found = preview(&Plan::empty(), &data);
    assert_eq!(found.problems, []);
    Plan::empty().with(&found.changes)
}

/// The files whose rows are records of their own.
fn whole_files() -> impl Iterator<Item = &'static File> {
    files().iter().filter(|file| file.part.is_none())
}

/// A row of each file that would do, as column and value.
fn good(name: &str) -> Vec<(&'static str, &'static str)> {
    match name {
        "fields.csv" => vec![("of", "task"), ("name", "Wood"), ("kind", "choice"), ("choices", "oak;ash")],
        "people.csv" => vec![
            ("email", "cy@x.test"),
            ("name", "Cy"),
            ("role", "rigger"),
            ("kind", "person"),
            ("holiday_calendar", "harbour"),
            ("pattern", "8 8 8 8 0 0 0 | 6 6 6 6 6 0 0"),
            ("day_limit_h", "7.5"),
            ("week_limit_h", "30"),
            ("max_projects", "3"),
            ("max_tasks", "5"),
            ("max_points", "8.5"),
            ("skills", "welding;rigging"),
            ("cost_rate", "44.25"),
            ("bill_rate", "80"),
            ("field.Aider", "since spring"),
        ],
        "holidays.csv" => {
            vec![("calendar", "harbour"), ("date", "2026-05-01"), ("name", "May day"), ("fraction", "0.5")]
        }
        "absences.csv" => {
            vec![
                ("ref", "A1"),
                ("email", "ada@x.test"),
                ("start", "2026-05-04"),
                ("end", "2026-05-08"),
                ("kind", "vacation"),
                ("hours_per_day", "4"),
            ]
        }
        "teams.csv" => vec![
            ("code", "install"),
            ("name", "Install"),
            ("parent", "workshop"),
            ("owner", "bo@x.test"),
            ("week_capacity_h", "120"),
            ("walk_in_reserve", "yes"),
        ],
        "projects.csv" => vec![
            ("code", "dunes"),
            ("name", "The dunes"),
            ("status", "paused"),
            ("parent", "moon"),
            ("lead", "ada@x.test"),
            ("team", "workshop"),
            ("start", "2026-03-09"),
            ("finish", "2026-06-30"),
            ("budget_h", "500"),
            ("budget_money", "40000"),
            ("field.Opens", "2026-07-01"),
        ],
        "tasks.csv" => vec![
            ("ref", "T3"),
            ("project", "moon"),
            ("parent", "T1"),
            ("title", "Third, with \"marks\""),
            ("kind", "build"),
            ("team", "workshop"),
            ("assignees", "ada@x.test=70;bo@x.test=30"),
            ("contour", "bell"),
            ("estimate_h", "12.5"),
            ("remaining_h", "4"),
            ("points", "3"),
            ("start", "2026-03-09"),
            ("finish", "2026-03-20"),
            ("due", "2026-03-27"),
            ("constraint", "not before"),
            ("constraint_date", "2026-03-09"),
            ("milestones", "M8;M7"),
            ("needs", "welding"),
            ("priority", "high"),
            ("stage", "doing"),
            ("progress", "40"),
            ("tags", "wood;late"),
            ("walk_in", "yes"),
            ("requester", "The museum"),
            ("sprint", "S4"),
            ("release", "R1"),
            ("line", "Build"),
            ("accountable", "ada@x.test"),
            ("waiting_on", "the timber yard"),
            ("stuck", "no oak yet"),
            ("followers", "bo@x.test;ada@x.test"),
            ("colour", "rose"),
            ("place", "1.5"),
            ("field.Bench", "north"),
            ("field.Weight", "85.5"),
        ],
        "links.csv" => vec![("from", "T1"), ("to", "T2"), ("type", "FS"), ("lag_days", "-2"), ("note", "paint dries")],
        "bookings.csv" => vec![
            ("ref", "B1"),
            ("email", "ada@x.test"),
            ("project", "moon"),
            ("start", "2026-03-09"),
            ("end", "2026-03-20"),
            ("amount", "33.5"),
            ("unit", "%"),
            ("certainty", "pencilled"),
            ("days_off", "yes"),
            ("note", "two\nlines"),
            ("line", "Build"),
        ],
        "week_sheets.csv" => vec![
            ("email", "ada@x.test"),
            ("week", "2026-03-09"),
            ("state", "sent back"),
            ("by", "bo@x.test"),
            ("note", "Thursday is missing"),
        ],
        "budget_lines.csv" => vec![("project", "moon"), ("line", "Paint"), ("hours", "120.5"), ("money", "4500.25")],
        "expenses.csv" => vec![
            ("ref", "E1"),
            ("project", "moon"),
            ("line", "Build"),
            ("task", "T1"),
            ("email", "ada@x.test"),
            ("date", "2026-03-09"),
            ("what", "Oak, planed"),
            ("quantity", "3.5"),
            ("unit", "m²"),
            ("unit_price", "48.2"),
            ("receipt", RECEIPT),
        ],
        "time.csv" => vec![
            ("ref", "H1"),
            ("email", "ada@x.test"),
            ("date", "2026-03-09"),
            ("project", "moon"),
            ("task", "T1"),
            ("hours", "1.5"),
            ("billable", "yes"),
            ("note", "bench"),
            ("reason", "forgotten"),
        ],
        "milestones.csv" => {
            vec![("ref", "M1"), ("name", "Opening"), ("date", "2026-05-16"), ("projects", "moon;sound")]
        }
        "sprints.csv" => vec![
            ("code", "S5"),
            ("name", "Five"),
            ("team", "workshop"),
            ("start", "2026-03-23"),
            ("finish", "2026-04-03"),
            ("state", "running"),
            ("goal", "The relief stands"),
        ],
        "releases.csv" => vec![
            ("code", "R2"),
            ("name", "Two"),
            ("product", "Touring version"),
            ("date", "2026-06-01"),
            ("state", "out"),
        ],
        "lists.csv" => vec![
            ("code", "later"),
            ("name", "Later"),
            ("purpose", "What may come"),
            ("teams", "workshop;rig"),
            ("ideas", "behind"),
        ],
        "items.csv" => vec![("list", "next"), ("task", "T1"), ("rank", "1.125"), ("parked_until", "2026-05-01")],
        "baselines.csv" => {
            vec![("code", "B2"), ("name", "Start"), ("kind", "project"), ("of", "moon"), ("date", "2026-03-02")]
        }
        "texts.csv" => vec![
            ("of", "task"),
            ("key", "T1"),
            ("kind", "comment"),
            ("at", "2026-03-09"),
            ("by", "ada@x.test"),
            ("text", "Two are tight.\n\nOne leaks."),
        ],
        "baseline_items.csv" => vec![
            ("baseline", "B-S4"),
            ("task", "T2"),
            ("start", "2026-03-09"),
            ("finish", "2026-03-13"),
            ("effort_h", "7.5"),
            ("points", "2.5"),
            ("teams", "workshop=60;rig=40"),
        ],
        "checklist.csv" => vec![("task", "T1"), ("text", "Sand the rims"), ("done", "yes"), ("place", "2.5")],
        "references.csv" => vec![
            ("task", "T1"),
            ("address", "https://drawings.x.test/4?a=b"),
            ("title", "Drawing 4"),
            ("state", "signed"),
            ("count", "-2"),
        ],
        "attachments.csv" => vec![
            ("task", "T1"),
            ("name", "relief, “four”.pdf"),
            ("type", "application/pdf"),
            ("bytes", "20480"),
            ("sum", SUM),
            ("at", "2026-03-09"),
            ("by", "ada@x.test"),
        ],
        "meetings.csv" => vec![
            ("ref", "G1"),
            ("project", "moon"),
            ("title", "Round of the dome"),
            ("people", "ada@x.test;bo@x.test"),
            ("date", "2026-03-09"),
            ("at", "09:30"),
            ("hours", "0.75"),
            ("every_weeks", "2"),
            ("until", "2026-06-01"),
        ],
        "risks.csv" => vec![
            ("ref", "R1"),
            ("project", "moon"),
            ("title", "The casting cracks, at the rim"),
            ("owner", "bo@x.test"),
            ("probability", "4"),
            ("impact", "2"),
            ("response", "mitigate"),
            ("state", "happened"),
            ("tasks", "T1;T2"),
            ("due", "2026-04-01"),
        ],
        "templates.csv" => vec![("code", "hall"), ("name", "A hall"), ("says", "For small ones")],
        "template_tasks.csv" => vec![
            ("template", "small"),
            ("line", "B"),
            ("parent", "A"),
            ("title", "Drawings"),
            ("kind", "design"),
            ("roles", "designer;writer"),
            ("team", "workshop"),
            ("estimate_h", "7.5"),
            ("points", "2.5"),
            ("begins", "3"),
            ("days", "5"),
            ("contour", "front"),
            ("milestone", "yes"),
            ("after", "FS A;SS C +2"),
        ],
        _ => Vec::new(),
    }
}

/// SHA-256 of nothing.
const RECEIPT: &str = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855.jpg";
const SUM: &str = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855";

/// Other rows that would do, with what stands in no row of [`good`], as a booking is of a person, a team or a role.
fn other(name: &str) -> Vec<Vec<(&'static str, &'static str)>> {
    match name {
        "bookings.csv" => [("team", "workshop"), ("role", "rigger")]
            .map(|who| {
                vec![
                    who,
                    ("start", "2026-03-09"),
                    ("end", "2026-03-20"),
                    ("amount", "6"),
                    ("unit", "h/day"),
                    ("certainty", "firm"),
                ]
            })
            .to_vec(),
        "expenses.csv" => {
            vec![vec![("project", "moon"), ("date", "2026-03-09"), ("what", "Screws"), ("amount", "19.9")]]
        }
        "absences.csv" => vec![vec![
            ("email", "bo@x.test"),
            ("start", "2026-05-04"),
            ("end", "2026-05-04"),
            ("hours_per_day", "1.5"),
            ("at", "09:30"),
        ]],
        "tasks.csv" => vec![vec![("ref", "T4"), ("project", "moon"), ("title", "Fourth"), ("waiting_on", "bo@x.test")]],
        "attachments.csv" => {
            vec![vec![("project", "moon"), ("name", "plan.png"), ("bytes", "0"), ("sum", SUM), ("at", "2026-03-09")]]
        }
        _ => Vec::new(),
    }
}

#[test]
fn every_column_of_every_file_is_tried() {
    let plan = ground();
    for file in whole_files() {
        let rows = other(file.name).into_iter().chain([good(file.name)]);
        let tried: Vec<&str> = rows.flatten().map(|(column, _)| column).collect();
        for column in header(&plan, file.name) {
            assert!(tried.contains(&column.as_str()), "{}, {column}", file.name);
        }
    }
}

#[test]
fn a_row_becomes_a_record_and_the_record_the_same_row() {
    let plan = ground();
    let files = whole_files();
    for (file, row) in
        files.flat_map(|file| other(file.name).into_iter().chain([good(file.name)]).map(move |row| (file, row)))
    {
        let record = import::record(&plan, file.kind, &Dataset::of_row(file.name, row.iter().copied()), 77).unwrap();
        assert_eq!(record.subject(), (file.kind, 77));
        let back = row_of(&Eyes::of_all(&plan), &record).unwrap();
        for (column, value) in &row {
            let got = back.iter().find(|(name, _)| name == column).map(|(_, value)| value.as_str());
            assert_eq!(got, Some(*value), "{}, {column}", file.name);
        }
        let columns: Vec<&String> = back.iter().map(|(name, _)| name).collect();
        assert_eq!(columns, header(&plan, file.name).iter().collect::<Vec<_>>(), "{}", file.name);
        // The same row in a file makes the same record, but for its identity.
        let mut data = Dataset::default();
        let text = csv_of(&row);
        read_file(&mut data, file.name, text.as_bytes());
        let found = preview(&plan, &data);
        assert_eq!(found.problems, [], "{}", file.name);
        assert_eq!(row_of(&Eyes::of_all(&plan), &found.changes[0]).unwrap(), back, "{}", file.name);
    }
}

fn csv_of(row: &[(&str, &str)]) -> String {
    let (names, values): (Vec<&str>, Vec<&str>) = row.iter().copied().unzip();
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(names).unwrap();
    writer.write_record(values).unwrap();
    String::from_utf8(writer.into_inner().unwrap()).unwrap()
}

#[test]
fn a_value_that_cannot_be_is_refused_at_its_column() {
    let plan = ground();
    // file, column, value, what is said of it
    let table = [
        ("fields.csv", "of", "team", "not one of person, project, task"),
        ("fields.csv", "kind", "colour", "not one of number, choice, text, date"),
        ("fields.csv", "choices", "", "what there is to choose"),
        ("people.csv", "email", "cy", "is no e-mail address"),
        ("people.csv", "name", "", "is empty"),
        ("people.csv", "kind", "robot", "not one of person, equipment"),
        ("people.csv", "pattern", "8 8 8", "write seven numbers of hours"),
        ("people.csv", "pattern", "25 0 0 0 0 0 0", "a day has 24 hours"),
        ("people.csv", "day_limit_h", "-1", "is no number of hours"),
        ("people.csv", "day_limit_h", "25", "A day has 24 hours"),
        ("people.csv", "week_limit_h", "many", "is no number of hours"),
        ("people.csv", "max_projects", "2.5", "is no whole number"),
        ("people.csv", "max_points", "x", "is no number"),
        ("people.csv", "cost_rate", "-3", "is less than nothing"),
        ("holidays.csv", "date", "1.5.2026", "is no date"),
        ("holidays.csv", "fraction", "1.5", "is no part of a day"),
        ("holidays.csv", "calendar", "", "is empty"),
        ("absences.csv", "email", "nobody@x.test", "there is no person"),
        ("absences.csv", "end", "2026-05-01", "before it starts"),
        ("absences.csv", "hours_per_day", "0", "Write hours between"),
        ("teams.csv", "parent", "nowhere", "there is no team"),
        ("teams.csv", "owner", "nobody@x.test", "there is no person"),
        ("teams.csv", "code", "", "is empty"),
        ("projects.csv", "status", "lost", "not one of sketch"),
        ("projects.csv", "parent", "nowhere", "there is no project"),
        ("projects.csv", "finish", "2026-01-01", "before it starts"),
        ("projects.csv", "budget_h", "lots", "is no number of hours"),
        ("projects.csv", "field.Opens", "soon", "Opens: “soon” is no date"),
        ("tasks.csv", "project", "nowhere", "there is no project"),
        ("tasks.csv", "parent", "T9", "there is no task"),
        ("tasks.csv", "title", "", "is empty"),
        ("tasks.csv", "assignees", "ada@x.test=70", "add up to 70 %"),
        ("tasks.csv", "assignees", "ada@x.test;ada@x.test", "named twice"),
        ("tasks.csv", "assignees", "ada@x.test=70;bo@x.test", "give a share to everybody or to nobody"),
        ("tasks.csv", "contour", "wavy", "not one of flat"),
        ("tasks.csv", "estimate_h", "1e400", "is no number of hours"),
        ("tasks.csv", "priority", "asap", "not one of low"),
        ("tasks.csv", "progress", "101", "more than 100"),
        ("tasks.csv", "walk_in", "perhaps", "neither yes nor no"),
        ("tasks.csv", "accountable", "nobody@x.test", "there is no person"),
        ("tasks.csv", "waiting_on", "nobody@x.test", "there is no person"),
        ("tasks.csv", "followers", "ada@x.test;ada@x.test", "named twice"),
        ("tasks.csv", "colour", "red", "not one of"),
        ("tasks.csv", "place", "-1", "less than nothing"),
        ("tasks.csv", "place", "1000000001", "at most 1,000,000,000"),
        ("checklist.csv", "task", "T9", "there is no task"),
        ("checklist.csv", "text", "", "is empty"),
        ("checklist.csv", "done", "perhaps", "neither yes nor no"),
        ("references.csv", "address", "javascript:alert(1)", "Write an address of the web"),
        ("references.csv", "address", "https://a b", "Write an address of the web"),
        ("references.csv", "count", "many", "is no whole number"),
        ("attachments.csv", "task", "", "belongs to a task or to a project"),
        ("attachments.csv", "name", "../x", "has no slashes"),
        ("attachments.csv", "bytes", "25000001", "at most 25 MB"),
        ("attachments.csv", "sum", "E3B0", "is no SHA-256"),
        ("tasks.csv", "field.Bench", "west", "Bench: “west” is not one of north, south"),
        ("tasks.csv", "field.Colour", "red", "there is no field “Colour”"),
        ("links.csv", "to", "T1", "cannot be linked to itself"),
        ("links.csv", "type", "before", "not one of FS"),
        ("links.csv", "lag_days", "9999", "more than ten years"),
        ("bookings.csv", "team", "workshop", "give one of email, team and role"),
        ("bookings.csv", "amount", "0", "something must be booked"),
        ("bookings.csv", "unit", "days", "not one of h/day"),
        ("bookings.csv", "certainty", "maybe", "not one of firm"),
        ("bookings.csv", "end", "2026-03-01", "before it starts"),
        ("week_sheets.csv", "week", "2026-03-10", "named by its Monday"),
        ("week_sheets.csv", "state", "open", "not one of handed in, approved, sent back"),
        ("week_sheets.csv", "note", "", "Say what is to be put right."),
        ("budget_lines.csv", "line", "", "is empty"),
        ("budget_lines.csv", "hours", "1000001", "more than can be"),
        ("budget_lines.csv", "money", "-1", "less than nothing"),
        ("expenses.csv", "amount", "12", "not both"),
        ("expenses.csv", "unit_price", "", "Say how much"),
        ("expenses.csv", "unit_price", "0.00001", "at most four digits"),
        ("expenses.csv", "receipt", "oak.jpg", "a picture or a PDF"),
        ("expenses.csv", "project", "nowhere", "there is no project"),
        ("time.csv", "hours", "25", "lies not between a minute and 24 hours"),
        ("time.csv", "hours", "-25", "lies not between a minute and 24 hours"),
        ("time.csv", "task", "T9", "there is no task"),
        ("tasks.csv", "constraint", "soon", "not one of not before"),
        ("tasks.csv", "constraint_date", "", "Say the day before or after which"),
        ("tasks.csv", "milestones", "M7;M9", "there is no milestone “M9”"),
        ("tasks.csv", "sprint", "S9", "there is no sprint “S9”"),
        ("tasks.csv", "release", "R9", "there is no release “R9”"),
        ("teams.csv", "walk_in_reserve", "some", "neither yes nor no"),
        ("sprints.csv", "team", "nowhere", "there is no team"),
        ("sprints.csv", "finish", "2026-03-01", "before it starts"),
        ("sprints.csv", "state", "over", "not one of planned, running, finished"),
        ("releases.csv", "code", "", "is empty"),
        ("releases.csv", "date", "soon", "is no date"),
        ("meetings.csv", "at", "25:00", "time"),
        ("risks.csv", "probability", "6", "from 1 to 5"),
        ("risks.csv", "response", "pray", "is not one of"),
        ("template_tasks.csv", "days", "0", "from 1 to"),
        ("lists.csv", "teams", "workshop;workshop", "at least one team, each once"),
        ("lists.csv", "ideas", "ahead", "neither behind nor nothing"),
        ("items.csv", "rank", "first", "is no number"),
        ("items.csv", "list", "nowhere", "there is no list"),
        ("baselines.csv", "kind", "release", "not one of project, sprint, season"),
        ("baseline_items.csv", "teams", "workshop=60", "100 % in all"),
        ("baseline_items.csv", "teams", "workshop=60;rig", "100 % in all"),
        ("baseline_items.csv", "baseline", "B9", "there is no baseline"),
        ("texts.csv", "of", "team", "not one of task, project, person"),
        ("texts.csv", "key", "T9", "there is no task “T9”"),
        ("texts.csv", "kind", "remark", "not one of description, comment"),
        ("texts.csv", "text", "", "is empty"),
        ("milestones.csv", "projects", "moon;nowhere", "there is no project"),
        ("milestones.csv", "name", "", "is empty"),
    ];
    for (name, column, value, said) in table {
        let mut row = good(name);
        match row.iter_mut().find(|(known, _)| *known == column) {
            Some((_, stands)) => *stands = value,
            None => row.push((column, value)),
        }
        let told = import::record(&plan, file(name).unwrap().kind, &Dataset::of_row(name, row.iter().copied()), 0)
            .unwrap_err();
        let (at, reason) = &told[0];
        let expected = if column.starts_with("field.") { "fields" } else { column };
        assert!(
            at == expected || said.contains("one of email"),
            "{name}, {column} = “{value}”: told at {at}: {reason}"
        );
        assert!(reason.contains(said), "{name}, {column} = “{value}”: {reason}");
        // A file says the same of its line.
        let mut data = Dataset::default();
        read_file(&mut data, name, csv_of(&row).as_bytes());
        let problems = preview(&plan, &data).problems;
        assert!(
            problems.iter().any(|problem| problem.line == 2 && problem.reason.contains(said)),
            "{name}, {column}: {problems:?}"
        );
    }
}

/// Files that add to records: each wrong row with the column and the words it is told with.
#[test]
fn a_row_that_cannot_be_added_is_told_at_its_column() {
    let table = [
        (
            "patterns.csv",
            "email,from,pattern\nno@x.test,2026-03-09,8 8 8 8 8 0 0",
            "email",
            "there is no person “no@x.test”",
        ),
        ("patterns.csv", "email,from,pattern\nada@x.test,soon,8 8 8 8 8 0 0", "from", "“soon” is no date"),
        ("patterns.csv", "email,from,pattern\nada@x.test,2026-03-09,8 8", "pattern", "write seven numbers of hours"),
        ("rates.csv", "email,from,cost_rate\nada@x.test,2026-03-09,-1", "cost_rate", "is less than nothing"),
        ("members.csv", "team,email,share_percent\nnowhere,ada@x.test,10", "team", "there is no team “nowhere”"),
        ("members.csv", "team,email,share_percent\nrig,ada@x.test,0", "share_percent", "is no share"),
        ("trail.csv", "task,date,stage\nT9,2026-03-09,doing", "task", "there is no task “T9”"),
        ("trail.csv", "task,date,stage\nT1,2026-03-09,", "stage", "is empty"),
        (
            "trail.csv",
            "task,date,stage,list,rank\nT1,2026-03-09,doing,next,",
            "rank",
            "not as many ranks as there are lists",
        ),
        ("trail.csv", "task,date,stage,sprint\nT1,2026-03-09,doing,S9", "sprint", "there is no sprint “S9”"),
        ("trail.csv", "task,date,stage\nT1,2026-03-09,doing\nT1,2026-03-09,done", "date", "stands on line 2 already"),
    ];
    for (name, text, column, said) in table {
        let mut data = Dataset::default();
        read_file(&mut data, name, text.as_bytes());
        let problems = preview(&ground(), &data).problems;
        let told =
            problems.iter().any(|it| it.file == name && it.column == column && it.line > 1 && it.reason.contains(said));
        assert!(told, "{name}, {column}: {problems:?}");
    }
}

#[test]
fn a_file_is_known_by_its_header() {
    for file in files() {
        let names: Vec<&str> = file.columns.iter().map(|spec| spec.name).collect();
        assert_eq!(guess(&names).map(|found| found.name), Some(file.name));
    }
    assert_eq!(guess(&["email", " name ", "shoe size"]).map(|file| file.name), Some("people.csv"));
    assert!(guess(&["colour", "size"]).is_none());
    assert!(file("people.csv").is_some() && file("secrets.csv").is_none());
}

#[test]
fn own_columns_stand_once_and_only_where_records_have_fields() {
    let plan = ground();
    let read = |name: &str, text: &str| {
        let mut data = Dataset::default();
        read_file(&mut data, name, text.as_bytes());
        preview(&plan, &data)
    };
    let twice = read("tasks.csv", "project,title,field.Bench,field.Bench\nmoon,X,north,south\n");
    assert!(twice.problems[0].reason.contains("stands twice in the header"));
    let elsewhere = read("teams.csv", "code,name,field.Bench\na,A,north\n");
    assert_eq!(elsewhere.unknown_columns, [("teams.csv".to_owned(), "field.Bench".to_owned())]);
    // A field and its values may come in one go.
    let mut data = Dataset::default();
    read_file(&mut data, "fields.csv", "of,name,kind\ntask,Colour,text\n".as_bytes());
    read_file(&mut data, "tasks.csv", "project,title,field.Colour\nmoon,X,red\n".as_bytes());
    assert_eq!(preview(&plan, &data).problems, []);
}

#[test]
fn a_task_without_a_reference_is_known_again_and_gets_one_for_others() {
    let plan = ground();
    let text = "project,title,estimate_h\nmoon,Loose,4\nmoon,Loose,4\n";
    let mut data = Dataset::default();
    read_file(&mut data, "tasks.csv", text.as_bytes());
    let first = preview(&plan, &data);
    let after = plan.with(&first.changes);
    let references: Vec<&str> =
        after.tasks.values().filter(|task| task.title == "Loose").map(|task| task.reference.as_str()).collect();
    assert!(references.iter().all(|reference| reference.starts_with('T')) && references[0] != references[1]);
    let again = preview(&after, &data);
    assert_eq!((again.files["tasks.csv"].same, again.changes.len()), (2, 0));
}

#[test]
fn a_day_with_more_than_24_hours_and_a_circle_of_links_are_refused() {
    let plan = ground();
    let read = |name: &str, text: &str| {
        let mut data = Dataset::default();
        read_file(&mut data, name, text.as_bytes());
        preview(&plan, &data).problems
    };
    let full = read("time.csv", "email,date,hours\nada@x.test,2026-03-09,20\nada@x.test,2026-03-09,5\n");
    assert!(full[0].reason.contains("2026-03-09 would have 25:00 hours"), "{full:?}");
    let drawn =
        read("time.csv", "email,date,hours,reason\nada@x.test,2026-03-09,1,\nada@x.test,2026-03-09,-1.5,twice\n");
    assert!(drawn[0].reason.contains("takes out 0:30 hours more on 2026-03-09 than were logged there"), "{drawn:?}");
    assert_eq!(drawn[0].line, 3);
    let silent = read("time.csv", "email,date,hours\nada@x.test,2026-03-09,1\nada@x.test,2026-03-09,-0.5\n");
    assert!(silent[0].reason.contains("Say why hours are taken out again."), "{silent:?}");
    let no_line = read("tasks.csv", "ref,project,title,line\nT8,moon,Eighth,Build\nT9,sound,Ninth,Build\n");
    assert!(no_line[0].reason.contains("no budget line “Build” in this project"), "{no_line:?}");
    assert_eq!((no_line.len(), no_line[0].line), (1, 3));
    let circle = read("links.csv", "from,to,type\nT1,T2,FS\nT2,T1,SS\n");
    assert!(circle[0].reason.contains("First → Second → First"), "{circle:?}");
}

fn demo() -> Plan {
    let data = read_folder(&Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo")).unwrap();
    Plan::empty().with(&preview(&Plan::empty(), &data).changes)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Whatever words stand in a record, they come out of a file as they went in, but for blanks at their ends.
    #[test]
    fn words_survive_files(title in "\\PC{0,40}", note in "(\\PC|\n){0,80}", skill in "[a-z ,\"'é☂]{1,20}") {
        let plan = ground();
        let title = format!("x{title}");
        let rows = [
            ("tasks.csv", vec![("ref", "T9"), ("project", "moon"), ("title", title.as_str())]),
            ("bookings.csv", vec![("email", "ada@x.test"), ("start", "2026-03-09"), ("end", "2026-03-09"), ("amount", "1"), ("unit", "h"), ("note", note.as_str())]),
            ("people.csv", vec![("email", "dee@x.test"), ("name", title.as_str()), ("skills", skill.as_str())]),
        ];
        let mut data = Dataset::default();
        for (name, row) in &rows {
            read_file(&mut data, name, csv_of(row).as_bytes());
        }
        let found = preview(&plan, &data);
        prop_assert_eq!(&found.problems, &vec![]);
        let after = plan.with(&found.changes);
        let mut again = Dataset::default();
        for (name, text) in files_of(&Eyes::of_all(&after), &[]) {
            read_file(&mut again, name, text.as_bytes());
        }
        prop_assert_eq!(preview(&after, &again).changes, vec![]);
        let task = after.tasks.values().find(|task| task.reference == "T9").unwrap();
        prop_assert_eq!(task.title.as_str(), title.trim());
    }

    /// Any file, however broken, is told and not taken: nothing of it reaches the plan unless all of it is good.
    #[test]
    fn no_bytes_break_the_reader(file in 0..files().len(), bytes in prop::collection::vec(any::<u8>(), 0..300), header_first in any::<bool>()) {
        let file = &files()[file];
        let mut text = Vec::new();
        if header_first {
            text.extend(file.columns.iter().map(|spec| spec.name).collect::<Vec<_>>().join(",").bytes());
            text.push(b'\n');
        }
        text.extend(&bytes);
        let mut data = Dataset::default();
        read_file(&mut data, file.name, text.as_slice());
        let found = preview(&ground(), &data);
        for problem in &found.problems {
            prop_assert!(!problem.reason.is_empty() && problem.file == file.name);
        }
    }

    /// Changing one value of any record of the demo and changing it back leaves the files as they were.
    #[test]
    fn one_value_there_and_back(at in 0usize..59, hours in 0i64..10_000) {
        let plan = demo();
        let before = files_of(&Eyes::of_all(&plan), &[]);
        let task = plan.tasks.values().nth(at).unwrap();
        let mut row: Vec<(String, String)> = row_of(&Eyes::of_all(&plan), &Change::Task(Edit::new((**task).clone()))).unwrap();
        let estimate = row.iter_mut().find(|(name, _)| name == "estimate_h").unwrap();
        estimate.1 = snug_core::cell::hours_text(hours);
        let data = Dataset::of_row("tasks.csv", row.iter().map(|(name, value)| (name.as_str(), value.as_str())));
        let Change::Task(Edit { after: Some(to), .. }) = import::record(&plan, Kind::Task, &data, task.id.0).unwrap() else { panic!() };
        prop_assert_eq!(to.estimate, Some(hours));
        let there = Change::Task(Edit::alter((**task).clone(), to));
        let back = plan.with(std::slice::from_ref(&there)).with(&[there.inverse()]);
        prop_assert_eq!(files_of(&Eyes::of_all(&back), &[]), before);
    }
}
