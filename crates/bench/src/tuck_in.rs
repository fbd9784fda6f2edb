//! How long it takes to place undated work of a made-up workspace.

use rand::{Rng as _, SeedableRng as _, rngs::StdRng};
use snug_core::{
    Day, Plan,
    import::{Dataset, preview},
    tuck_in::{Ask, MayDate, Progress, breaches, propose},
};
use snug_exchange::csv::read_file;
use std::{
    fmt::Write as _,
    time::{Duration, Instant},
};

/// People to a team.
const TEAM: usize = 20;

/// Tasks to a project.
const PROJECT: usize = 40;

/// A workspace of teams, with bookings, time off, and tasks without dates that name a team, half of them behind another one.
fn workspace(tasks: usize, people: usize) -> Result<Plan, String> {
    let mut random = StdRng::seed_from_u64(5);
    let (teams, projects) = (people.div_ceil(TEAM), tasks.div_ceil(PROJECT));
    let day = |offset: i64| Day::from_number(20_530) + i32::try_from(offset).unwrap_or(0);
    let mut files = vec![
        ("people.csv", "email,name,role,kind,pattern\n".to_owned()),
        ("teams.csv", "code,name\n".to_owned()),
        ("members.csv", "team,email,share_percent\n".to_owned()),
        ("projects.csv", "code,name,status\n".to_owned()),
        ("absences.csv", "ref,email,start,end,kind\n".to_owned()),
        ("bookings.csv", "ref,email,project,start,end,amount,unit,certainty\n".to_owned()),
        ("tasks.csv", "ref,project,title,team,estimate_h,due,priority,stage\n".to_owned()),
        ("links.csv", "from,to,type,lag_days\n".to_owned()),
    ];
    let mut row = |file: usize, text: String| {
        let _ = writeln!(files[file].1, "{text}");
    };
    for at in 0..people {
        let pattern = if at % 5 == 0 { "8 8 8 0 0 0 0" } else { "8 8 8 8 8 0 0" };
        row(0, format!("p{at}@example.test,Person {at},role {},person,{pattern}", at % 12));
        row(2, format!("t{},p{at}@example.test,100", at / TEAM));
        let off = random.random_range(0..200);
        row(4, format!(",p{at}@example.test,{},{},vacation", day(off), day(off + 9)));
        let from = random.random_range(0..60);
        let project = random.random_range(0..projects);
        row(5, format!("B{at},p{at}@example.test,J{project},{},{},3,h/day,firm", day(from), day(from + 40)));
    }
    (0..teams).for_each(|at| row(1, format!("t{at},Team {at}")));
    (0..projects).for_each(|at| row(3, format!("J{at},Project {at},active")));
    for at in 0..tasks {
        let (team, hours, due) =
            (random.random_range(0..teams), random.random_range(2..28), random.random_range(10..200));
        let due = if at % 3 == 0 { day(due).to_string() } else { String::new() };
        let priority = ["low", "normal", "high", "urgent"][random.random_range(0..4)];
        row(6, format!("K{at},J{},Task {at},t{team},{hours},{due},{priority},to do", at / PROJECT));
        if at % PROJECT > 0 && random.random_bool(0.5) {
            row(7, format!("K{},K{at},FS,0", at - random.random_range(1..=at % PROJECT)));
        }
    }
    let mut data = Dataset::default();
    for (name, text) in &files {
        read_file(&mut data, name, text.as_bytes());
    }
    let found = preview(&Plan::empty(), &data);
    match found.problems.first() {
        Some(problem) => Err(problem.to_string()),
        None => Ok(Plan::empty().with(&found.changes)),
    }
}

/// Prints how long a first answer takes, what it comes to, what more seconds make of it, and how long the check takes.
pub fn run(tasks: usize, people: usize, seconds: f64) -> Result<(), String> {
    let plan = workspace(tasks, people)?;
    let ask = Ask::new(Day::from_number(20_530));
    let timed = |plan: &Plan, ask: &Ask, go_on: &mut dyn FnMut(Progress) -> bool| {
        let begun = Instant::now();
        let found = propose(plan, ask, 1, go_on).map_err(|refusal| refusal.message)?;
        Ok::<_, String>((found, begun.elapsed()))
    };
    let (first, took) = timed(&plan, &ask, &mut |_| false)?;
    println!("first seconds {:.3} {:?}", took.as_secs_f64(), first.score);
    let placed = plan.with(&first.changes(&plan));
    let (again, took) = timed(&placed, &Ask { dates: MayDate::Unpinned, ..ask.clone() }, &mut |_| false)?;
    println!("all dates anew seconds {:.3} {:?}", took.as_secs_f64(), again.score);
    let ends = Instant::now() + Duration::try_from_secs_f64(seconds).unwrap_or_default();
    let mut steps = 0;
    let (found, took) = timed(&plan, &ask, &mut |progress| {
        steps = progress.steps;
        Instant::now() < ends
    })?;
    println!("searched seconds {:.3} steps {steps} {:?}", took.as_secs_f64(), found.score);
    let begun = Instant::now();
    let wrong = breaches(&plan, &ask, &found);
    println!("checked seconds {:.3} breaches {}", begun.elapsed().as_secs_f64(), wrong.len());
    Ok(())
}
