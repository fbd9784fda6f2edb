//! Codes of an authenticator: six digits, a new one every half minute (RFC 6238).

use crate::{AppState, Error, doors, doors::Deed, doors::Peer, mail::Letter, words};
use snug_store::{
    accounts::Account,
    two_step::{self, Attempt, TwoStep},
};
use totp_rs::{Algorithm, Secret, TOTP};

const STEP: u64 = 30;

fn totp(secret: &str, email: &str) -> Result<TOTP, Error> {
    let bytes = Secret::Encoded(secret.to_owned()).to_bytes().map_err(|_| snug_store::Error::Password)?;
    TOTP::new(Algorithm::SHA1, 6, 1, STEP, bytes, Some("Snug Roster".to_owned()), email.replace(':', " "))
        .map_err(|_| snug_store::Error::Password.into())
}

/// A secret by chance, in base 32.
pub fn new_secret() -> String {
    Secret::generate_secret().to_encoded().to_string()
}

/// The picture that an authenticator reads, a PNG in base 64.
pub fn picture(secret: &str, email: &str) -> Result<String, Error> {
    totp(secret, email)?.get_qr_base64().map_err(|_| snug_store::Error::Password.into())
}

/// The time step to which a code belongs: this one, the one before or the one after; `None` for any other code.
pub fn step_of(secret: &str, email: &str, code: &str) -> Result<Option<i64>, Error> {
    let totp = totp(secret, email)?;
    let code: String = code.chars().filter(|c| !c.is_whitespace()).collect();
    let now = u64::try_from(chrono::Utc::now().timestamp()).unwrap_or(0) / STEP;
    let steps = [now, now - 1, now + 1];
    let found = steps.into_iter().find(|step| totp.generate(step * STEP) == code);
    Ok(found.and_then(|step| i64::try_from(step).ok()))
}

/// What is wrong with a code; `None` where it is right, and used up. Wrong ones slow down further attempts, and are told by mail.
pub async fn problem(
    state: &AppState,
    account: &Account,
    step: &TwoStep,
    peer: &Peer,
    code: &str,
) -> Result<Option<String>, Error> {
    /// Of so many wrong codes the owner is told.
    const TELLING: i32 = 5;
    let db = state.keeper.db();
    let before = match two_step::attempt(db, account.id).await? {
        Attempt::Nth(before) => before,
        Attempt::Wait(until) => {
            let until = words::moment(until, state.zone(), state.keeper.plan().settings.date_order);
            return Ok(Some(format!("Too many wrong codes. The next can be tried at {until}.")));
        }
    };
    let right = match step_of(&step.secret, &account.email, code)? {
        Some(step) => two_step::use_step(db, account.id, step).await?,
        None => two_step::use_code(db, account.id, code).await?,
    };
    if right {
        two_step::was_right(db, account.id).await?;
        return Ok(None);
    }
    doors::note(state, Deed::CodeRefused, account, peer, "").await?;
    if (before + 1) % TELLING == 0 {
        tell(state, account, before + 1, peer);
    }
    Ok(Some("This code does not fit, or was used already. Wait for the next one.".to_owned()))
}

/// Mails behind the answer that somebody who knows the password tries codes.
fn tell(state: &AppState, account: &Account, wrong: i32, peer: &Peer) {
    let letter = Letter {
        to: account.email.clone(),
        subject: "Somebody tries to sign in as you".to_owned(),
        body: format!(
            "Somebody at {peer} knows your password and has sent {wrong} wrong codes for the second step of signing in to {}.\n\nIf it was not you, change your password now:\n{}/me\n",
            state.keeper.plan().settings.name,
            state.base(),
        ),
    };
    state.mail_later(letter);
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_code_of_now_fits_and_an_old_one_does_not() {
        let secret = new_secret();
        let now = u64::try_from(chrono::Utc::now().timestamp()).unwrap();
        let code = |at: u64| totp(&secret, "mira@example.test").unwrap().generate(at);
        let step = |code: &str| step_of(&secret, "mira@example.test", code).unwrap();
        assert!(step(&code(now)).is_some());
        assert!(step(&code(now - 600)).is_none());
        assert!(step("").is_none() && step("abc").is_none());
        assert!(picture(&secret, "mira@example.test").unwrap().len() > 100);
    }
}
