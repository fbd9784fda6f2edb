//! The mailbox of the demo: letters that were sent, instead of everybody's own.

use crate::{
    Error,
    auth::User,
    drafts::Here,
    frame::{Frame, Room},
};
use askama::Template;
use axum::response::Html;

/// A letter as it is read.
pub struct LetterView {
    to: String,
    subject: String,
    /// Plain words, and links that can be followed.
    lines: Vec<(String, Option<String>)>,
}

#[derive(Template)]
#[template(path = "setup/mailbox.html")]
struct MailboxPage {
    frame: Frame,
    letters: Vec<LetterView>,
}

/// The page; only where mail goes into a folder.
pub async fn page(Here(state): Here, user: User) -> Result<Html<String>, Error> {
    let post = state.options.post.clone().filter(|_| state.options.demo.is_some()).ok_or(Error::NotFound)?;
    let letter = |letter: crate::mail::Received| LetterView {
        to: letter.to,
        subject: letter.subject,
        lines: letter
            .body
            .lines()
            .map(|line| {
                let path = line.find("://").and_then(|at| line[at + 3..].find('/').map(|slash| at + 3 + slash));
                let link = path.filter(|_| line.starts_with("http")).map(|at| line[at..].trim().to_owned());
                (line.to_owned(), link)
            })
            .collect(),
    };
    let letters = post.letters().await.into_iter().take(50).map(letter).collect();
    Ok(Html(MailboxPage { frame: Frame::of(&state, &user, Room::None).await?, letters }.render()?))
}
