//! Accounts, keys that are mailed, second steps, tokens, kept answers, files that wait.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    Command, Role,
    change::{Change, Edit},
    kinds::{Project, Record as _},
};
use snug_store::{
    DatabaseConnection, Error, Keeper, Seal,
    accounts::{self, Account, Scope},
    idempotency::{self, Known, Once},
    mailed_keys,
    two_step::{self, Attempt},
    uploads,
};
use support::Database;

const PASSWORD: &str = "a long password";

async fn account(db: &DatabaseConnection, email: &str, role: Role) -> Account {
    accounts::create(db, email, "Somebody", role, PASSWORD.to_owned()).await.unwrap()
}

#[tokio::test]
async fn an_address_has_one_account_whatever_its_case() {
    let database = Database::new();
    let db = database.open().await;
    assert!(!accounts::any(&db).await.unwrap());
    let made = account(&db, " Mira@X.test ", Role::Manager).await;
    assert_eq!(made.email, "mira@x.test");
    let again = accounts::create(&db, "mira@x.test", "Other", Role::Viewer, PASSWORD.to_owned()).await;
    assert!(matches!(again, Err(Error::AccountExists)));
    assert_eq!(accounts::sign_in(&db, "MIRA@x.test", PASSWORD.to_owned()).await.unwrap(), Some(made.clone()));
    assert_eq!(accounts::sign_in(&db, "mira@x.test", "wrong".to_owned()).await.unwrap(), None);
    assert_eq!(accounts::sign_in(&db, "nobody@x.test", PASSWORD.to_owned()).await.unwrap(), None);
    // Neither the password nor anything it could be made of is kept.
    let kept = database.query("SELECT password_hash FROM account");
    assert!(kept.starts_with("$argon2id$") && !kept.contains(PASSWORD));
    accounts::set_password(&db, made.id, "another password".to_owned(), None).await.unwrap();
    assert!(!accounts::is_password(&db, &made, PASSWORD.to_owned()).await.unwrap());
    assert!(accounts::is_password(&db, &made, "another password".to_owned()).await.unwrap());
    // Whoever knew the old one may have made tokens; they end with it.
    let token = accounts::create_token(&db, &made.email, "a script", Scope::Read).await.unwrap().unwrap();
    accounts::set_password(&db, made.id, "a third password".to_owned(), None).await.unwrap();
    assert!(accounts::by_token(&db, &token).await.unwrap().is_none());
}

#[tokio::test]
async fn somebody_always_runs_the_workspace() {
    let database = Database::new();
    let db = database.open().await;
    let (ada, mira) =
        (account(&db, "ada@x.test", Role::Administrator).await, account(&db, "mira@x.test", Role::Member).await);
    for refused in [accounts::set_role(&db, ada.id, Role::Viewer).await, accounts::remove(&db, ada.id).await] {
        assert!(matches!(refused, Err(Error::LastAdministrator)));
    }
    accounts::set_role(&db, mira.id, Role::Administrator).await.unwrap();
    accounts::remove(&db, ada.id).await.unwrap();
    let all = accounts::all(&db).await.unwrap();
    assert_eq!(
        all.iter().map(|(account, _)| (account.id, account.role)).collect::<Vec<_>>(),
        [(mira.id, Role::Administrator)]
    );
}

#[tokio::test]
async fn a_mailed_key_opens_once_and_not_for_ever() {
    let database = Database::new();
    let db = database.open().await;
    let key = mailed_keys::invite(&db, "Ruth@X.test", "Ruth", Role::Lead).await.unwrap();
    assert!(!database.query("SELECT hash FROM door_key").contains(&key), "only a hash is kept");
    let door = mailed_keys::behind(&db, &key).await.unwrap().unwrap();
    assert_eq!((door.email.as_str(), door.role, door.is_invitation()), ("ruth@x.test", Role::Lead, true));
    // A second invitation of the same address makes the first one worthless.
    let newer = mailed_keys::invite(&db, "ruth@x.test", "Ruth", Role::Member).await.unwrap();
    assert!(mailed_keys::behind(&db, &key).await.unwrap().is_none());
    assert_eq!(mailed_keys::open_invitations(&db).await.unwrap().len(), 1);
    let made = mailed_keys::pass(&db, &newer, "Ruth Engel", PASSWORD.to_owned()).await.unwrap().unwrap();
    assert_eq!((made.name.as_str(), made.role), ("Ruth Engel", Role::Member));
    assert!(mailed_keys::pass(&db, &newer, "Again", PASSWORD.to_owned()).await.unwrap().is_none());
    assert!(matches!(mailed_keys::invite(&db, "ruth@x.test", "", Role::Viewer).await, Err(Error::AccountExists)));
    // A key that is too old opens nothing.
    let (_, reset) = mailed_keys::reset(&db, "ruth@x.test").await.unwrap().unwrap();
    database.query("UPDATE door_key SET expires_at = now() - interval '1 second'");
    assert!(mailed_keys::behind(&db, &reset).await.unwrap().is_none());
    assert!(mailed_keys::pass(&db, &reset, "", "another password".to_owned()).await.unwrap().is_none());
    assert!(mailed_keys::reset(&db, "nobody@x.test").await.unwrap().is_none());
    assert!(accounts::is_password(&db, &made, PASSWORD.to_owned()).await.unwrap());
}

#[tokio::test]
async fn a_second_step_is_used_up() {
    let database = Database::new();
    let db = database.open().await;
    let ada = account(&db, "ada@x.test", Role::Member).await;
    let seal: Seal = "1e".repeat(32).parse().unwrap();
    assert!(two_step::of(&db, &seal, ada.id).await.unwrap().is_none());
    let codes = two_step::set_up(&db, &seal, ada.id, "SECRET", 99).await.unwrap();
    let step = two_step::of(&db, &seal, ada.id).await.unwrap().unwrap();
    assert_eq!((step.secret.as_str(), step.codes_left), ("SECRET", 10));
    // Neither a copy of the database nor somebody with another key reads it; codes have hashes as passwords do.
    assert!(!database.query("SELECT totp_secret FROM account").contains("SECRET"));
    assert!(matches!(two_step::of(&db, &Seal::default(), ada.id).await, Err(Error::Sealed)));
    assert_eq!(database.query("SELECT bool_and(hash LIKE '$argon2id$%') FROM recovery_code"), "t");
    assert!(
        codes.iter().all(|code| code.len() == 14 && !database.query("SELECT hash FROM recovery_code").contains(code))
    );
    assert!(two_step::use_code(&db, ada.id, &format!(" {} ", codes[0].to_uppercase())).await.unwrap());
    assert!(!two_step::use_code(&db, ada.id, &codes[0]).await.unwrap());
    assert!(!two_step::use_code(&db, ada.id, "").await.unwrap());
    // The code that proved the authenticator is used up with it.
    assert!(!two_step::use_step(&db, ada.id, 99).await.unwrap());
    // A step of time is used once, and none before it any more.
    let uses = [
        two_step::use_step(&db, ada.id, 100).await,
        two_step::use_step(&db, ada.id, 100).await,
        two_step::use_step(&db, ada.id, 99).await,
        two_step::use_step(&db, ada.id, 101).await,
    ];
    assert_eq!(uses.map(Result::unwrap), [true, false, false, true]);
    // Set up anew, old codes are worth nothing.
    let fresh = two_step::set_up(&db, &seal, ada.id, "OTHER", 102).await.unwrap();
    assert!(!two_step::use_code(&db, ada.id, &codes[1]).await.unwrap());
    assert!(two_step::use_code(&db, ada.id, &fresh[0]).await.unwrap());
    two_step::take_away(&db, ada.id).await.unwrap();
    assert!(two_step::of(&db, &seal, ada.id).await.unwrap().is_none());
    assert_eq!(database.query("SELECT count(*) FROM recovery_code"), "0");
}

#[tokio::test]
async fn wrong_codes_slow_down_until_one_is_right() {
    let database = Database::new();
    let db = database.open().await;
    let ada = account(&db, "ada@x.test", Role::Member).await;
    let minutes = async || match two_step::attempt(&db, ada.id).await.unwrap() {
        Attempt::Nth(_) => 0,
        Attempt::Wait(until) => (until - chrono::Utc::now()).num_seconds().div_euclid(60) + 1,
    };
    let let_pass = || database.query("UPDATE account SET codes_wait_until = now() - interval '1 second'");
    for nth in 0..5 {
        assert_eq!(two_step::attempt(&db, ada.id).await.unwrap(), Attempt::Nth(nth));
    }
    let mut waits = Vec::new();
    for _ in 0..14 {
        waits.push(minutes().await);
        let_pass();
        assert_eq!(minutes().await, 0);
    }
    assert_eq!(waits, [1, 2, 4, 8, 16, 32, 64, 128, 256, 512, 1_024, 1_440, 1_440, 1_440]);
    // Many at once are counted as one after the other: all but the first are told to wait.
    let_pass();
    let tries = futures_util::future::join_all((0..20).map(|_| two_step::attempt(&db, ada.id))).await;
    assert_eq!(tries.into_iter().filter(|tried| matches!(tried, Ok(Attempt::Nth(_)))).count(), 1);
    two_step::was_right(&db, ada.id).await.unwrap();
    assert_eq!(two_step::attempt(&db, ada.id).await.unwrap(), Attempt::Nth(0));
    // A secret from before there was a key is sealed with it, once.
    let (none, seal) = (Seal::default(), "1e".repeat(32).parse::<Seal>().unwrap());
    two_step::set_up(&db, &none, ada.id, "SECRET", 1).await.unwrap();
    for _ in 0..2 {
        two_step::seal_all(&db, &seal).await.unwrap();
        assert!(database.query("SELECT totp_secret FROM account").starts_with("sealed:"));
        assert_eq!(two_step::of(&db, &seal, ada.id).await.unwrap().unwrap().secret, "SECRET");
    }
}

#[tokio::test]
async fn of_two_first_starts_at_once_one_makes_the_workspace() {
    use snug_core::settings::Settings;
    use snug_store::founding;
    let database = Database::new();
    let (db, other) = (database.open().await, database.open().await);
    let keys = [founding::new_key(&db).await.unwrap().unwrap(), founding::new_key(&other).await.unwrap().unwrap()];
    let keepers = [Keeper::start(db.clone()).await.unwrap(), Keeper::start(other.clone()).await.unwrap()];
    assert!(founding::opens(&db, &keys[1]).await.unwrap() && !founding::opens(&db, "a guess").await.unwrap());
    let found = async |at: usize| {
        let settings = Settings { name: format!("House {at}"), ..Settings::default() };
        let email = format!("founder{at}@x.test");
        let founder = founding::Founder { email, name: "Founder".to_owned(), password: PASSWORD.to_owned() };
        keepers[at].found_by(&keys[at], settings, founder).await.unwrap()
    };
    let (one, two) = tokio::join!(found(0), found(1));
    assert_eq!(usize::from(one.is_some()) + usize::from(two.is_some()), 1);
    assert_eq!(database.query("SELECT count(*), min(role) FROM account"), "1|administrator");
    assert_eq!(database.query("SELECT count(*) FROM founding_key"), "0");
    let made = usize::from(two.is_some());
    assert_eq!(keepers[made].plan().settings.name, format!("House {made}"), "who made it sees it");
    assert!(founding::new_key(&db).await.unwrap().is_none());
    assert!(found(made).await.is_none(), "a key opens once");
}

#[tokio::test]
async fn a_token_is_its_owners_and_ends_with_a_word() {
    let database = Database::new();
    let db = database.open().await;
    let (ada, mira) = (account(&db, "ada@x.test", Role::Manager).await, account(&db, "mira@x.test", Role::Lead).await);
    let token = accounts::create_token(&db, "ada@x.test", "a script", Scope::Write).await.unwrap().unwrap();
    assert!(
        token.starts_with("snug_")
            && accounts::create_token(&db, "no@x.test", "", Scope::Read).await.unwrap().is_none()
    );
    assert_eq!(accounts::by_token(&db, &token).await.unwrap(), Some((ada.clone(), Scope::Write)));
    assert_eq!(accounts::by_token(&db, "snug_guess").await.unwrap(), None);
    let listed = accounts::tokens(&db, ada.id).await.unwrap();
    assert_eq!((listed.len(), listed[0].name.as_str(), listed[0].scope), (1, "a script", Scope::Write));
    accounts::end_token(&db, mira.id, listed[0].id).await.unwrap();
    assert!(accounts::by_token(&db, &token).await.unwrap().is_some(), "somebody else cannot end it");
    accounts::end_token(&db, ada.id, listed[0].id).await.unwrap();
    assert!(accounts::by_token(&db, &token).await.unwrap().is_none());
}

#[tokio::test]
async fn a_request_with_a_key_is_done_once_by_account_and_for_a_day() {
    let database = Database::new();
    let (here, there) = (database.founded().await, Keeper::start(database.open().await).await.unwrap());
    let db = here.db();
    let (ada, mira) = (account(db, "ada@x.test", Role::Manager).await, account(db, "mira@x.test", Role::Manager).await);
    let once = Once::new(ada.id, "key", "POST a");
    let project = |code: &str| {
        let made = Project { code: code.to_owned(), name: code.to_owned(), ..Project::blank() };
        Command::Edit { changes: vec![Change::Project(Edit::new(made))] }
    };
    let submit = async |keeper: &Keeper, code: &str, once: &Once| {
        keeper.submit_once("ada@x.test", project(code), support::today(), Some(once.clone())).await
    };
    // Two at once, by two servers: one does it.
    let (one, two) = tokio::join!(submit(&here, "one", &once), submit(&there, "two", &once));
    let (done, refused) = if one.is_ok() { (one, two) } else { (two, one) };
    assert!(matches!(refused, Err(Error::DoneBefore)), "{refused:?}");
    assert_eq!(database.query("SELECT count(*) FROM project"), "1");
    assert_eq!(idempotency::look(db, &once).await.unwrap(), Known::Done(done.unwrap().revision));
    assert_eq!(idempotency::look(db, &Once::new(ada.id, "key", "POST b")).await.unwrap(), Known::Other);
    assert_eq!(idempotency::look(db, &Once::new(mira.id, "key", "POST a")).await.unwrap(), Known::New);
    // What the rules refuse uses no key up.
    let again = Once::new(ada.id, "second", "POST a");
    assert!(matches!(submit(&here, "", &again).await, Err(Error::Refused(_))));
    assert_eq!(idempotency::look(db, &again).await.unwrap(), Known::New);
    database.query("UPDATE kept_answer SET at = now() - interval '25 hours'");
    assert_eq!(idempotency::look(db, &once).await.unwrap(), Known::New);
    submit(&here, "three", &once).await.unwrap();
    database.query("UPDATE kept_answer SET at = now() - interval '25 hours'");
    idempotency::sweep(db).await.unwrap();
    assert_eq!(database.query("SELECT count(*) FROM kept_answer"), "0");
}

#[tokio::test]
async fn files_wait_for_their_owner_and_not_for_long() {
    let database = Database::new();
    let db = database.open().await;
    let (ada, mira) =
        (account(&db, "ada@x.test", Role::Manager).await, account(&db, "mira@x.test", Role::Manager).await);
    let files = vec![("people.csv".to_owned(), b"email,name\n".to_vec()), ("b.csv".to_owned(), vec![0, 255])];
    let id = uploads::keep(&db, ada.id, &files).await.unwrap();
    assert_eq!(uploads::waiting(&db, ada.id, &id).await.unwrap(), Some(files.clone()));
    assert_eq!(uploads::waiting(&db, mira.id, &id).await.unwrap(), None);
    assert_eq!(uploads::waiting(&db, ada.id, "guess").await.unwrap(), None);
    database.query("UPDATE upload SET at = now() - interval '2 hours'");
    let newer = uploads::keep(&db, ada.id, &files).await.unwrap();
    assert_eq!(uploads::waiting(&db, ada.id, &id).await.unwrap(), None, "it has waited too long");
    uploads::forget(&db, &newer).await.unwrap();
    assert_eq!(database.query("SELECT count(*) FROM upload_file"), "0");
    // Three of one account wait, the newest; and no more in all than the disk can bear.
    let mut ids = Vec::new();
    for _ in 0..5 {
        ids.push(uploads::keep(&db, ada.id, &files).await.unwrap());
    }
    assert_eq!(uploads::waiting(&db, ada.id, &ids[1]).await.unwrap(), None);
    assert!(uploads::waiting(&db, ada.id, &ids[2]).await.unwrap().is_some());
    database.query("UPDATE upload_file SET bytes = convert_to(repeat('x', 256 << 20), 'UTF8') WHERE position = 0");
    database
        .query("INSERT INTO upload_file SELECT upload_id, 9, name, bytes FROM upload_file WHERE position = 0 LIMIT 1");
    let refused = uploads::keep(&db, mira.id, &files).await;
    assert!(matches!(refused, Err(Error::TooMuchWaits)), "{refused:?}");
}
