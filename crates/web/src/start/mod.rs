//! The first steps of a new workspace: people, projects, bookings, by typing, by pasting from a spreadsheet, or from files.

use crate::{
    AppState, Error, answer,
    auth::User,
    columns::{Pairs, rows_of, sent},
    drafts::Here,
    frame::{Frame, Room},
    setup::summary,
    words,
};
use askama::Template;
use axum::{
    Form, Router,
    extract::Path,
    http::StatusCode,
    response::{Html, IntoResponse as _, Redirect, Response},
    routing::get,
};
use snug_core::cell::amount_text;
use snug_core::{
    Command, Day, Plan, Role,
    duration::parse_amount,
    import::{Dataset, preview},
};

pub fn routes() -> Router<AppState> {
    Router::new().route("/start", get(begin)).route("/start/{step}", get(page).post(take))
}

/// One of the steps.
struct Step {
    name: &'static str,
    title: &'static str,
    says: &'static str,
    /// Name, label, example and input type of each column.
    columns: &'static [(&'static str, &'static str, &'static str, &'static str)],
    next: &'static str,
}

const STEPS: [Step; 3] = [
    Step {
        name: "people",
        title: "Who is there?",
        says: "A name is enough; everything else can be filled in later.",
        columns: &[
            ("name", "Name", "Oona Varga", "text"),
            ("role", "Role", "electronics", "text"),
            ("hours", "Hours a week", "40", "text"),
            ("email", "E-mail", "oona@example.test", "text"),
        ],
        next: "projects",
    },
    Step {
        name: "projects",
        title: "What do they work on?",
        says: "A name is enough.",
        columns: &[("name", "Name", "Moon Garden", "text"), ("code", "Code", "moon", "text")],
        next: "bookings",
    },
    Step {
        name: "bookings",
        title: "Who is booked for what?",
        says: "How much: 6h/d for hours a day, 30h/w for hours a week, 23h in all, 40% of their time.",
        columns: &[
            ("who", "Who", "Oona Varga", "text"),
            ("project", "Project", "Moon Garden", "text"),
            ("amount", "How much", "6h/d", "text"),
            ("start", "From", "", "date"),
            ("end", "To", "", "date"),
        ],
        next: "",
    },
];

#[derive(Template)]
#[template(path = "start/start.html")]
struct StartPage {
    frame: Frame,
    step: &'static Step,
    steps: Vec<(&'static Step, usize)>,
    rows: Vec<Vec<String>>,
    pasted: String,
    problems: Vec<String>,
    offers: Vec<(&'static str, Vec<String>)>,
    may: bool,
}

/// Rows that stand ready to be typed in.
const BLANK: usize = 3;

/// The first step that is still to be done.
async fn begin(Here(state): Here, _: User) -> Redirect {
    let plan = state.keeper.plan();
    let step = match (plan.people.is_empty(), plan.records.projects.is_empty()) {
        (true, _) => "people",
        (_, true) => "projects",
        _ => "bookings",
    };
    Redirect::to(&format!("/start/{step}"))
}

async fn view(
    state: &AppState,
    user: &User,
    step: &'static Step,
    rows: Vec<Vec<String>>,
    pasted: String,
    problems: Vec<String>,
) -> Result<StartPage, Error> {
    let plan = state.keeper.plan();
    let count = |step: &Step| match step.name {
        "people" => plan.people.len(),
        "projects" => plan.records.projects.len(),
        _ => plan.booking_count(),
    };
    let mut names: Vec<String> = plan.people.values().map(|entry| entry.person.name.clone()).collect();
    let mut projects: Vec<String> = plan.records.projects.values().map(|project| project.name.clone()).collect();
    names.sort();
    projects.sort();
    Ok(StartPage {
        frame: Frame::of(state, user, Room::None).await?,
        step,
        steps: STEPS.iter().map(|step| (step, count(step))).collect(),
        rows,
        pasted,
        problems,
        offers: if step.name == "bookings" { vec![("who", names), ("project", projects)] } else { Vec::new() },
        may: user.account.role >= Role::Manager,
    })
}

fn step_of(name: &str) -> Result<&'static Step, Error> {
    STEPS.iter().find(|step| step.name == name).ok_or(Error::NotFound)
}

/// What a blank row holds: dates from this week to the end of the next.
fn blank(step: &Step, today: Day) -> Vec<String> {
    let value = |name: &str| match name {
        "start" => today.monday().to_string(),
        "end" => (today.monday() + 11).to_string(),
        _ => String::new(),
    };
    step.columns.iter().map(|(name, ..)| value(name)).collect()
}

async fn page(Here(state): Here, user: User, Path(step): Path<String>) -> Result<Html<String>, Error> {
    let step = step_of(&step)?;
    let rows = vec![blank(step, state.today()); BLANK];
    Ok(Html(view(&state, &user, step, rows, String::new(), Vec::new()).await?.render()?))
}

/// The rows that were typed; rows with nothing but what stood ready are left out.
fn typed(step: &Step, pairs: &Pairs, ready: &[String]) -> Vec<Vec<String>> {
    let mut rows = rows_of(pairs, step.columns.iter().map(|(name, ..)| (*name).to_owned()));
    rows.retain(|row| row.iter().zip(ready).any(|(value, ready)| !value.is_empty() && value != ready));
    rows
}

/// Lines from a spreadsheet: cells with tabs (or `;`, or commas) between them. A first line that names columns says their order.
fn pasted(step: &Step, text: &str) -> Vec<Vec<String>> {
    let mark = ['\t', ';'].into_iter().find(|mark| text.contains(*mark)).unwrap_or(',');
    let cells = |line: &str| line.split(mark).map(|cell| cell.trim().trim_matches('"').to_owned()).collect::<Vec<_>>();
    let mut lines = text.lines().filter(|line| !line.trim().is_empty()).map(cells).peekable();
    let place = |title: &String| {
        let title = title.to_lowercase();
        step.columns.iter().position(|(name, label, ..)| *name == title || label.to_lowercase() == title)
    };
    let titles = lines.peek().map(|first| first.iter().map(place).collect::<Vec<_>>()).unwrap_or_default();
    let named = titles.iter().flatten().count() >= 2.min(step.columns.len());
    if named {
        lines.next();
    }
    let order = |cells: Vec<String>| {
        let mut row = vec![String::new(); step.columns.len()];
        for (at, cell) in cells.into_iter().enumerate() {
            let to = if named { titles.get(at).copied().flatten() } else { Some(at) };
            if let Some(slot) = to.and_then(|to| row.get_mut(to)) {
                *slot = cell;
            }
        }
        row
    };
    lines.map(order).collect()
}

async fn take(
    Here(state): Here,
    user: User,
    Path(step): Path<String>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    user.at_least(Role::Manager)?;
    let step = step_of(&step)?;
    let today = state.today();
    let ready = blank(step, today);
    let text = sent(&pairs, "paste").to_owned();
    let by_hand = typed(step, &pairs, &ready);
    let mut rows = by_hand.clone();
    rows.extend(pasted(step, &text));
    let plan = state.keeper.plan();
    let (data, mut problems) = dataset(&plan, step, &rows, &ready);
    if rows.is_empty() {
        problems.push("Fill in a row, or paste some.".to_owned());
    }
    if problems.is_empty() {
        problems =
            preview(&plan, &data).problems.iter().map(|p| format!("Row {}: {}", row_of(p.line), p.reason)).collect();
    }
    if problems.is_empty() {
        let command = Command::Import { source: "the first steps".to_owned(), data: Box::new(data) };
        let outcome = answer::carry_out(&state, &user, command).await?;
        let next = if step.next.is_empty() { "/fit".to_owned() } else { format!("/start/{}", step.next) };
        return answer::back_to(&user, &next, summary(outcome.changes.len(), "what you typed"), &outcome).await;
    }
    let mut again = by_hand;
    while again.len() < BLANK {
        again.push(ready.clone());
    }
    let page = view(&state, &user, step, again, text, problems).await?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(page.render()?)).into_response())
}

/// Every row is a file of its own with a header, so what is told of line 2 is told of the row.
fn row_of(line: u64) -> String {
    if line == 0 { "?".to_owned() } else { (line - 1).to_string() }
}

/// From rows to the rows of files, and what cannot be understood.
fn dataset(plan: &Plan, step: &Step, rows: &[Vec<String>], ready: &[String]) -> (Dataset, Vec<String>) {
    let mut lines: Vec<Vec<(&str, String)>> = Vec::new();
    let mut problems = Vec::new();
    for (at, row) in rows.iter().enumerate() {
        let of = |name: &str| {
            let at = step.columns.iter().position(|(known, ..)| *known == name);
            at.and_then(|at| row.get(at)).cloned().unwrap_or_default()
        };
        let or_ready =
            |name: &str, at: usize| Some(of(name)).filter(|v| !v.is_empty()).unwrap_or_else(|| ready[at].clone());
        let line = match step.name {
            "people" => person(&of("name"), &of("role"), &of("hours"), &of("email")),
            "projects" => {
                let (name, code) = (of("name"), of("code"));
                let code = if code.is_empty() { words::slug(&name) } else { code };
                Ok(vec![("code", code), ("name", name)])
            }
            _ => booking(plan, &of("who"), &of("project"), &of("amount")).map(|mut line| {
                line.push(("start", or_ready("start", 3)));
                line.push(("end", or_ready("end", 4)));
                line
            }),
        };
        match line {
            Ok(line) => lines.push(line),
            Err(reason) => problems.push(format!("Row {}: {reason}", at + 1)),
        }
    }
    (table(step.name, &lines), problems)
}

/// One table of all rows, so that a problem is told with its line.
fn table(name: &str, lines: &[Vec<(&str, String)>]) -> Dataset {
    let mut data = Dataset::default();
    let file = format!("{name}.csv");
    for (number, line) in (2..).zip(lines) {
        data.add_row(&file, number, line.iter().map(|(name, value)| (*name, value.as_str())));
    }
    data
}

/// A person of a name alone gets an address that nobody has, to be known by in files.
fn person<'a>(name: &str, role: &str, hours: &str, email: &str) -> Result<Vec<(&'a str, String)>, String> {
    if name.is_empty() {
        return Err("write a name".to_owned());
    }
    let email = if email.is_empty() { format!("{}@people.invalid", words::slug(name)) } else { email.to_owned() };
    let pattern = if hours.is_empty() {
        String::new()
    } else {
        let week: rust_decimal::Decimal = hours
            .trim_end_matches(['h', ' '])
            .replace(',', ".")
            .parse()
            .map_err(|_| format!("“{hours}” is no number of hours"))?;
        let day = (week / rust_decimal::Decimal::from(5)).round_dp(4).normalize();
        format!("{day} {day} {day} {day} {day} 0 0")
    };
    Ok(vec![("email", email), ("name", name.to_owned()), ("role", role.to_owned()), ("pattern", pattern)])
}

/// A booking of somebody by name or address, on a project by name or code.
fn booking<'a>(plan: &Plan, who: &str, project: &str, amount: &str) -> Result<Vec<(&'a str, String)>, String> {
    let same = |a: &str, b: &str| a.trim().eq_ignore_ascii_case(b.trim());
    let people = plan.people.values().map(|entry| &entry.person);
    let person = people.into_iter().find(|person| same(&person.name, who) || same(&person.email, who));
    let person = person.ok_or_else(|| format!("nobody is called “{who}”"))?;
    let code = match project {
        "" => String::new(),
        text => {
            let found =
                plan.records.projects.values().find(|project| same(&project.name, text) || same(&project.code, text));
            found.ok_or_else(|| format!("no project is called “{text}”"))?.code.clone()
        }
    };
    let amount = parse_amount(amount, plan.settings.day_minutes)?;
    Ok(vec![
        ("email", person.email.clone()),
        ("project", code),
        ("amount", amount_text(amount)),
        ("unit", amount.unit.to_string()),
    ])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_pasted_table_is_read_by_its_titles_or_in_the_usual_order() {
        let step = &STEPS[0];
        let titled = pasted(step, "Role\tName\nrigger\tRuth Engel\n\nwriter\tTom Abara\n");
        assert_eq!(titled[0], ["Ruth Engel", "rigger", "", ""]);
        assert_eq!(titled.len(), 2);
        assert_eq!(pasted(step, "Ruth Engel;rigger;32"), [["Ruth Engel", "rigger", "32", ""]]);
        assert_eq!(pasted(step, "Ruth Engel"), [["Ruth Engel", "", "", ""]]);
    }

    #[test]
    fn a_name_alone_makes_a_person() {
        let row = person("Ruth Engel", "", "32", "").unwrap();
        assert_eq!(row[0].1, "ruth-engel@people.invalid");
        assert_eq!(row[3].1, "6.4 6.4 6.4 6.4 6.4 0 0");
        assert!(person("", "", "", "").is_err());
        assert!(person("Ruth", "", "many", "").is_err());
    }
}
