//! Several records of a list changed at once: what it would do to each is shown first, then it is done as one entry of the ledger.

use super::Listed;
use crate::{
    Error,
    answer::{self, safe_back},
    auth::{TOO_SMALL, User},
    columns::{self, Column, Pairs, choices, columns, input_of, sent, shown},
    drafts::Here,
    frame::Frame,
    words, worked_out,
};
use askama::Template;
use axum::{
    Form, Json,
    extract::Query,
    response::{Html, IntoResponse as _, Response},
};
use serde_json::{Value, json};
use snug_core::{
    Command, Eyes, Plan, Refusal, Tag,
    change::Change,
    kinds::{About, Input, Kind},
};

/// Whether somebody changes several records of a kind at once: whoever may change every one of them.
pub fn may_choose(user: &User, kind: Kind) -> bool {
    user.account.role >= kind.about().least
}

/// As many as are changed at once.
const MOST: usize = 500;

/// What several at once can be given: a column with `+` or `-` before it where values are added to it or taken out of it, or a deed in
/// its place; and what that is called.
pub type Offer = (String, String);

/// Taking tasks off the plan, without a column of its own.
const TRAY: &str = "(tray)";
/// Taking records out of the plan.
const REMOVE: &str = "(remove)";

/// What there is to choose from.
pub fn offers(kind: Kind, all: &[Column]) -> Vec<Offer> {
    let about = kind.about();
    let plain = |column: &&Column| !column.follows && column.name != about.key_column && column.name != about.title;
    let mut offers = Vec::new();
    for column in all.iter().filter(plain) {
        if is_several(column) {
            offers.push((format!("+{}", column.name), format!("{}: add", column.label)));
            offers.push((format!("-{}", column.name), format!("{}: take out", column.label)));
        }
        offers.push((column.name.clone(), format!("Set {} to", column.label.to_lowercase())));
    }
    if kind == Kind::Task {
        offers.push((TRAY.to_owned(), "Back to the tray".to_owned()));
    }
    offers.push((REMOVE.to_owned(), format!("Remove these {}", about.words.1)));
    offers
}

/// How the values of a column are typed, for the script of a list; asked for once one has chosen it.
pub async fn values(Here(state): Here, user: User, Listed(kind): Listed, Query(pairs): Query<Pairs>) -> Json<Value> {
    let plan = state.keeper.plan();
    let name = sent(&pairs, "column").trim_start_matches(['+', '-']);
    let column = columns(&plan, kind, user.account.role).into_iter().find(|column| column.name == name);
    let (input, choices) = column.map_or(("", Vec::new()), |column| (input_of(&column), choices(&plan, &column)));
    Json(json!({ "input": input, "choices": choices }))
}

/// Whether a column has several values with `;` between them.
fn is_several(column: &Column) -> bool {
    matches!(column.input, Input::Words | Input::Several(_) | Input::People)
}

/// The cell with some values added to it or taken out of it.
fn mixed(cell: &str, mark: &str, value: &str) -> String {
    let list = |text: &str| -> Vec<String> {
        text.split(';').map(str::trim).filter(|it| !it.is_empty()).map(str::to_owned).collect()
    };
    let (mut there, asked) = (list(cell), list(value));
    // Somebody with a share is the same person.
    let bare = |entry: &str| entry.split('=').next().unwrap_or_default().to_lowercase();
    if mark == "-" {
        there.retain(|entry| !asked.iter().any(|gone| bare(gone) == bare(entry)));
    } else {
        for entry in asked {
            if !there.iter().any(|known| bare(known) == bare(&entry)) {
                there.push(entry);
            }
        }
    }
    there.join(";")
}

/// What is asked for.
#[derive(Clone)]
struct Asked {
    seen: Vec<String>,
    mark: &'static str,
    column: String,
    value: String,
    back: String,
}

impl Asked {
    fn read(pairs: &Pairs) -> Self {
        let (mark, column) = match sent(pairs, "column") {
            text if text.starts_with('+') => ("+", &text[1..]),
            text if text.starts_with('-') => ("-", &text[1..]),
            text => ("", text),
        };
        Self {
            seen: pairs.iter().filter(|(name, _)| name == "seen").map(|(_, tag)| tag.clone()).collect(),
            mark,
            column: column.to_owned(),
            value: sent(pairs, "value").trim().to_owned(),
            back: safe_back(sent(pairs, "back")).to_owned(),
        }
    }

    /// The change of one record, or why there can be none.
    fn change(&self, eyes: &Eyes<'_>, kind: Kind, seen: &Change) -> Result<Option<Change>, String> {
        let set = |cells: &[(&str, &str)]| {
            let to = columns::altered(eyes, seen, cells).map_err(|problems| {
                problems.into_iter().next().map(|(_, reason)| words::capital(&reason)).unwrap_or_default()
            })?;
            Ok(Change::between(seen, &to).filter(|change| !change.is_idle()))
        };
        match self.column.as_str() {
            REMOVE => Ok(Some(seen.clone().inverse())),
            TRAY if kind == Kind::Task => set(&[("start", ""), ("finish", "")]),
            column if self.mark.is_empty() => set(&[(column, &self.value)]),
            column => {
                let cell = seen.record().map(|record| record.cell(eyes, column)).unwrap_or_default();
                set(&[(column, &mixed(&cell, self.mark, &self.value))])
            }
        }
    }
}

/// A record in the preview.
struct Line {
    name: String,
    was: String,
    becomes: String,
    /// Why it cannot be; empty where it can.
    problem: String,
}

#[derive(Template)]
#[template(path = "records/bulk.html")]
struct BulkPage {
    frame: Frame,
    kind: &'static About,
    what: String,
    lines: Vec<Line>,
    changed: usize,
    refused: usize,
    /// Why all of it together cannot be; empty where it can.
    problem: String,
    /// Other records that change with these.
    besides: usize,
    seen: Vec<String>,
    column: String,
    value: String,
    back: String,
}

/// What would be done to each, and all of it as one command.
struct Would {
    lines: Vec<Line>,
    changes: Vec<Change>,
    refused: usize,
}

fn would(eyes: &Eyes<'_>, kind: Kind, asked: &Asked, column: Option<&Column>) -> Would {
    let plan = eyes.plan;
    let mut would = Would { lines: Vec::new(), changes: Vec::new(), refused: 0 };
    let told = |change: &Change| {
        let cell = |name: &str| change.record().map(|record| record.cell(eyes, name)).unwrap_or_default();
        match column {
            Some(column) => shown(plan, column, &cell(&column.name)),
            None if asked.column == TRAY && !cell("start").is_empty() => {
                let day = |name: &str| cell(name).parse().map(|day| words::day(day, plan.settings.date_order));
                format!("{} – {}", day("start").unwrap_or_default(), day("finish").unwrap_or_default())
            }
            None => String::new(),
        }
    };
    for tag in &asked.seen {
        let standing = tag.parse::<Tag>().ok().and_then(|tag| kind.one(plan, tag.id));
        let name = standing.as_ref().map(|record| record.called()).unwrap_or_default();
        let seen = match tag.parse::<Tag>().map_err(|error| error.to_string()) {
            Ok(_) if standing.as_ref().is_some_and(|record| !eyes.sees_whole(&**record)) => Err(TOO_SMALL.to_owned()),
            Ok(tag) => plan.as_seen(kind, tag).map_err(|refusal| refusal.message),
            Err(reason) => Err(reason),
        };
        let was = seen.as_ref().map(&told).unwrap_or_default();
        let made = seen.and_then(|seen| asked.change(eyes, kind, &seen));
        let (becomes, problem) = match made {
            Ok(Some(change)) => {
                let becomes = if change.removes() { "removed".to_owned() } else { told(&change) };
                would.changes.push(change);
                (becomes, String::new())
            }
            Ok(None) => (was.clone(), String::new()),
            Err(problem) => {
                would.refused += 1;
                (String::new(), problem)
            }
        };
        would.lines.push(Line { name, was, becomes, problem });
    }
    would
}

/// Shows what a change of several records would do, or does it.
pub async fn change(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    Form(pairs): Form<Pairs>,
) -> Result<Response, Error> {
    if !may_choose(&user, kind) {
        return Err(Error::NotAllowed(TOO_SMALL));
    }
    let (asked, plan, today) = (Asked::read(&pairs), state.keeper.plan(), state.today());
    let about = kind.about();
    if asked.seen.is_empty() {
        return Err(Refusal::value("seen", format!("Tick the {} first that are to change.", about.words.1)).into());
    }
    if asked.seen.len() > MOST {
        return Err(Refusal::value("seen", format!("Change at most {MOST} at once.")).into());
    }
    let all = columns(&plan, kind, user.account.role);
    let column = all.iter().find(|known| known.name == asked.column).cloned();
    let what = match (&column, asked.column.as_str()) {
        (None, TRAY) if kind == Kind::Task => "Back to the tray".to_owned(),
        (None, REMOVE) => format!("Remove {}", about.words.1),
        (Some(column), _) if asked.mark.is_empty() || is_several(column) => what(&plan, column, &asked),
        _ => return Err(Error::BadRequest("The page does not say what is to change.".to_owned())),
    };
    let (sure, reader) = (!sent(&pairs, "sure").is_empty(), user.clone());
    let (looked, plan_now) = (asked.clone(), std::sync::Arc::clone(&plan));
    let decided = worked_out(move || {
        let would = would(&reader.eyes(&plan_now), kind, &looked, column.as_ref());
        let command = Command::Edit { changes: would.changes.clone() };
        let decided = reader
            .check(&plan_now, &command)
            .map_err(|error| error.to_string())
            .and_then(|()| plan_now.decide(&command, today).map_err(|refusal| refusal.message));
        (would, decided)
    });
    let (would, decided) = decided.await?;
    if sure && would.refused == 0 && decided.is_ok() {
        let done = words::count(would.changes.len(), about.words.0, about.words.1);
        let command = Command::Edit { changes: would.changes };
        let outcome = answer::carry_out(&state, &user, command).await?;
        return answer::back_to(&user, &asked.back, format!("{what}: {done}"), &outcome).await;
    }
    let besides = decided.as_ref().map_or(0, |made| made.len().saturating_sub(would.changes.len()));
    let page = BulkPage {
        frame: Frame::of(&state, &user, about.room).await?,
        kind: about,
        what,
        changed: would.changes.len(),
        refused: would.refused,
        problem: decided.err().unwrap_or_default(),
        lines: would.lines,
        besides,
        column: format!("{}{}", asked.mark, asked.column),
        seen: asked.seen,
        value: asked.value,
        back: asked.back,
    };
    Ok(Html(page.render()?).into_response())
}

/// `Stage: done`, `Tags: add oak`.
fn what(plan: &Plan, column: &Column, asked: &Asked) -> String {
    let value = shown(plan, column, &asked.value);
    let value = if value.is_empty() { "nothing".to_owned() } else { value };
    match asked.mark {
        "+" => format!("{}: add {value}", column.label),
        "-" => format!("{}: take out {value}", column.label),
        _ => format!("{}: {value}", column.label),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_are_added_once_and_taken_out_whatever_their_share() {
        assert_eq!(mixed("oak;ash", "+", "ash; pine"), "oak;ash;pine");
        assert_eq!(mixed("ada@x.test=70;bo@x.test=30", "-", "Ada@x.test"), "bo@x.test=30");
        assert_eq!(mixed("", "+", "oak"), "oak");
        assert_eq!(mixed("oak", "-", "oak"), "");
    }
}
