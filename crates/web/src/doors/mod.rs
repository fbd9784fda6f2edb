//! Who knocks, from where, and how often: limits of attempts, and the log of who came in.

mod peer;

pub use peer::Peer;
pub use snug_store::security::Deed;

use crate::{AppState, Error};
use governor::{DefaultDirectRateLimiter, DefaultKeyedRateLimiter, Quota, RateLimiter};
use snug_store::{DatabaseConnection, accounts::Account, security};
use std::{net::IpAddr, num::NonZeroU32, time::Duration};

/// What somebody is told who tries too often.
pub const WAIT: &str = "Too many attempts. Wait a minute, then try again.";

/// How many attempts at once, and then how often one.
const fn pace(burst: u32, wait: Duration) -> (NonZeroU32, Duration) {
    (NonZeroU32::new(burst).expect("a burst is not nothing"), wait)
}

/// Attempts with one address of an account, or for one purpose.
const OF_ONE: (NonZeroU32, Duration) = pace(10, Duration::from_secs(30));
/// Attempts from one peer: a whole office may come from one on a Monday morning.
const OF_PEER: (NonZeroU32, Duration) = pace(200, Duration::from_millis(500));
/// Attempts of everybody: what the hashing of passwords can bear.
const OF_ALL: (NonZeroU32, Duration) = pace(1_000, Duration::from_millis(20));

/// Counts attempts to come in, by whom they are for, by where they come from, and in all.
pub struct Limits {
    one: DefaultKeyedRateLimiter<String>,
    peer: DefaultKeyedRateLimiter<IpAddr>,
    all: DefaultDirectRateLimiter,
}

impl Default for Limits {
    fn default() -> Self {
        let quota = |(burst, wait): (NonZeroU32, Duration)| {
            Quota::with_period(wait).unwrap_or_else(|| Quota::per_minute(burst)).allow_burst(burst)
        };
        Self {
            one: RateLimiter::keyed(quota(OF_ONE)),
            peer: RateLimiter::keyed(quota(OF_PEER)),
            all: RateLimiter::direct(quota(OF_ALL)),
        }
    }
}

impl Limits {
    /// Whether another attempt for this may be made from there; it is counted.
    pub fn admit(&self, peer: &Peer, purpose: &str) -> bool {
        self.peer.check_key(&peer.network()).is_ok()
            && self.all.check().is_ok()
            && self.one.check_key(&purpose.to_owned()).is_ok()
    }

    /// Forgets attempts that are long over.
    pub fn sweep(&self) {
        self.one.retain_recent();
        self.peer.retain_recent();
    }
}

/// Notes in the security log what somebody did.
pub async fn note(state: &AppState, deed: Deed, account: &Account, peer: &Peer, says: &str) -> Result<(), Error> {
    note_of(state.keeper.db(), deed, &account.email, peer, says).await
}

/// Notes what somebody did who has no account, or is not known to have.
pub async fn note_of(db: &DatabaseConnection, deed: Deed, who: &str, peer: &Peer, says: &str) -> Result<(), Error> {
    Ok(security::note(db, deed, who, &peer.to_string(), says).await?)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_purpose_one_peer_and_all_of_them_have_their_limits() {
        let peer = |last: u8| Peer::from(IpAddr::from([192, 0, 2, last]));
        let limits = Limits::default();
        let admitted = |peer: Peer, purposes: &mut dyn FnMut(usize) -> String| {
            (0..2_000).take_while(|at| limits.admit(&peer, &purposes(*at))).count()
        };
        assert_eq!(admitted(peer(1), &mut |_| "mira@x.test".to_owned()), 10);
        // Another one's attempts are held back where they come from the same peer, and not from elsewhere. On a slow machine some
        // more may pass meanwhile.
        let of_peer = admitted(peer(1), &mut |at| format!("n{at}@x.test"));
        assert!((189..210).contains(&of_peer), "{of_peer}");
        assert!(limits.admit(&peer(2), "n1@y.test"));
        let many = (10..40).map(|last| admitted(peer(last), &mut |at| format!("{last}.{at}@x.test"))).sum::<usize>();
        assert!((700..1_100).contains(&many), "{many}");
        limits.sweep();
        assert!(!limits.admit(&peer(1), "mira@x.test"), "what is not over is remembered");
    }
}
