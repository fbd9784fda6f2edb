//! Planned against worked: what was booked on past days, what the plan held, and what was logged.

use super::Vessel;
use crate::{
    Error, answer,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
    words,
};
use askama::Template;
use axum::{
    extract::Query,
    response::{Html, Response},
};
use serde::Deserialize;
use snug_core::{
    Day, Eyes, PersonId, ProjectId,
    hours::{
        Key,
        worked::{self, Meant, Worked},
    },
    kinds::Kind,
};

/// Which days, and whose.
#[derive(Default, Deserialize)]
#[serde(default)]
pub struct Asked {
    from: String,
    to: String,
    person: String,
    project: String,
    only: String,
}

struct Row {
    name: String,
    href: String,
    project: String,
    vessel: Vessel,
    says: String,
    figures: [String; 4],
    unworked: bool,
}

#[derive(Template)]
#[template(path = "hours/worked.html")]
struct WorkedPage {
    frame: Frame,
    asked: Asked,
    from: String,
    to: String,
    rows: Vec<Row>,
    left_out: usize,
    people: Vec<(i32, String)>,
    projects: Vec<(String, String)>,
    csv: String,
    unworked: String,
}

/// The most days that are looked at on a page, and the most rows.
const MOST_DAYS: i32 = 366;
const MOST: usize = 200;

impl Asked {
    /// The days: those that are asked for, else the four weeks before today.
    fn days(&self, today: Day) -> (Day, Day) {
        let day = |text: &str| text.parse::<Day>().ok().map(|day| day.clamp(Day::MIN + 400, Day::MAX - 400));
        let to = day(&self.to).unwrap_or(today - 1);
        let from = day(&self.from).unwrap_or(to.monday() - 21);
        (from.max(to - MOST_DAYS), to)
    }

    /// The rows that these eyes see, those with the most hours that were not worked first.
    fn rows(&self, eyes: &Eyes<'_>, today: Day) -> Vec<(PersonId, Option<ProjectId>, Worked)> {
        let plan = eyes.plan;
        let meant = Meant::of(plan);
        let project = plan.find(Kind::Project, &self.project).map(|id| plan.project_and_inner(ProjectId(id)));
        let one = self.person.parse().ok().map(PersonId);
        let people = plan.people.iter().filter(|(id, _)| eyes.knows(**id) && one.is_none_or(|one| one == **id));
        let mut found = Vec::new();
        for (id, entry) in people {
            for (on, figures) in worked::of_person(plan, &meant, entry, self.days(today), today) {
                let is_asked = project.as_ref().is_none_or(|inner| on.is_some_and(|on| inner.contains(&on)));
                if is_asked && (self.only != "unworked" || figures.unworked() > 0) {
                    found.push((*id, on, figures));
                }
            }
        }
        found.sort_by_key(|(person, on, figures)| (std::cmp::Reverse(figures.unworked()), *person, *on));
        found
    }
}

/// The page.
pub async fn page(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Html<String>, Error> {
    let plan = state.keeper.plan();
    let today = state.today();
    let frame = Frame::of(&state, &user, Room::Hours).await?;
    crate::computed(move || {
        let eyes = user.eyes(&plan);
        let (from, to) = asked.days(today);
        let found = asked.rows(&eyes, today);
        let widest = |it: &Worked| it.booked.max(it.planned).max(it.logged);
        let most = found.iter().map(|(_, _, it)| widest(it)).max().unwrap_or(1);
        let unworked = found.iter().map(|(_, _, it)| it.unworked()).sum();
        let row = |(person, on, it): &(PersonId, Option<ProjectId>, Worked)| {
            let figures = [it.booked, it.planned, it.logged, it.unworked()].map(words::hours);
            Row {
                name: plan.people.get(person).map(|entry| entry.person.name.clone()).unwrap_or_default(),
                href: words::address("/hours", [("person", person.to_string().as_str()), ("week", &from.to_string())]),
                project: on
                    .and_then(|id| plan.records.projects.get(&id))
                    .map_or_else(|| Key::Project(None).text(&plan).unwrap_or_default(), |project| project.name.clone()),
                vessel: Vessel::filled((it.booked > 0).then_some(it.booked), it.logged, 0, most),
                says: format!("{} logged · {} booked · {} planned", figures[2], figures[0], figures[1]),
                unworked: it.unworked() > 0,
                figures,
            }
        };
        let address = |path: &str| {
            let Asked { from, to, person, project, only } = &asked;
            words::address(
                path,
                [("from", from.as_str()), ("to", to), ("person", person), ("project", project), ("only", only)],
            )
        };
        let projects = crate::offers::projects(&plan, |_| true);
        WorkedPage {
            frame,
            from: from.to_string(),
            to: to.to_string(),
            left_out: found.len().saturating_sub(MOST),
            rows: found.iter().take(MOST).map(row).collect(),
            people: super::sheet::people(&eyes),
            projects: projects.into_iter().map(|it| (it.code.clone(), it.name.clone())).collect(),
            csv: address("/hours/worked.csv"),
            unworked: words::hours(unworked),
            asked,
        }
        .render()
    })
    .await
}

/// The rows as a file.
pub async fn csv(Here(state): Here, user: User, Query(asked): Query<Asked>) -> Result<Response, Error> {
    let plan = state.keeper.plan();
    let today = state.today();
    let made = crate::worked_out(move || {
        let rows = asked.rows(&user.eyes(&plan), today);
        snug_exchange::hours::worked(&plan, &rows, snug_exchange::Form::Csv)
    });
    Ok(answer::csv("worked.csv", made.await?))
}
