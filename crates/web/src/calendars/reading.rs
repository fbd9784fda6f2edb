//! Reading a calendar, wherever it comes from: off the async threads, and no more of them at once than the server can bear.

use crate::{AppState, Error, worked_out};
use snug_core::{Day, calendars::Purpose};
use snug_exchange::ical::{self, Said, Unreadable};
use tokio::sync::Semaphore;

/// Calendars that are read at once.
static AT_ONCE: Semaphore = Semaphore::const_new(2);

/// What happens in a calendar between two days; what leaves one free is no time off and no meeting, but may be a holiday.
///
/// # Errors
/// It was not worked out; what is wrong with the calendar itself is the inner answer.
pub async fn read(
    state: &AppState,
    bytes: Vec<u8>,
    purpose: &Purpose,
    window: (Day, Day),
) -> Result<Result<Said, Unreadable>, Error> {
    let _place = AT_ONCE.acquire().await.map_err(|error| snug_store::Error::Damaged(error.to_string()))?;
    let (zone, busy_only) = (state.zone(), !matches!(purpose, Purpose::Holidays(_)));
    worked_out(move || ical::read(&ical::unfolded(&bytes), zone, window, busy_only)).await
}
