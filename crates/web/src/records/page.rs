//! The pages of lists and records.

use super::{
    Listed, bulk,
    links::links,
    list::{self, Facet, Head, Line, Row},
    query::ListQuery,
    refused_page,
};
use crate::{
    AppState, Error,
    auth::User,
    columns::{self, Column, Extra, Field, Pairs, Problems, columns, listed_columns, person_name, record},
    drafts::Here,
    files::ReceiptView,
    frame::Frame,
    markdown,
    task::{self, FilesView, LinkGroup, TaskParts},
    words,
};
use askama::Template;
use axum::{
    extract::{Path, Query},
    response::{Html, Response},
};
use snug_core::{
    Command, Eyes, Plan, TaskId,
    change::{Change, Edit},
    hours::{self, Actuals},
    kinds::{About, FilesOf, Kind},
    text::{Text, TextSlot},
};
use snug_exchange::csv::row_of;
use snug_store::ledger;
use std::sync::Arc;

#[derive(Template)]
#[template(path = "records/list.html")]
struct ListPage {
    frame: Frame,
    kind: &'static About,
    subject: Kind,
    query: ListQuery,
    columns: Vec<Column>,
    heads: Vec<Head>,
    lines: Vec<Line>,
    more: Option<String>,
    facets: Vec<Facet>,
    in_all: usize,
    found: usize,
    clear: String,
    room: String,
    may_change: bool,
    may_choose: bool,
    /// What several at once can be given.
    bulk: Vec<bulk::Offer>,
}

impl ListPage {
    fn shows(&self, column: &Column) -> bool {
        self.query.columns.contains(&column.name)
    }

    fn can_group(&self, column: &Column) -> bool {
        self.kind.facets.contains(&column.name.as_str()) || !column.choices.is_empty() || column.name == "assignees"
    }
}

#[derive(Template)]
#[template(path = "records/rows.html")]
struct RowsPart {
    may_choose: bool,
    lines: Vec<Line>,
    more: Option<String>,
    columns: usize,
}

#[derive(Template)]
#[template(path = "records/row.html")]
struct RowPart {
    may_choose: bool,
    row: Row,
}

/// A list.
pub async fn list(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    Query(pairs): Query<Pairs>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let frame = Frame::of(&state, &user, kind.about().room).await?;
    let columns = listed_columns(&plan, kind, user.account.role);
    let query = ListQuery { offset: 0, ..ListQuery::read(kind, &columns, &pairs) };
    let kept = Arc::clone(&state.kept);
    let html = crate::computed(move || {
        let found = list::list(&user.eyes(&plan), kind, &columns, &query, user.account.role.changes_some(kind));
        let page = ListPage {
            heads: list::heads(&plan, kind, &columns, &query),
            lines: found.lines,
            more: found.more,
            facets: list::facets(&kept, &user.eyes(&plan), kind, &columns, &query),
            in_all: found.in_all,
            found: found.found,
            clear: ListQuery { q: String::new(), facets: Vec::new(), ..query.clone() }
                .href(kind, &format!("/{}", kind.about().path)),
            room: query.href(kind, ""),
            may_change: user.account.role.changes_some(kind),
            may_choose: bulk::may_choose(&user, kind),
            bulk: bulk::offers(kind, &columns),
            frame,
            kind: kind.about(),
            subject: kind,
            query,
            columns,
        };
        page.render()
    });
    html.await
}

/// More rows of a list, or the first ones anew.
pub async fn rows(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    Query(pairs): Query<Pairs>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    crate::computed(move || {
        let columns = listed_columns(&plan, kind, user.account.role);
        let query = ListQuery::read(kind, &columns, &pairs);
        let found = list::list(&user.eyes(&plan), kind, &columns, &query, user.account.role.changes_some(kind));
        let may_choose = bulk::may_choose(&user, kind);
        let columns = query.columns.len() + usize::from(may_choose);
        RowsPart { may_choose, lines: found.lines, more: found.more, columns }.render()
    })
    .await
}

/// One row as the list with the address `room` shows it.
pub fn row_html(plan: &Plan, user: &User, kind: Kind, id: i32, room: &str) -> Result<String, Error> {
    let Some(record) = record(plan, kind, id) else { return Ok(String::new()) };
    let pairs: Pairs = serde_urlencoded::from_str(room.trim_start_matches('?')).unwrap_or_default();
    let columns = listed_columns(plan, kind, user.account.role);
    let query = ListQuery::read(kind, &columns, &pairs);
    let Some(record) = record.record() else { return Ok(String::new()) };
    let may_change = user.account.role.changes_some(kind);
    let row = list::row(&user.eyes(plan), kind, &columns, &query, record, may_change);
    Ok(RowPart { may_choose: bulk::may_choose(user, kind), row }.render()?)
}

/// A comment as it is read.
struct Remark {
    author: String,
    day: String,
    html: String,
}

/// An entry of the ledger on a record's page.
struct Past {
    title: String,
    who: String,
    at: String,
    revision: i64,
}

#[derive(Template)]
#[template(path = "records/record.html")]
struct RecordPage {
    frame: Frame,
    kind: &'static About,
    subject: Kind,
    id: Option<i32>,
    title: String,
    seen: String,
    /// Fields under headings; those that stand above have none.
    fields: Vec<(&'static str, Vec<Field>)>,
    extras: Vec<Extra>,
    problem: Option<String>,
    may_change: bool,
    figures: Option<FiguresView>,
    links: Vec<(String, String)>,
    /// What belongs to a task.
    task: Option<TaskParts>,
    /// The files of what has some and is no task.
    files: Option<FilesView>,
    /// The receipt of an expense.
    receipt: Option<ReceiptView>,
    link_groups: Vec<LinkGroup>,
    links_by_task: bool,
    here: String,
    description: String,
    description_html: String,
    description_problem: Option<String>,
    seen_text: String,
    may_describe: bool,
    remarks: Vec<Remark>,
    past: Vec<Past>,
}

/// Estimate and actual on a record's page.
pub struct FiguresView {
    /// What was thought, worked, is left, and comes out.
    pub estimate: String,
    /// Logged.
    pub actual: String,
    /// Still needed.
    pub remaining: String,
    /// Actual and remaining.
    pub projected: String,
    /// How far off the estimate was, in words.
    pub verdict: String,
}

impl FiguresView {
    /// The figures in words.
    pub fn of(figures: &Actuals) -> Self {
        Self {
            estimate: if figures.estimated { words::hours(figures.estimate()) } else { "none".to_owned() },
            actual: words::hours(figures.actual()),
            remaining: words::hours(figures.remaining()),
            projected: words::hours(figures.projected()),
            verdict: words::verdict(figures),
        }
    }
}

/// The form of a new record; what the address says is filled in.
pub async fn fresh(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    Query(pairs): Query<Pairs>,
) -> Result<Html<String>, Error> {
    let page = record_page(&state, &user, kind, None, &defaults(kind, pairs), &Vec::new(), &Vec::new()).await?;
    Ok(Html(page.render()?))
}

/// What a new record has before anybody types.
fn defaults(kind: Kind, mut pairs: Pairs) -> Pairs {
    let usual = kind.blank();
    for (name, value) in usual {
        if !value.is_empty() && !pairs.iter().any(|(known, _)| known == name) {
            pairs.push((name.to_owned(), value));
        }
    }
    pairs
}

/// The page of a record.
pub async fn one(
    Here(state): Here,
    user: User,
    Listed(kind): Listed,
    Path(id): Path<i32>,
    Query(pairs): Query<Pairs>,
) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let record = user.eyes(&plan).one(kind, id).ok_or(Error::NotFound)?.as_new();
    let values = columns::values(&user.eyes(&plan), &record);
    let mut page = record_page(&state, &user, kind, Some(id), &values, &Vec::new(), &Vec::new()).await?;
    if columns::sent(&pairs, "by") == "task"
        && let Some(task) = plan.tasks.get(&TaskId(id)).filter(|_| kind == Kind::Task)
    {
        (page.link_groups, page.links_by_task) = (task::grouped(&plan, task, true), true);
    }
    Ok(Html(page.render()?))
}

/// The page again with what was typed and what is wrong with it.
pub async fn again(
    state: &AppState,
    user: &User,
    kind: Kind,
    id: Option<i32>,
    pairs: Pairs,
    problems: Problems,
    theirs: Pairs,
) -> Result<Response, Error> {
    let page = record_page(state, user, kind, id, &pairs, &problems, &theirs).await?;
    Ok(refused_page(page.render()?))
}

/// The page again with a description that was not saved.
pub async fn with_text(
    state: &AppState,
    user: &User,
    kind: Kind,
    id: i32,
    body: String,
    problem: String,
) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let record = record(&plan, kind, id).ok_or(Error::NotFound)?;
    let values = columns::values(&user.eyes(&plan), &record);
    let mut page = record_page(state, user, kind, Some(id), &values, &Vec::new(), &Vec::new()).await?;
    page.description = body;
    page.description_problem = Some(problem);
    Ok(refused_page(page.render()?))
}

async fn record_page(
    state: &AppState,
    user: &User,
    kind: Kind,
    id: Option<i32>,
    values: &Pairs,
    problems: &Problems,
    theirs: &Pairs,
) -> Result<RecordPage, Error> {
    /// Entries of the past that a page shows; the activity page has the rest.
    const PAST: u64 = 12;
    let plan = state.keeper.plan();
    let mut columns = columns(&plan, kind, user.account.role);
    let (eyes, standing) = (user.eyes(&plan), id.and_then(|id| record(&plan, kind, id)));
    if let Some(record) = standing.as_ref().and_then(Change::record) {
        columns.retain(|column| eyes.sees_column(record, &column.name));
    }
    let sent = values.iter().find(|(name, _)| name == "seen").map(|(_, value)| value.clone());
    let seen =
        sent.or_else(|| standing.as_ref().and_then(|change| change.record()).map(|record| record.tag().to_string()));
    let known = |column: &str| {
        columns.iter().any(|known| known.name == column) || kind.parts().iter().any(|part| part.name == column)
    };
    // What is about no field of the form, or about several, stands above it.
    let problem = problems.iter().find(|(column, _)| !known(column)).map(|(_, reason)| words::capital(reason));
    let written = match (id, kind.about().texts) {
        (Some(id), Some(on)) => state.keeper.texts_of(on, id).await?,
        _ => Vec::new(),
    };
    let description = written.iter().find(|text| text.slot == TextSlot::Description);
    let filter = ledger::Filter { subject: id.map(|id| (kind, Some(id))), limit: PAST, ..ledger::Filter::default() };
    let past = if id.is_some() { state.keeper.ledger().entries(&filter).await? } else { Vec::new() };
    let order = plan.settings.date_order;
    let remark = |text: &Text| Remark {
        author: person_name(&plan, &text.author),
        day: words::date(text.day, order),
        html: markdown::with_people(&plan, &text.body),
    };
    let zone = state.zone();
    let sample = standing.clone().map(|record| Command::Edit { changes: vec![record] });
    let may_change = match &sample {
        Some(command) => user.check(&plan, command).is_ok(),
        None => user.account.role.changes_some(kind),
    };
    let of_task = match standing.as_ref() {
        Some(Change::Task(Edit { after: Some(task), .. })) => Some(task),
        _ => None,
    };
    Ok(RecordPage {
        frame: Frame::of(state, user, kind.about().room).await?,
        title: match &standing {
            None => kind.about().new_title(),
            Some(record) => title(&eyes, kind, &columns, record),
        },
        // Whoever may not change it does not get it whole.
        seen: seen.filter(|_| may_change).unwrap_or_default(),
        fields: columns::grouped(kind, columns::fields(&plan, kind, &columns, values, problems, theirs)),
        extras: columns::extras(kind, values, problems, user.account.role),
        problem,
        may_change,
        figures: standing.as_ref().and_then(|record| figures(&eyes, record)),
        links: standing.as_ref().map(|record| links(&plan, record)).unwrap_or_default(),
        task: of_task.map(|of| task::parts(state, &plan, user, of)),
        files: match standing.as_ref() {
            Some(Change::Project(Edit { after: Some(project), .. })) => {
                Some(task::files_of(state, &plan, user, FilesOf::Project(project.id)))
            }
            _ => None,
        },
        receipt: match standing.as_ref() {
            Some(Change::Expense(Edit { after: Some(expense), .. })) => Some(ReceiptView::of(expense, may_change)),
            _ => None,
        },
        link_groups: of_task.map(|of| task::grouped(&plan, of, false)).unwrap_or_default(),
        links_by_task: false,
        here: id.map(|id| format!("/{}/{id}", kind.about().path)).unwrap_or_default(),
        description: description.map(|text| text.body.clone()).unwrap_or_default(),
        description_html: description.map(|text| markdown::with_people(&plan, &text.body)).unwrap_or_default(),
        description_problem: None,
        seen_text: description.and_then(|text| serde_json::to_string(text).ok()).unwrap_or_default(),
        may_describe: user.books(),
        remarks: written.iter().filter(|text| text.slot == TextSlot::Comment).map(remark).collect(),
        past: past
            .into_iter()
            .map(|entry| Past {
                title: entry.title,
                who: person_name(&plan, &entry.actor),
                at: words::moment(entry.at, zone, order),
                revision: entry.revision,
            })
            .collect(),
        kind: kind.about(),
        subject: kind,
        id,
    })
}

/// What a record is called on its page.
fn title(eyes: &Eyes<'_>, kind: Kind, columns: &[Column], record: &Change) -> String {
    let cells = row_of(eyes, record).unwrap_or_default();
    let value = columns::sent(&cells, kind.about().title);
    let column = columns.iter().find(|column| column.name == kind.about().title);
    column.map_or_else(|| record.name(), |column| columns::shown(eyes.plan, column, value))
}

fn figures(eyes: &Eyes<'_>, record: &Change) -> Option<FiguresView> {
    let plan = eyes.plan;
    let figures = match record {
        Change::Task(edit) => hours::of_task(plan, edit.after.as_ref()?),
        Change::Project(edit) => hours::of_project(plan, edit.after.as_ref()?.id),
        // What somebody has logged is for them and a few others.
        Change::Person(edit) => {
            let person = edit.after.as_ref()?.id;
            eyes.knows(person).then(|| hours::of_person(plan, person))?
        }
        _ => return None,
    };
    Some(FiguresView::of(&figures))
}
