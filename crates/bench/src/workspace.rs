//! A made-up workspace of any size, as the files that the application imports. The window around Monday 2026-03-09 is the busy one.

use rand::{Rng as _, SeedableRng as _, rngs::StdRng};
use std::{fs, path::Path};

const SYLLABLES: [&str; 16] =
    ["ka", "lo", "mi", "ra", "ten", "vo", "sil", "bar", "ne", "dor", "hu", "wen", "ja", "pel", "os", "tri"];
const ROLES: [&str; 12] = [
    "carpenter",
    "painter",
    "rigger",
    "writer",
    "editor",
    "electronics",
    "firmware",
    "lighting",
    "sound",
    "drafting",
    "driver",
    "planner",
];

/// People to a team, and to a project.
const TEAM: usize = 40;
const PROJECT: usize = 8;

/// What people have logged, back from the day before today, a few entries a day: mostly on their own tasks, some on none.
fn logged(random: &mut StdRng, people: usize, entries: usize, day: &dyn Fn(i64) -> String) -> Vec<String> {
    let projects = (people / PROJECT).max(3);
    let entry = |at: usize| {
        let (who, back) = (at % people, i64::try_from(at / people / 3).unwrap_or(0));
        let hours = f64::from(random.random_range(1..11)) / 4.0;
        let (project, task) = if at.is_multiple_of(9) {
            (format!("pr{}", random.random_range(0..projects)), String::new())
        } else {
            (String::new(), format!("K{}", who * 3 + random.random_range(0..3)))
        };
        let billable = if at.is_multiple_of(4) { "" } else { "yes" };
        // From the Tuesday before today back.
        format!("p{who}@example.test,{},{project},{task},{hours},{billable},", day(1 - back))
    };
    (0..entries).map(entry).collect()
}

/// Writes the files.
pub fn write(dir: &Path, people: usize, entries: usize) -> Result<(), String> {
    let failed = |error: &dyn std::fmt::Display| format!("{}: {error}", dir.display());
    fs::create_dir_all(dir).map_err(|error| failed(&error))?;
    let mut random = StdRng::seed_from_u64(7);
    let projects = (people / PROJECT).max(3);
    let mut name = |parts: usize| {
        let text: String = (0..parts).map(|_| SYLLABLES[random.random_range(0..SYLLABLES.len())]).collect();
        text[..1].to_uppercase() + &text[1..]
    };
    let names: Vec<String> = (0..people).map(|_| format!("{} {}", name(2), name(3))).collect();
    let places: Vec<String> = (0..projects).map(|_| name(4)).collect();
    let mut random = StdRng::seed_from_u64(11);
    let email = |at: usize| format!("p{at}@example.test");
    let project = |at: usize| format!("pr{at}");
    let day = |offset: i64| {
        let monday = chrono::NaiveDate::from_ymd_opt(2026, 3, 9).unwrap_or_default();
        (monday + chrono::Duration::days(offset)).to_string()
    };

    let mut files: Vec<(&str, String)> = Vec::new();
    let mut put = |file: &'static str, head: &str, lines: Vec<String>| {
        files.push((file, format!("{head}\n{}\n", lines.join("\n"))));
    };
    put(
        "people.csv",
        "email,name,role,kind,holiday_calendar,pattern,max_projects,skills",
        (0..people)
            .map(|at| {
                let role = ROLES[at % ROLES.len()];
                let skill = format!("skill {}", random.random_range(0..60));
                let pattern = if at % 5 == 0 { "8 8 8 8 0 0 0" } else { "8 8 8 8 8 0 0" };
                format!("{},{},{role},person,town,{pattern},4,{role};{skill}", email(at), names[at])
            })
            .collect(),
    );
    put("holidays.csv", "calendar,date,name,fraction", vec![format!("town,{},Spring Day,1", day(28))]);
    let teams = people.div_ceil(TEAM);
    put(
        "teams.csv",
        "code,name,parent,owner,week_capacity_h",
        (0..teams).map(|at| format!("t{at},Team {at},,{},", email(at * TEAM))).collect(),
    );
    put(
        "members.csv",
        "team,email,share_percent",
        (0..people).map(|at| format!("t{},{},100", at / TEAM, email(at))).collect(),
    );
    put(
        "projects.csv",
        "code,name,status,parent,lead,team,start,finish,budget_h,budget_money",
        (0..projects)
            .map(|at| {
                format!("{},{} {at},active,,,,{},{},{},", project(at), places[at], day(-60), day(200), 400 + at % 700)
            })
            .collect(),
    );
    // Of each project the first day and the number of each task, to be linked.
    let mut placed: Vec<Vec<(i64, usize)>> = vec![Vec::new(); projects];
    put(
        "tasks.csv",
        "ref,project,title,team,assignees,estimate_h,start,finish,stage",
        (0..people * 3)
            .map(|at| {
                let start = random.random_range(-30..120);
                let (who, hours) = (email(at / 3), random.random_range(4..60));
                let place = random.random_range(0..projects);
                placed[place].push((start, at));
                format!("K{at},{},Piece {at},,{who},{hours},{},{},to do", project(place), day(start), day(start + 12))
            })
            // What teams have to do before anybody is named for it.
            .chain((0..teams * 4).map(|at| {
                let (start, hours, place) = (at % 4 * 25, 60 + at % 7 * 30, at % projects);
                let (first, last) = (i64::try_from(start).unwrap_or(0), i64::try_from(start + 40).unwrap_or(0));
                format!("L{at},{},Part {at},t{},,{hours},{},{},to do", project(place), at / 4, day(first), day(last))
            }))
            .collect(),
    );
    let mut links = Vec::new();
    for tasks in &mut placed {
        tasks.sort_unstable();
        for (at, (start, task)) in tasks.iter().enumerate() {
            // What begins three days after another one has ended, or later, waits for it.
            let next = tasks[at + 1..].iter().find(|(next, _)| *next > start + 15);
            links.extend(next.map(|(_, next)| format!("K{task},K{next},FS,0,")));
        }
    }
    put("links.csv", "from,to,type,lag_days,note", links);
    put(
        "bookings.csv",
        "ref,email,team,role,project,start,end,amount,unit,certainty,days_off,note",
        (0..people * 6)
            .map(|at| {
                let start = random.random_range(-40..150);
                let length = random.random_range(4..40);
                let certainty = if at % 7 == 0 { "pencilled" } else { "firm" };
                let (amount, unit) = match at % 5 {
                    0 => (random.random_range(4..30), "h/week"),
                    1 => (random.random_range(10..60), "%"),
                    _ => (random.random_range(1..5), "h/day"),
                };
                let place = project(random.random_range(0..projects));
                format!(
                    "B{at},{},,,{place},{},{},{amount},{unit},{certainty},,",
                    email(at / 6),
                    day(start),
                    day(start + length)
                )
            })
            .collect(),
    );
    if entries > 0 {
        put("time.csv", "email,date,project,task,hours,billable,note", logged(&mut random, people, entries, &day));
        let rate = |at: usize| format!("{},{},{},{}", email(at), day(-3_000), 38 + at % 20, 80 + at % 40);
        put("rates.csv", "email,from,cost_rate,bill_rate", (0..people).map(rate).collect());
    }
    for (file, text) in files {
        fs::write(dir.join(file), text).map_err(|error| failed(&error))?;
    }
    println!(
        "{people} people, {teams} teams, {projects} projects, {} tasks, {} bookings",
        people * 3 + teams * 4,
        people * 6
    );
    Ok(())
}
