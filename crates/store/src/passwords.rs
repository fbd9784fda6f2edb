//! Passwords: which will do, and their hashes (argon2id).

use crate::Error;
use argon2::{
    Argon2,
    password_hash::{PasswordHasher as _, PasswordVerifier as _, phc::PasswordHash},
};
use std::sync::LazyLock;
use tokio::sync::{Semaphore, oneshot};
use zxcvbn::{Score, zxcvbn};

/// The shortest password, in characters.
pub const SHORTEST: usize = 10;
/// The longest; nobody types more, and a hash takes longer the more there is.
pub const LONGEST: usize = 200;

/// Why a password will not do: it is too short or too long, or among the first that a guesser tries, who knows whose it is.
#[must_use]
pub fn problem(password: &str, whose: &[&str]) -> Option<String> {
    /// What of it is weighed; weighing takes longer than in proportion.
    const WEIGHED: usize = 72;
    let length = password.chars().count();
    if length < SHORTEST {
        return Some(format!("Use at least {SHORTEST} characters."));
    }
    if length > LONGEST {
        return Some(format!("Use at most {LONGEST} characters."));
    }
    let weighed: String = password.chars().take(WEIGHED).collect();
    let weak = zxcvbn(&weighed, whose).score() < Score::Two;
    weak.then(|| {
        "This is among the first passwords that somebody would try. Use a few words that are yours.".to_owned()
    })
}

/// The hash under which a password is kept.
pub(crate) async fn hashed(password: String) -> Result<String, Error> {
    blocking(move || {
        Argon2::default().hash_password(password.as_bytes()).map(|hash| hash.to_string()).map_err(|_| Error::Password)
    })
    .await
}

/// Whether this is the password of a hash.
pub(crate) async fn is_of(password: String, hash: String) -> Result<bool, Error> {
    Ok(which_of(password, vec![hash]).await?.is_some())
}

/// The place of the first hash that is of this password.
pub(crate) async fn which_of(password: String, hashes: Vec<String>) -> Result<Option<usize>, Error> {
    blocking(move || {
        for (at, hash) in hashes.iter().enumerate() {
            let hash = PasswordHash::new(hash).map_err(|_| Error::Password)?;
            if Argon2::default().verify_password(password.as_bytes(), &hash).is_ok() {
                return Ok(Some(at));
            }
        }
        Ok(None)
    })
    .await
}

/// Hashes that are reckoned at once.
const AT_ONCE: usize = 4;
/// Each takes 19 MB, so a flood of sign-ins waits here and takes no memory; who is gone before it is their turn takes no time either.
static HASHING: Semaphore = Semaphore::const_new(AT_ONCE);
/// Threads of their own: each keeps the memory of its last hash for the next, which a hundred of them would.
static THREADS: LazyLock<Option<rayon::ThreadPool>> =
    LazyLock::new(|| rayon::ThreadPoolBuilder::new().num_threads(AT_ONCE).build().ok());

async fn blocking<T: Send + 'static>(work: impl FnOnce() -> Result<T, Error> + Send + 'static) -> Result<T, Error> {
    let _place = HASHING.acquire().await.map_err(|_| Error::Password)?;
    let threads = THREADS.as_ref().ok_or(Error::Password)?;
    let (tell, told) = oneshot::channel();
    // Nobody may wait for it any more.
    threads.spawn(move || drop(tell.send(work())));
    told.await.map_err(|_| Error::Password)?
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_guesser_tries_first_is_refused() {
        for common in ["password123", "qwertyuiop", "1234567890", "iloveyou123", "aaaaaaaaaaaa"] {
            let said = problem(common, &[]).unwrap();
            assert!(said.contains("among the first"), "{common}");
        }
        assert!(problem("mira@tidewater.test", &["mira@tidewater.test"]).is_some(), "one's own address");
        assert!(problem("short", &[]).unwrap().contains("at least 10"));
        assert!(problem(&"wandering oaks ".repeat(20), &[]).unwrap().contains("at most 200"));
        for fine in ["seven oaks by the pier", "tidewater-2026", "korrekt Pferd 7 Tonne"] {
            assert_eq!(problem(fine, &[]), None, "{fine}");
        }
    }
}
