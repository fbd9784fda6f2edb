//! Saved reports that are mailed on a weekday, with the workbook, to whoever keeps them; they say what that person sees on that day.

use super::{asked::Asked, made, says, subject_label, workbook};
use crate::{
    AppState, Error,
    columns::Pairs,
    mail::{Enclosure, Letter},
};
use snug_exchange::report as files;
use snug_store::{
    accounts::{self, Account},
    looks::{self, Due},
};

/// Rows that a letter has in itself; the workbook has all.
const MOST: usize = 40;

/// Mails what is due today; what cannot be mailed is tried again.
pub async fn mail_due(state: &AppState) {
    // Without a mail server nothing is taken, so that nothing is lost.
    if state.options.post.is_none() {
        return;
    }
    let due = match looks::take_due(state.keeper.db(), "reports", state.today()).await {
        Ok(due) => due,
        Err(error) => return tracing::warn!(%error, "it cannot be seen which reports are due"),
    };
    for look in due {
        if let Err(error) = mail_one(state, &look).await {
            tracing::warn!(error = &error as &dyn std::error::Error, report = look.id, "a report was not mailed");
            let _ = looks::give_back(state.keeper.db(), look.id).await;
        }
    }
}

async fn mail_one(state: &AppState, look: &Due) -> Result<(), Error> {
    let Some(account) = accounts::by_id(state.keeper.db(), look.account).await? else { return Ok(()) };
    let (state_of, name, address) = (state.clone(), look.name.clone(), look.address.clone());
    let (letter, enclosed) = crate::worked_out(move || letter(&state_of, &account, &name, &address)).await??;
    state.mail_with(letter, enclosed).await
}

fn letter(
    state: &AppState,
    account: &Account,
    name: &str,
    address: &str,
) -> Result<(Letter, Option<Enclosure>), Error> {
    let plan = state.keeper.plan();
    let eyes = account.actor().eyes(&plan);
    let query = address.split_once('?').map_or("", |(_, query)| query);
    let asked = Asked::read(&serde_urlencoded::from_str::<Pairs>(query).unwrap_or_default());
    let today = state.today();
    let (found, ask, _) = made(&eyes, &asked, today);
    let whole = format!("{}{address}", state.base());
    let (about, says) = (subject_label(ask.subject), says(&plan, &ask));
    let letter = |body: String| Letter { to: account.email.clone(), subject: format!("{name}: {says}"), body };
    let found = match found {
        Ok(found) => found.only(&asked.columns),
        Err(refusal) => {
            return Ok((letter(format!("{about}, {says}\n\n{}\n\nAs a page: {whole}\n", refusal.message)), None));
        }
    };
    let rows = found.rows.len();
    let table = match rows {
        0 => "There is nothing in these days.\n".to_owned(),
        _ => files::letter(&found, MOST),
    };
    let more = if rows > MOST { format!("\n{} more rows are in the workbook.\n", rows - MOST) } else { String::new() };
    let bytes = workbook(&plan, &found, &ask)?;
    let enclosed = Enclosure { name: "report.xlsx", media: crate::answer::WORKBOOK, bytes };
    Ok((letter(format!("{about}, {says}\n\n{table}{more}\nAs a page: {whole}\n")), Some(enclosed)))
}
