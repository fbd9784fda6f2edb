//! Accounts, keys that are mailed, second steps, tokens, kept answers, files that wait.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::Role;
use snug_store::{
    DatabaseConnection, Error,
    accounts::{self, Account, Scope},
    idempotency::{self, Answered},
    mailed_keys, two_step, uploads,
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
    assert!(two_step::of(&db, ada.id).await.unwrap().is_none());
    let codes = two_step::set_up(&db, ada.id, "SECRET").await.unwrap();
    let step = two_step::of(&db, ada.id).await.unwrap().unwrap();
    assert_eq!((step.secret.as_str(), step.codes_left), ("SECRET", 10));
    assert!(
        codes.iter().all(|code| code.len() == 14 && !database.query("SELECT hash FROM recovery_code").contains(code))
    );
    assert!(two_step::use_code(&db, ada.id, &format!(" {} ", codes[0].to_uppercase())).await.unwrap());
    assert!(!two_step::use_code(&db, ada.id, &codes[0]).await.unwrap());
    assert!(!two_step::use_code(&db, ada.id, "").await.unwrap());
    // A step of time is used once, and none before it any more.
    let uses = [
        two_step::use_step(&db, ada.id, 100).await,
        two_step::use_step(&db, ada.id, 100).await,
        two_step::use_step(&db, ada.id, 99).await,
        two_step::use_step(&db, ada.id, 101).await,
    ];
    assert_eq!(uses.map(Result::unwrap), [true, false, false, true]);
    // Set up anew, old codes are worth nothing.
    let fresh = two_step::set_up(&db, ada.id, "OTHER").await.unwrap();
    assert!(!two_step::use_code(&db, ada.id, &codes[1]).await.unwrap());
    assert!(two_step::use_code(&db, ada.id, &fresh[0]).await.unwrap());
    two_step::take_away(&db, ada.id).await.unwrap();
    assert!(two_step::of(&db, ada.id).await.unwrap().is_none());
    assert_eq!(database.query("SELECT count(*) FROM recovery_code"), "0");
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
async fn answers_are_kept_for_a_day_by_account_and_key() {
    let database = Database::new();
    let db = database.open().await;
    let (ada, mira) =
        (account(&db, "ada@x.test", Role::Manager).await, account(&db, "mira@x.test", Role::Manager).await);
    let body = serde_json::json!({ "id": 7 });
    idempotency::keep(&db, ada.id, "key", "POST a", 201, &body).await.unwrap();
    assert!(
        matches!(idempotency::look(&db, ada.id, "key", "POST a").await.unwrap(), Answered::Same(201, kept) if kept == body)
    );
    assert!(matches!(idempotency::look(&db, ada.id, "key", "POST b").await.unwrap(), Answered::Other));
    assert!(matches!(idempotency::look(&db, mira.id, "key", "POST a").await.unwrap(), Answered::Nothing));
    database.query("UPDATE kept_answer SET at = now() - interval '25 hours'");
    assert!(matches!(idempotency::look(&db, ada.id, "key", "POST a").await.unwrap(), Answered::Nothing));
    // The next one sweeps what is old.
    idempotency::keep(&db, ada.id, "other", "POST a", 201, &body).await.unwrap();
    assert_eq!(database.query("SELECT key FROM kept_answer"), "other");
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
}
