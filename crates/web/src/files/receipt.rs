//! The receipts of expenses: brought with a phone's camera or as a file, and shown to those alone who see the expense.

use super::{Gone, Looked, Sent, content, place, taken};
use crate::{AppState, Error, answer, auth::User, drafts::Here};
use axum::{
    Form,
    extract::{Multipart, Path},
    response::Response,
};
use snug_core::{
    Command, Refusal, Tag,
    change::{Change, Edit},
    kinds::{AnyRecord as _, Attachment, Expense, ExpenseId, Kind, Record as _},
};

/// What a receipt may be: the ending that it is kept under and its media type.
const KINDS: [(&str, &str); 4] =
    [("jpg", "image/jpeg"), ("png", "image/png"), ("webp", "image/webp"), ("pdf", "application/pdf")];

/// Where the receipt of an expense is shown.
pub struct ReceiptView {
    /// Where it is brought, and where it is shown.
    pub path: String,
    /// Whether it is there, and whether it is a picture.
    pub is_there: bool,
    pub is_picture: bool,
    /// The tag of the expense, for whoever may bring one; else empty.
    pub tag: String,
}

impl ReceiptView {
    /// The receipt of an expense, for whoever may change it or not.
    pub fn of(expense: &Expense, may_change: bool) -> Self {
        Self {
            path: format!("/expenses/{}/receipt", expense.id),
            is_there: !expense.receipt.is_empty(),
            is_picture: expense.receipt_parts().is_some_and(|(_, ending)| ending != "pdf"),
            tag: if may_change { expense.tag().to_string() } else { String::new() },
        }
    }
}

/// The receipt of an expense that somebody sees, as a file.
fn seen(state: &AppState, user: &User, id: i32) -> Result<Attachment, Error> {
    let plan = state.keeper.plan();
    user.eyes(&plan).one(Kind::Expense, id).ok_or(Error::NotFound)?;
    let expense = plan.records.expenses.get(&ExpenseId(id)).ok_or(Error::NotFound)?;
    let (sum, ending) = expense.receipt_parts().ok_or(Error::NotFound)?;
    let media = KINDS.iter().find(|(known, _)| *known == ending).map_or("", |(_, media)| media);
    let (name, media, sum) = (format!("{}.{ending}", expense.what), media.to_owned(), sum.to_owned());
    Ok(Attachment { name, media, sum, ..Attachment::blank() })
}

pub async fn show(Here(state): Here, user: User, Path(id): Path<i32>) -> Result<Response, Error> {
    content(&state, &seen(&state, &user, id)?).await
}

pub async fn small(Here(state): Here, user: User, Path(id): Path<i32>) -> Result<Response, Error> {
    super::small_content(&state, &seen(&state, &user, id)?).await
}

/// The expense that a page saw, if it is the one of the address.
fn as_seen(state: &AppState, user: &User, id: i32, tag: &str) -> Result<Expense, Error> {
    let plan = state.keeper.plan();
    user.eyes(&plan).one(Kind::Expense, id).ok_or(Error::NotFound)?;
    let expense: Expense = plan.record_as_seen(tag.parse::<Tag>()?)?;
    if expense.id.0 == id { Ok(expense) } else { Err(snug_core::NoTag.into()) }
}

fn altered(expense: Expense, receipt: String) -> Command {
    let after = Expense { receipt, ..expense.clone() };
    Command::Edit { changes: vec![Change::Expense(Edit::alter(expense, after))] }
}

fn may_change(state: &AppState, user: &User, id: i32) -> Result<(), Error> {
    let plan = state.keeper.plan();
    let standing = user.eyes(&plan).one(Kind::Expense, id).ok_or(Error::NotFound)?;
    user.check(&plan, &Command::Edit { changes: vec![standing.as_new()] })
}

/// Brings a receipt in place of the one that was there.
pub async fn bring(Here(state): Here, user: User, Path(id): Path<i32>, parts: Multipart) -> Result<Response, Error> {
    // Whoever may not change the expense is told so before anything that they send is read.
    may_change(&state, &user, id)?;
    let _place = place().await?;
    let mut sent = Sent::read(parts).await?;
    let expense = as_seen(&state, &user, id, sent.field("seen"))?;
    let (name, bytes) = sent.files.pop().ok_or_else(|| Refusal::value("file", "Choose a picture or a PDF first."))?;
    let (ending, looked) = crate::worked_out(move || looked_over(&name, bytes)).await??;
    let receipt = format!("{}.{ending}", looked.sum);
    looked.lay_down(&state.options.files).await?;
    let outcome = answer::carry_out(&state, &user, altered(expense, receipt)).await?;
    answer::back_to(&user, &format!("/expenses/{id}"), "Receipt added".to_owned(), &outcome).await
}

/// A receipt that was looked over, with the ending that it is kept under. This computes: call it off the async threads.
fn looked_over(name: &str, bytes: Vec<u8>) -> Result<(&'static str, Looked), Error> {
    // What it is shows in its bytes, whatever it is called.
    let media = infer::get(&bytes).map_or("", |kind| kind.mime_type());
    let Some((ending, media)) = KINDS.iter().find(|(_, known)| *known == media) else {
        let message = format!("“{}” is neither a picture (JPEG, PNG, WebP) nor a PDF.", taken::plain_name(name));
        return Err(Refusal::value("file", message).into());
    };
    let looked = Looked::over(&format!("receipt.{ending}"), bytes)?;
    if media.starts_with("image/") && looked.taken.small.is_none() {
        return Err(Refusal::value("file", "This picture cannot be read.").into());
    }
    Ok((ending, looked))
}

/// Takes a receipt away.
pub async fn remove(
    Here(state): Here,
    user: User,
    Path(id): Path<i32>,
    Form(gone): Form<Gone>,
) -> Result<Response, Error> {
    let expense = as_seen(&state, &user, id, &gone.seen)?;
    let outcome = answer::carry_out(&state, &user, altered(expense, String::new())).await?;
    answer::back_to(&user, &format!("/expenses/{id}"), "Receipt taken away".to_owned(), &outcome).await
}
