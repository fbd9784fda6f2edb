//! The Hours room timed at a server with very many entries. Before each reading something is changed, so that nothing is at hand from
//! the time before; and once more without, as it is while nobody changes anything.

use crate::pages::{read, sign_in, tags};
use std::time::{Duration, Instant};

/// What is read, and what it is called.
const PAGES: [(&str, &str); 15] = [
    ("somebody’s week sheet", "/hours?person=PERSON&week=2026-03-02"),
    ("my day of somebody", "/hours/day?person=PERSON"),
    ("approval, one team", "/hours/approve?week=2026-03-02&team=t7"),
    ("estimate against actual by task", "/hours/actuals?by=task"),
    ("by project", "/hours/actuals?by=project"),
    ("by person", "/hours/actuals?by=person"),
    ("by team", "/hours/actuals?by=team"),
    ("by project, logged in one month", "/hours/actuals?by=project&from=2026-02-01&to=2026-02-28"),
    ("a report of time by project, four weeks", "/hours/reports?of=time&by=project"),
    ("a report of time by project and month, a year", "/hours/reports?of=time&range=this+year&by=project&then=month"),
    (
        "a report of time by person, every entry",
        "/hours/reports?of=time&range=days&from=2024-01-01&to=2026-12-31&by=person",
    ),
    (
        "a report of one person, every entry",
        "/hours/reports?of=time&range=days&from=2024-01-01&to=2026-12-31&person=PERSON",
    ),
    ("walk-ins", "/hours/walk-ins?team=t7"),
    ("budgets", "/hours/budgets"),
    ("money", "/hours/money"),
];

/// Reads everything so many times and prints a row each: median after a change, 95th percentile, median without one, kB.
pub fn run(url: &str, email: &str, password: &str, times: usize) -> Result<(), String> {
    let client = sign_in(url, email, password)?;
    let get = |path: &str| read(client.get(format!("{url}{path}")).send());
    let people = get("/people")?.0;
    let ids = people.split("href=\"/people/").skip(1).filter_map(|rest| rest.split_once('"'));
    let person = ids.map(|(id, _)| id).find(|id| id.parse::<i32>().is_ok()).ok_or("there are no people")?;
    let mut bookings = Vec::new();
    while bookings.len() < times * PAGES.len() {
        let offset = bookings.len() / 3;
        let more = tags(&get(&format!("/fit/rows?from=2026-03-09&span=12&offset={offset}"))?.0);
        if more.is_empty() {
            return Err("the workspace has too few bookings to be moved".to_owned());
        }
        bookings.extend(more);
    }
    for (name, path) in PAGES {
        let path = path.replace("PERSON", person);
        let (mut took, mut again, mut bytes) = (Vec::new(), Vec::new(), 0);
        for _ in 0..times {
            let seen = bookings.pop().unwrap_or_default();
            let form = [("seen", seen.as_str()), ("shift", "1")];
            let sent =
                client.post(format!("{url}/bookings/move")).header("x-requested-with", "fetch").form(&form).send();
            // One that was moved already is refused; then another one was before it.
            sent.map_err(|error| error.to_string())?.text().map_err(|error| error.to_string())?;
            for list in [&mut took, &mut again] {
                let begun = Instant::now();
                bytes = get(&path).map_err(|problem| format!("{name}: {problem}"))?.1;
                list.push(begun.elapsed());
            }
        }
        let at = |list: &mut Vec<Duration>, part: usize| {
            list.sort_unstable();
            list[(list.len() * part / 100).min(list.len() - 1)].as_secs_f64() * 1_000.0
        };
        let figures = [at(&mut took, 50), at(&mut took, 95), at(&mut again, 50)].map(|it| format!("{it:.1}"));
        println!("| {name} | {} | {} |", figures.join(" | "), bytes.div_ceil(1_000));
    }
    Ok(())
}
