//! The Hours room: logging time, the week sheet and its way to approval, my day, estimate against actual.

mod actuals;
mod bias;
mod budgets;
mod cycle;
mod day;
mod earned;
mod entries;
mod fill;
mod hint;
mod log;
pub mod money;
mod reports;
mod sheet;
mod timer;
mod walk_in;
mod walk_ins;
mod worked;

use crate::AppState;
use axum::{
    Router,
    routing::{get, post},
};

pub use actuals::Vessel;
pub use reports::mail_due;

pub fn routes() -> Router<AppState> {
    Router::new()
        .route("/hours", get(sheet::page).post(sheet::save))
        .route("/hours/sheet", get(sheet::part))
        .route("/hours/log", post(log::log))
        .route("/hours/fill", post(fill::fill))
        .route("/hours/walk-in", post(walk_in::log))
        .route("/hours/timer", post(timer::turn))
        .route("/hours/day", get(day::page))
        .route("/hours/answer", post(day::answered))
        .route("/hours/week", post(cycle::turn))
        .route("/hours/approve", get(cycle::page))
        .route("/hours/walk-ins", get(walk_ins::page))
        .route("/hours/worked", get(worked::page))
        .route("/hours/worked.csv", get(worked::csv))
        .route("/hours/bias", get(bias::page))
        .route("/hours/hint", get(hint::hint))
        .route("/hours/earned", get(earned::page))
        .route("/hours/budgets", get(budgets::page))
        .route("/hours/budgets.csv", get(budgets::csv))
        .route("/hours/money", get(money::page))
        .route("/hours/money.csv", get(money::csv))
        .route("/hours/reports", get(reports::page))
        .route("/hours/reports.csv", get(reports::csv))
        .route("/hours/reports.xlsx", get(reports::xlsx))
        .route("/hours/remind", post(cycle::remind))
        .route("/hours/actuals", get(actuals::page))
        .route("/hours/actuals.csv", get(actuals::csv))
}
