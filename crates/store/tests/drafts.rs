//! Drafts are plans of their own: kept in the ledger under their number, the same on every server, and merged as one entry.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use rand::{Rng as _, SeedableRng as _, rngs::StdRng};
use snug_core::{
    Command, Plan, Role, TaskId, TextId,
    change::{Change, Edit},
    drafts::{merged, net},
    kinds::{Kind, Task},
    text::{Text, TextOn, TextSlot},
};
use snug_store::{
    Keeper, accounts,
    drafts::{self, KEPT_DAYS, Origin},
};
use std::{collections::BTreeMap, sync::Arc};
use support::{Database, edit, give, text_of, today};

const MIRA: &str = "mira@tidewater.test";

async fn account(keeper: &Keeper) -> i32 {
    accounts::create(keeper.db(), MIRA, "Mira Castellan", Role::Manager, "tidewater-2026".into()).await.unwrap().id
}

async fn draft_of(keeper: &Keeper, owner: i32, of: Origin<'_>) -> Arc<Keeper> {
    let id = drafts::make(keeper.db(), owner, ("Two crews", false), of, today()).await.unwrap();
    keeper.of_draft(id).await.unwrap().unwrap()
}

fn task(plan: &Plan, reference: &str) -> Task {
    (*plan.tasks[&TaskId(plan.find(Kind::Task, reference).unwrap())]).clone()
}

async fn retitle(keeper: &Keeper, reference: &str, title: &str) {
    let before = task(&keeper.plan(), reference);
    let after = Task { title: title.to_owned(), ..before.clone() };
    edit(keeper, MIRA, vec![Change::Task(Edit::alter(before, after))]).await;
}

/// A new task like another one.
async fn add(keeper: &Keeper, title: &str) -> TaskId {
    let like = task(&keeper.plan(), "T06");
    let new = Task { id: TaskId(0), reference: String::new(), title: title.to_owned(), ..like };
    let made = edit(keeper, MIRA, vec![Change::Task(Edit::new(new))]).await;
    TaskId(made.changes[0].subject().1)
}

#[tokio::test]
async fn a_draft_changes_itself_alone_and_is_the_same_on_every_server_and_after_a_restart() {
    let database = Database::new();
    let here = database.with_demo().await;
    let owner = account(&here).await;
    let live = text_of(&here.plan());
    let draft = draft_of(&here, owner, Origin::Live(here.plan().revision)).await;
    assert_eq!(text_of(&draft.plan()), live);
    retitle(&draft, "T06", "Tried in the draft").await;
    let new = add(&draft, "Made in the draft").await;
    assert_eq!(text_of(&here.plan()), live, "nobody’s plan changes but its own");
    let (own, all) = (draft.plan(), here.plan());
    let copied =
        own.people.values().zip(all.people.values()).filter(|(own, live)| !Arc::ptr_eq(&own.numbers, &live.numbers));
    assert!(copied.count() <= 2, "who does the tasks that were changed is copied, everybody else is shared");

    // The live plan goes on, and so does the draft, on another server too.
    retitle(&here, "T08", "Changed in the live plan").await;
    let other_new = add(&here, "Made in the live plan").await;
    assert_ne!(new, other_new, "an identity is given once, in whatever plan");
    let there = Keeper::start(database.open().await).await.unwrap();
    let id = draft.draft().unwrap().id;
    let opened = there.of_draft(id).await.unwrap().unwrap();
    assert_eq!(
        text_of(&opened.plan()),
        text_of(&draft.plan()),
        "the live plan as it was, with what was changed on top"
    );
    retitle(&opened, "T06", "Tried there").await;
    here.catch_up_drafts().await.unwrap();
    assert_eq!(text_of(&draft.plan()), text_of(&opened.plan()));

    // Undo walks through the draft's own entries.
    let (undo, _) = draft.ledger().undo_and_redo(MIRA).await.unwrap();
    let revision = undo.unwrap().revision;
    let changes = draft.ledger().changes_of(revision).await.unwrap();
    give(&draft, MIRA, Command::Undo { revision, changes }).await;
    assert_eq!(task(&draft.plan(), "T06").title, "Tried in the draft");
    assert_eq!(here.ledger().since(0).await.unwrap().len(), 3, "the ledger of the live plan has none of it");
}

/// Somebody works in the draft and in the live plan by turns, takes back and does again; each plan is what its own entries make of it.
#[tokio::test]
async fn by_turns_in_a_draft_and_in_the_live_plan_each_keeps_to_itself() {
    let database = Database::new();
    let live = database.with_demo().await;
    let owner = account(&live).await;
    let draft = draft_of(&live, owner, Origin::Live(live.plan().revision)).await;
    let mut chance = StdRng::seed_from_u64(14);
    let names = ["T06", "T07", "T08", "T09"];
    for turn in 0..60 {
        let (here, other) = if chance.random_bool(0.5) { (&draft, &live) } else { (&live, &draft) };
        let untouched = text_of(&other.plan());
        let (undo, redo) = here.ledger().undo_and_redo(MIRA).await.unwrap();
        match (chance.random_range(0..6), undo, redo) {
            (0, Some(entry), _) | (1, _, Some(entry)) => {
                let changes = here.ledger().changes_of(entry.revision).await.unwrap();
                let before = text_of(&here.plan());
                give(here, MIRA, Command::Undo { revision: entry.revision, changes }).await;
                assert_ne!(text_of(&here.plan()), before, "turn {turn}");
            }
            (2, ..) => drop(add(here, &format!("Made in turn {turn}")).await),
            _ => retitle(here, names[chance.random_range(0..names.len())], &format!("Called so in turn {turn}")).await,
        }
        assert_eq!(text_of(&other.plan()), untouched, "turn {turn}");
    }
    // What another server reads from the ledger is what this one has.
    let there = Keeper::start(database.open().await).await.unwrap();
    assert_eq!(text_of(&there.plan()), text_of(&live.plan()));
    let opened = there.of_draft(draft.draft().unwrap().id).await.unwrap().unwrap();
    assert_eq!(text_of(&opened.plan()), text_of(&draft.plan()));
}

#[tokio::test]
async fn a_draft_is_merged_as_one_entry_that_one_undo_takes_back() {
    let database = Database::new();
    let keeper = database.with_demo().await;
    let owner = account(&keeper).await;
    let draft = draft_of(&keeper, owner, Origin::Live(keeper.plan().revision)).await;
    retitle(&draft, "T06", "Tried in the draft").await;
    let new = add(&draft, "Made in the draft").await;
    let text = Text {
        id: TextId(0),
        on: TextOn::Task,
        subject: new.0,
        slot: TextSlot::Description,
        author: MIRA.into(),
        day: today(),
        body: "Why.".into(),
    };
    edit(&draft, MIRA, vec![Change::Text(Edit::new(text))]).await;
    assert_eq!(draft.texts_of(TextOn::Task, new.0).await.unwrap()[0].body, "Why.");
    assert!(keeper.texts_of(TextOn::Task, new.0).await.unwrap().is_empty());
    retitle(&keeper, "T08", "Changed in the live plan").await;
    add(&keeper, "Made in the live plan").await;

    let before = text_of(&keeper.plan());
    let about = drafts::one(keeper.db(), draft.draft().unwrap().id).await.unwrap().unwrap();
    let net = net(drafts::changes_of(keeper.db(), &about).await.unwrap());
    let texts = keeper.texts_changed_by(&net).await.unwrap();
    let changes = merged(&keeper.plan(), &texts, &net, &BTreeMap::new());
    let merged = give(&keeper, MIRA, Command::Merge { name: "Two crews".into(), changes }).await;
    assert_eq!(keeper.plan().tasks[&new].title, "Made in the draft");
    assert_eq!(task(&keeper.plan(), "T06").title, "Tried in the draft");
    assert_eq!(task(&keeper.plan(), "T08").title, "Changed in the live plan");
    assert_eq!(keeper.texts_of(TextOn::Task, new.0).await.unwrap()[0].body, "Why.");
    let undo = Command::Undo { revision: merged.revision, changes: merged.changes };
    give(&keeper, MIRA, undo).await;
    assert_eq!(text_of(&keeper.plan()), before);
}

#[tokio::test]
async fn a_draft_of_a_draft_begins_with_its_changes_and_lives_on_without_it() {
    let database = Database::new();
    let keeper = database.with_demo().await;
    let owner = account(&keeper).await;
    let first = draft_of(&keeper, owner, Origin::Live(keeper.plan().revision)).await;
    retitle(&first, "T06", "Tried in the draft").await;
    let about = drafts::one(keeper.db(), first.draft().unwrap().id).await.unwrap().unwrap();
    let second = draft_of(&keeper, owner, Origin::Draft(&about)).await;
    assert_eq!(text_of(&second.plan()), text_of(&first.plan()));
    assert!(drafts::drop_own(keeper.db(), owner, about.id).await.unwrap());
    keeper.catch_up_drafts().await.unwrap();
    assert!(keeper.of_draft(about.id).await.unwrap().is_none(), "what is dropped is gone");
    let left = format!("SELECT count(*) FROM ledger_change WHERE draft = {}", about.id);
    assert_eq!(database.query(&left), "0");
    retitle(&second, "T08", "Goes on").await;
    assert_eq!(task(&second.plan(), "T06").title, "Tried in the draft");
}

#[tokio::test]
async fn a_draft_is_forgotten_when_nobody_looks_at_it_for_90_days() {
    let database = Database::new();
    let keeper = database.with_demo().await;
    let owner = account(&keeper).await;
    let draft = draft_of(&keeper, owner, Origin::Live(keeper.plan().revision)).await;
    let id = draft.draft().unwrap().id;
    drafts::sweep(keeper.db(), today() + KEPT_DAYS).await.unwrap();
    assert!(drafts::one(keeper.db(), id).await.unwrap().is_some(), "kept on the last day");
    drafts::looked(keeper.db(), id, today() + 1).await.unwrap();
    drafts::sweep(keeper.db(), today() + KEPT_DAYS + 1).await.unwrap();
    assert!(drafts::one(keeper.db(), id).await.unwrap().is_some(), "somebody has looked at it since");
    drafts::sweep(keeper.db(), today() + KEPT_DAYS + 2).await.unwrap();
    assert!(drafts::one(keeper.db(), id).await.unwrap().is_none());
}
