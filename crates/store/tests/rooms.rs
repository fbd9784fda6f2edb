//! What rooms keep besides the plan: saved looks, calendars that are read, secret addresses, who is where.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{PersonId, Role, calendars::Purpose};
use snug_store::{
    DatabaseConnection, Keeper,
    accounts::{self, Account},
    feeds, looks,
};
use support::Database;

async fn account(db: &DatabaseConnection, email: &str) -> Account {
    let role = if email.starts_with("ada") { Role::Administrator } else { Role::Manager };
    accounts::create(db, email, "Somebody", role, "a long password".to_owned()).await.unwrap()
}

async fn names(db: &DatabaseConnection, account: &Account) -> Vec<(String, bool)> {
    let looks = looks::of_room(db, account.id, "fit").await.unwrap();
    looks.into_iter().map(|look| (look.name, look.own)).collect()
}

#[tokio::test]
async fn a_look_is_ones_own_or_shared_and_replaced_by_its_name() {
    let database = Database::new();
    let db = database.open().await;
    let (mira, teo) = (account(&db, "mira@x.test").await, account(&db, "teo@x.test").await);
    let keep = async |who: &Account, name: &str, address: &str, shared: bool| {
        let look = looks::Kept { name, address, shared, mail_weekday: None };
        looks::keep(&db, who.id, "fit", look).await.unwrap();
    };
    keep(&mira, "Teams", "/fit?angle=team", true).await;
    keep(&mira, "Alone", "/fit?q=x", false).await;
    keep(&teo, "Zoom", "/fit?zoom=day", false).await;
    assert_eq!(names(&db, &mira).await, [("Alone".to_owned(), true), ("Teams".to_owned(), true)]);
    assert_eq!(names(&db, &teo).await, [("Zoom".to_owned(), true), ("Teams".to_owned(), false)]);
    keep(&mira, "Teams", "/fit?angle=role", false).await;
    let own = looks::of_room(&db, mira.id, "fit").await.unwrap();
    assert_eq!(own[1].address, "/fit?angle=role", "the same name is the same look");
    assert_eq!(names(&db, &teo).await.len(), 1, "it is shared no longer");
    // Nobody forgets what is another's, unless it is shared and they may.
    assert!(!looks::forget(&db, teo.id, own[0].id, false).await.unwrap());
    assert!(!looks::forget(&db, teo.id, own[0].id, true).await.unwrap());
    assert!(looks::forget(&db, mira.id, own[0].id, false).await.unwrap());
    keep(&mira, "Teams", "/fit?angle=team", true).await;
    let shared = looks::of_room(&db, teo.id, "fit").await.unwrap().pop().unwrap();
    assert!(looks::forget(&db, teo.id, shared.id, true).await.unwrap());
}

#[tokio::test]
async fn a_calendar_that_is_due_is_taken_by_one_server_only() {
    let database = Database::new();
    let keeper = database.with_demo().await;
    let db = keeper.db();
    account(db, "ada@x.test").await; // somebody has to run the workspace when Mira is gone
    let mira = account(db, "mira@x.test").await;
    let teo = keeper.plan().person_by_email("teo@tidewater.test").unwrap().person.id;
    let first = feeds::subscribe(db, mira.id, "Rounds", "https://x.test/a.ics", &Purpose::Meetings(teo)).await.unwrap();
    let holidays = Purpose::Holidays("harbour".into());
    feeds::subscribe(db, mira.id, "Harbour", "https://x.test/b.ics", &holidays).await.unwrap();
    let (here, there) = tokio::join!(feeds::take_due(db), feeds::take_due(db));
    assert_eq!(here.unwrap().len() + there.unwrap().len(), 2, "each is taken once");
    assert!(feeds::take_due(db).await.unwrap().is_empty(), "none is due again within the hour");
    feeds::note(db, first, Err("x.test does not answer in time.")).await.unwrap();
    let feed = feeds::by_id(db, first).await.unwrap().unwrap();
    assert_eq!(
        (feed.problem.as_str(), feed.read, feed.purpose.clone()),
        ("x.test does not answer in time.", None, Purpose::Meetings(teo))
    );
    feeds::note(db, first, Ok((7, ""))).await.unwrap();
    let feed = feeds::by_id(db, first).await.unwrap().unwrap();
    assert!(feed.problem.is_empty() && feed.read.is_some() && feed.changes == 7);
    let listed: Vec<String> = feeds::all(db).await.unwrap().into_iter().map(|feed| feed.name).collect();
    assert_eq!(listed, ["Harbour", "Rounds"]);
    database.query("UPDATE feed SET tried_at = now() - interval '2 hours'");
    assert_eq!(feeds::take_due(db).await.unwrap().len(), 2);
    // What was subscribed to goes with its account, and leaving one that is gone is no failure.
    feeds::leave(db, first).await.unwrap();
    feeds::note(db, first, Ok((1, ""))).await.unwrap();
    accounts::remove(db, mira.id).await.unwrap();
    assert!(feeds::all(db).await.unwrap().is_empty());
}

#[tokio::test]
async fn a_secret_address_is_worth_something_until_there_is_a_new_one() {
    let database = Database::new();
    let keeper = database.with_demo().await;
    let db = keeper.db();
    let oona = keeper.plan().person_by_email("oona@tidewater.test").unwrap().person.id;
    let first = feeds::new_key(db, oona).await.unwrap();
    assert_eq!(feeds::person_of(db, &first).await.unwrap(), Some(oona));
    assert!(!database.query("SELECT hash FROM calendar_key").contains(&first), "only its hash is kept");
    let second = feeds::new_key(db, oona).await.unwrap();
    assert_eq!(feeds::person_of(db, &first).await.unwrap(), None);
    assert_eq!(feeds::person_of(db, &second).await.unwrap(), Some(oona));
    assert_eq!(feeds::person_of(db, "guess").await.unwrap(), None::<PersonId>);
}

#[tokio::test]
async fn who_is_where_is_told_to_every_server_and_kept_by_none() {
    let database = Database::new();
    let here = database.with_demo().await;
    let there = Keeper::start(database.open().await).await.unwrap();
    let (mut at_one, mut at_other) = (here.presence(), there.presence());
    // A listener may not stand yet when the first word is said; what is said is said until it is heard.
    let said = "{\"person\":7,\"name\":\"Mira\",\"tab\":\"a\"}";
    for heard in [&mut at_one, &mut at_other] {
        loop {
            here.tell_presence(said).await.unwrap();
            if let Ok(Ok(text)) = tokio::time::timeout(std::time::Duration::from_millis(200), heard.recv()).await {
                assert_eq!(&*text, said);
                break;
            }
        }
    }
    assert_eq!(database.query("SELECT count(*) FROM ledger"), "1", "it is no change of the plan");
}
