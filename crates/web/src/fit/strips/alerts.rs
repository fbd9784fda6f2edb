//! The strip of warnings: what in the window needs somebody to look at it, counted, each with the way to its rows.

use crate::{
    fit::{
        address::{angle::Angle, query::FitQuery},
        list::chosen,
    },
    kept::Kept,
};
use askama::Template;
use snug_core::{
    Plan,
    alerts::{self, Alert},
};
use std::{collections::BTreeSet, sync::Arc};

/// How often each warning stands in the window, in the order of [`Alert::ALL`].
pub type Counted = Vec<(Alert, usize)>;

/// One warning.
pub struct AlertView {
    pub href: String,
    pub text: String,
    pub title: &'static str,
    pub on: bool,
    pub heavy: bool,
}

#[derive(Template)]
#[template(path = "fit/strips/alerts.html")]
pub struct AlertsView {
    pub alerts: Vec<AlertView>,
    /// Without the warning that is looked at.
    pub all: Option<String>,
}

fn counted(kept: &Kept, plan: &Plan, query: &FitQuery) -> Arc<Counted> {
    let everyone = FitQuery {
        alert: None,
        band: None,
        angle: if query.angle == Angle::Equipment { Angle::Equipment } else { Angle::Person },
        open: BTreeSet::new(),
        turned: BTreeSet::new(),
        ..query.unselected()
    };
    kept.get(plan, format!("{} {}", query.today, everyone.href("")), || {
        let mut counts: Counted = Alert::ALL.iter().map(|alert| (*alert, 0)).collect();
        for entry in chosen(kept, plan, &everyone) {
            let found = alerts::of_person(plan, entry, &query.window(), query.zoom, &query.buckets);
            for (alert, count) in &mut counts {
                *count += found.count(*alert);
            }
        }
        if !everyone.is_filtered() {
            let unbooked = alerts::unbooked(plan, query.today).len();
            for (_, count) in counts.iter_mut().filter(|(alert, _)| *alert == Alert::Unbooked) {
                *count = unbooked;
            }
        }
        counts
    })
}

/// The strip.
pub fn view(kept: &Kept, plan: &Plan, query: &FitQuery) -> AlertsView {
    let counts = counted(kept, plan, query);
    let shown = counts.iter().filter(|(alert, count)| *count > 0 || query.alert == Some(*alert));
    let view = |(alert, count): &(Alert, usize)| {
        let (one, many, title) = words(*alert);
        let on = query.alert == Some(*alert);
        let angle = match alert {
            Alert::Unbooked => Angle::Project,
            _ if query.angle == Angle::Project => Angle::Person,
            _ => query.angle,
        };
        let to = FitQuery { alert: (!on).then_some(*alert), band: None, angle, ..query.unselected() };
        AlertView {
            href: to.href("/fit"),
            text: crate::words::count(*count, one, many),
            title,
            on,
            heavy: matches!(alert, Alert::Over | Alert::Stranded),
        }
    };
    AlertsView {
        alerts: shown.map(view).collect(),
        all: query.alert.map(|_| FitQuery { alert: None, ..query.unselected() }.href("/fit")),
    }
}

/// What a warning is called, one and many, and what it means.
pub fn words(alert: Alert) -> (&'static str, &'static str, &'static str) {
    match alert {
        Alert::Over => ("person over", "people over", "Over their limit in this window, from today on"),
        Alert::Stranded => ("stranded booking", "stranded bookings", "With no working day to land on"),
        Alert::DaysOff => ("booking on days off", "bookings on days off", "Marked to work on days off"),
        Alert::Crowded => {
            ("person on too many projects", "people on too many projects", "More at a time than their own limit")
        }
        Alert::Taskless => {
            ("booking without tasks", "bookings without tasks", "The person has no task in that project")
        }
        Alert::Unbooked => (
            "project with nobody booked",
            "projects with nobody booked",
            "Tasks with work left, and no booking from today on",
        ),
    }
}
