//! Drafts: plans to try things in. Made, worked in, shared, held against another plan, merged and dropped.

pub mod beside;
mod compare;
mod here;
mod list;
mod merge;

pub use here::Here;
pub use list::made;

use crate::AppState;
use axum::{
    Router,
    routing::{get, post},
};

/// Where they are listed.
pub const PATH: &str = "/drafts";

pub fn routes() -> Router<AppState> {
    Router::new()
        .route(PATH, get(list::page).post(list::make))
        .route("/drafts/leave", post(list::leave))
        .route("/drafts/{id}", post(list::rename))
        .route("/drafts/{id}/enter", post(list::enter))
        .route("/drafts/{id}/drop", post(list::drop_it))
        .route("/drafts/{id}/compare", get(compare::page))
        .route("/drafts/{id}/merge", get(merge::page).post(merge::merge))
}
