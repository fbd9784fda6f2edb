//! What a planner does, timed at a server over loopback: the request sent until the answer is read.

use reqwest::blocking::{Client, Response};
use std::time::{Duration, Instant};

/// One thing that is done over and over; the number says which time it is.
struct Deed<'a> {
    name: &'a str,
    act: Box<dyn FnMut(usize) -> Result<usize, String> + 'a>,
}

/// Reads an answer: its text and how long it is.
pub fn read(response: Result<Response, reqwest::Error>) -> Result<(String, usize), String> {
    let response = response.map_err(|error| error.to_string())?;
    let (status, place) = (response.status(), response.url().path().to_owned());
    let text = response.text().map_err(|error| error.to_string())?;
    if !status.is_success() || place == "/sign-in" {
        return Err(format!("{place} answers {status}"));
    }
    let bytes = text.len();
    Ok((text, bytes))
}

/// A client that is signed in.
pub fn sign_in(url: &str, email: &str, password: &str) -> Result<Client, String> {
    let _ = rustls::crypto::ring::default_provider().install_default();
    let client = Client::builder().cookie_store(true).build().map_err(|error| error.to_string())?;
    let form = [("email", email), ("password", password)];
    read(client.post(format!("{url}/sign-in")).form(&form).send())?;
    Ok(client)
}

/// Does everything and prints a row a deed: median, 95th percentile, bytes as they are sent uncompressed.
pub fn run(url: &str, email: &str, password: &str, times: usize) -> Result<(), String> {
    let client = sign_in(url, email, password)?;
    let get = |path: &str| read(client.get(format!("{url}{path}")).header("x-requested-with", "fetch").send());
    let window = "from=2026-03-09&span=12";
    let names = ["ka", "lomi", "ten", "vosil", "bar ne", "rigger", "skill 7", "wenja", "pel", "tri"];
    let first = get(&format!("/fit/rows?{window}&band=over"))?.0;
    let ids = first.split("data-key=\"").skip(1).filter_map(|rest| rest.split_once('"'));
    let people: Vec<String> = ids.map(|(id, _)| id.to_owned()).collect();
    if people.is_empty() {
        return Err("nobody of the workspace is over".to_owned());
    }
    // As many as are moved, each once.
    let mut bookings = Vec::new();
    let mut offset = 0;
    while bookings.len() < times {
        let more = tags(&get(&format!("/fit/rows?{window}&offset={offset}"))?.0);
        if more.is_empty() {
            return Err(format!("the workspace has {} bookings; {times} are moved", bookings.len()));
        }
        bookings.extend(more);
        offset += 40;
    }
    let mut bars = Vec::new();
    let mut offset = 0;
    while bars.len() < times * 3 {
        let more = tags(&get(&format!("/schedule/gantt/rows?from=2026-03-02&weeks=26&offset={offset}"))?.0);
        if more.is_empty() {
            return Err("the workspace has too few bars".to_owned());
        }
        bars.extend(more);
        offset += 40;
    }
    let page = |path: String| move |at: usize| (path.clone(), at);
    let rows = |path: String| {
        let path = page(path);
        let get = &get;
        move |at: usize| {
            let (path, at) = path(at);
            Ok(get(&format!("{path}&offset={}", (at % 100) * 40))?.1)
        }
    };
    let plain = |path: &'static str| {
        let get = &get;
        move |_: usize| Ok(get(path)?.1)
    };
    let slips_room = r#"{"from":"2026-03-09","weeks":"2"}"#;
    // Fifty projects, others each time.
    let fifty = |at: usize| (0..50).map(|more| format!("pr{}", (at * 50 + more) % 1_250)).collect::<Vec<_>>().join(",");
    let portfolio = get("/schedule/projects")?.0;
    let ids = portfolio.split("href=\"/schedule/projects/").skip(1).filter_map(|rest| rest.split_once('"'));
    let ids = ids.map(|(id, _)| id).filter(|id| id.parse::<i32>().is_ok());
    let project_pages: Vec<String> = ids.map(|id| format!("/schedule/projects/{id}")).collect();
    let mut preview_at = 0;
    let mut deeds = vec![
        Deed { name: "the room, as a page", act: Box::new(rows(format!("/fit?{window}"))) },
        Deed { name: "40 rows × 12 weeks", act: Box::new(rows(format!("/fit/rows?{window}"))) },
        Deed { name: "the same by team, folded", act: Box::new(plain("/fit/rows?from=2026-03-09&span=12&angle=team")) },
        Deed {
            name: "the same by project, folded",
            act: Box::new(plain("/fit/rows?from=2026-03-09&span=12&angle=project")),
        },
        Deed {
            name: "one team's sum",
            act: Box::new(|at| Ok(get(&format!("/fit/head?{window}&angle=team&group=team:t{}", at % 50))?.1)),
        },
        Deed {
            name: "one project's sum, with its budget",
            act: Box::new(|at| Ok(get(&format!("/fit/head?{window}&angle=project&group=project:pr{}", at % 50))?.1)),
        },
        Deed {
            name: "search by name, role or skill",
            act: Box::new(|at| Ok(get(&format!("/fit/rows?{window}&q={}", names[at % names.len()]))?.1)),
        },
        Deed { name: "the finder", act: Box::new(|at| Ok(get(&format!("/finder?q={}", names[at % names.len()]))?.1)) },
        Deed {
            name: "the side sheet of who is over, with the ways out",
            act: Box::new(|at| {
                let person = people[at % people.len()].as_str();
                Ok(get(&format!("/fit/sheet?{window}&person={person}&at=2026-03-16"))?.1)
            }),
        },
        Deed {
            name: "preview of a drag",
            act: Box::new(|at| {
                let seen = &bookings[at % bookings.len()];
                preview_at += 1;
                let shift = (preview_at % 9).to_string();
                let room = r#"{"from":"2026-03-09","span":"12"}"#;
                let form = [("what", "move"), ("seen", seen.as_str()), ("shift", shift.as_str()), ("room", room)];
                Ok(read(client.post(format!("{url}/bookings/preview")).form(&form).send())?.1)
            }),
        },
        Deed {
            name: "a booking moved: decided, written, told",
            act: Box::new(|at| {
                let form = [("seen", bookings[at].as_str()), ("shift", "1")];
                let sent =
                    client.post(format!("{url}/bookings/move")).header("x-requested-with", "fetch").form(&form).send();
                Ok(read(sent)?.1)
            }),
        },
        Deed {
            name: "the Gantt of 30,000 tasks, as a page",
            act: Box::new(rows("/schedule/gantt?from=2026-03-02".to_owned())),
        },
        Deed {
            name: "its window of 40 rows × 7 weeks, with links and floats",
            act: Box::new(rows("/schedule/gantt/rows?from=2026-03-02".to_owned())),
        },
        Deed {
            name: "the side sheet of a task",
            act: Box::new(|at| {
                let task = task_of(&bars[at % bars.len()]);
                Ok(get(&format!("/schedule/gantt/sheet?from=2026-03-02&row={task}&at=2026-03-02"))?.1)
            }),
        },
        Deed {
            name: "preview of a bar moved, with what follows",
            act: Box::new(|at| {
                let seen = &bars[at % bars.len()];
                let shift = (at % 20).to_string();
                let form = [("what", "push"), ("seen", seen.as_str()), ("shift", shift.as_str()), ("room", "{}")];
                Ok(read(client.post(format!("{url}/schedule/tasks/preview")).form(&form).send())?.1)
            }),
        },
        Deed {
            name: "a bar moved: decided, written, told",
            act: Box::new(|at| {
                let form = [("seen", bars[at].as_str()), ("shift", "1")];
                let sent = client
                    .post(format!("{url}/schedule/tasks/push"))
                    .header("x-requested-with", "fetch")
                    .form(&form)
                    .send();
                // What another move has pushed stands otherwise than it was seen.
                let sent = sent.map_err(|error| error.to_string())?;
                Ok(sent.text().map_err(|error| error.to_string())?.len())
            }),
        },
        Deed {
            name: "a bar moved, and the window read again",
            act: Box::new(|at| {
                let form = [("seen", bars[times + at].as_str()), ("shift", "1")];
                let sent = client
                    .post(format!("{url}/schedule/tasks/push"))
                    .header("x-requested-with", "fetch")
                    .form(&form)
                    .send();
                sent.map_err(|error| error.to_string())?;
                Ok(get("/schedule/gantt/rows?from=2026-03-02")?.1)
            }),
        },
        Deed { name: "slips, as a page", act: Box::new(rows("/schedule/slips?from=2026-03-09&weeks=2".to_owned())) },
        Deed {
            name: "slips of 40 people × 2 weeks",
            act: Box::new(rows("/schedule/slips/rows?from=2026-03-09&weeks=2".to_owned())),
        },
        Deed {
            name: "preview of a slip handed to somebody else",
            act: Box::new(|at| {
                // Of those that nothing has moved yet.
                let (seen, to) = (&bars[times * 2 + at % times], people[at % people.len()].as_str());
                let form =
                    [("what", "slip"), ("seen", seen.as_str()), ("shift", "1"), ("to", to), ("room", slips_room)];
                Ok(read(client.post(format!("{url}/schedule/slips/preview")).form(&form).send())?.1)
            }),
        },
        Deed {
            name: "a month of the calendar over 50 projects",
            act: Box::new(|at| Ok(get(&format!("/schedule/calendar/rows?from=2026-03-11&project={}", fifty(at)))?.1)),
        },
        Deed {
            name: "the same, previewed while a bar is dragged",
            act: Box::new(|at| {
                let seen = &bars[times * 2 + at % times];
                let room = format!(r#"{{"from":"2026-03-11","project":"{}"}}"#, fifty(at));
                let form = [("what", "slip"), ("seen", seen.as_str()), ("shift", "1"), ("room", room.as_str())];
                Ok(read(client.post(format!("{url}/schedule/calendar/preview")).form(&form).send())?.1)
            }),
        },
        Deed { name: "the long view of 250 teams, as a page", act: Box::new(plain("/schedule/long?from=2026-03-09")) },
        Deed {
            name: "its window of 12 teams × 10 weeks",
            act: Box::new(|at| Ok(get(&format!("/schedule/long/rows?from=2026-03-09&offset={}", (at % 20) * 12))?.1)),
        },
        Deed { name: "the portfolio of 1,250 projects", act: Box::new(plain("/schedule/projects")) },
        Deed { name: "a project’s page", act: Box::new(|at| Ok(get(&project_pages[at % project_pages.len()])?.1)) },
        Deed { name: "tasks, the list", act: Box::new(plain("/tasks")) },
        Deed { name: "people, the list", act: Box::new(plain("/people")) },
        Deed { name: "estimate against actual", act: Box::new(plain("/hours/actuals")) },
    ];
    for deed in &mut deeds {
        let mut took: Vec<Duration> = Vec::with_capacity(times);
        let mut bytes = 0;
        for at in 0..times {
            let begun = Instant::now();
            bytes = (deed.act)(at).map_err(|problem| format!("{}: {problem}", deed.name))?;
            took.push(begun.elapsed());
        }
        took.sort_unstable();
        let at = |part: usize| took[(took.len() * part / 100).min(took.len() - 1)].as_secs_f64() * 1_000.0;
        println!("| {} | {:.1} | {:.1} | {} |", deed.name, at(50), at(95), bytes.div_ceil(1_000));
    }
    Ok(())
}

/// The task whose tag this is.
fn task_of(tag: &str) -> &str {
    tag.split('-').next().unwrap_or_default()
}

/// The tags of what a fragment shows.
pub fn tags(fragment: &str) -> Vec<String> {
    let parts = fragment.split("data-shape=\"").skip(1).filter_map(|rest| rest.split_once('"'));
    parts.map(|(tag, _)| tag.to_owned()).collect()
}
