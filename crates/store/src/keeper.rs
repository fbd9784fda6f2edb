//! The keeper holds the plan in memory, takes commands, and follows what other servers write.

use crate::{
    Error,
    entity::{json::Settings as StoredSettings, workspace},
    ledger::{self, Made},
    snapshot, texts,
};
use arc_swap::ArcSwap;
use sea_orm::{
    ActiveValue::Set, ConnectionTrait as _, DatabaseConnection, DbBackend, EntityTrait, Statement,
    sqlx::postgres::PgListener,
};
use snug_core::{Command, Day, Plan, change::Change, effect::only_rows_of, settings::Settings, trail};
use std::{
    sync::{
        Arc,
        atomic::{AtomicBool, Ordering},
    },
    time::Duration,
};
use tokio::sync::{Mutex, broadcast};

/// How often a command is decided again when other writers were first.
const MOST_TRIES: usize = 50;
/// Above this many changes pages are told to read everything again.
const MOST_TOLD: usize = 200;

/// The channel on which servers tell each other who looks at what.
const PRESENCE: &str = "presence";

/// Something new in the plan.
#[derive(Clone, Debug)]
pub struct Event {
    /// The entry's number.
    pub revision: i64,
    /// Who made it.
    pub actor: String,
    /// What was done.
    pub title: String,
    /// The people whose bookings it touches; `None` when everything may have changed.
    pub people: Option<Vec<i32>>,
}

/// What became of a command.
#[derive(Debug)]
pub struct Outcome {
    /// The entry's number; the current one when nothing changed.
    pub revision: i64,
    /// The plan before.
    pub before: Arc<Plan>,
    /// The plan after.
    pub after: Arc<Plan>,
    /// What changed; nothing, when the plan said so already.
    pub changes: Vec<Change>,
}

/// The plan in memory, in front of its database.
pub struct Keeper {
    db: DatabaseConnection,
    plan: ArcSwap<Plan>,
    /// One writer a server at a time; between servers the revision decides.
    writing: Mutex<()>,
    events: broadcast::Sender<Arc<Event>>,
    presence: broadcast::Sender<Arc<str>>,
    founded: AtomicBool,
}

impl Keeper {
    /// Loads the plan and follows the ledger from then on.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn start(db: DatabaseConnection) -> Result<Arc<Self>, Error> {
        let plan = snapshot::load(&db).await?;
        let founded = AtomicBool::new(plan.is_some());
        let keeper = Arc::new(Self {
            db,
            plan: ArcSwap::from_pointee(plan.unwrap_or_else(Plan::empty)),
            writing: Mutex::new(()),
            events: broadcast::channel(1_024).0,
            presence: broadcast::channel(256).0,
            founded,
        });
        tokio::spawn(follow(Arc::downgrade(&keeper)));
        Ok(keeper)
    }

    /// The plan as it stands.
    pub fn plan(&self) -> Arc<Plan> {
        self.plan.load_full()
    }

    /// The database behind it.
    pub fn db(&self) -> &DatabaseConnection {
        &self.db
    }

    /// Whether there is a workspace at all.
    pub fn is_founded(&self) -> bool {
        self.founded.load(Ordering::Acquire)
    }

    /// News of the plan from now on.
    pub fn events(&self) -> broadcast::Receiver<Arc<Event>> {
        self.events.subscribe()
    }

    /// Who looks at what, as it is told from now on.
    pub fn presence(&self) -> broadcast::Receiver<Arc<str>> {
        self.presence.subscribe()
    }

    /// Tells every server who looks at what. It is told and forgotten: nothing is kept.
    ///
    /// # Errors
    /// The database does not answer.
    pub async fn tell_presence(&self, text: &str) -> Result<(), Error> {
        let values = [PRESENCE.into(), text.into()];
        let notify = Statement::from_sql_and_values(DbBackend::Postgres, "SELECT pg_notify($1, $2)", values);
        self.db.execute_raw(notify).await?;
        Ok(())
    }

    /// Makes the workspace; refused when there is one.
    ///
    /// # Errors
    /// There is a workspace already, or the database does not answer.
    pub async fn found(&self, settings: Settings) -> Result<(), Error> {
        let _writing = self.writing.lock().await;
        let row = workspace::ActiveModel {
            id: Set(1),
            settings: Set(StoredSettings(settings)),
            revision: Set(0),
            next_id: Set(1),
        };
        workspace::Entity::insert(row).exec_without_returning(&self.db).await.map_err(|error| {
            match error.sql_err() {
                Some(sea_orm::SqlErr::UniqueConstraintViolation(_)) => Error::WorkspaceExists,
                _ => Error::Db(error),
            }
        })?;
        self.reload().await
    }

    async fn reload(&self) -> Result<(), Error> {
        if let Some(plan) = snapshot::load(&self.db).await? {
            self.plan.store(Arc::new(plan));
            self.founded.store(true, Ordering::Release);
        }
        Ok(())
    }

    /// Carries a command out: decide, write with the ledger, show. Where another writer was first, the plan is brought up to
    /// date and the command decided again.
    ///
    /// # Errors
    /// The rules refuse it, others wrote all the time, or the database does not answer; nothing was written.
    pub async fn submit(&self, actor: &str, command: Command, today: Day) -> Result<Outcome, Error> {
        let _writing = self.writing.lock().await;
        let command = Arc::new(command);
        for _ in 0..MOST_TRIES {
            let before = self.plan();
            let (plan, decided) = (Arc::clone(&before), Arc::clone(&command));
            // An import of many rows takes a while to decide; other requests go on meanwhile.
            // Texts are not in the plan; those that the command speaks of are read for the decision.
            let texts = texts::standing(&self.db, &command).await?;
            let decision = tokio::task::spawn_blocking(move || {
                let changes = plan.decide_with(&decided, today, &texts)?;
                let (after, trails) = with_trails(&plan, &changes, today);
                Ok::<_, Error>((changes, after, trails))
            });
            let decision = decision.await.map_err(|error| Error::Damaged(error.to_string()))?;
            let (changes, mut after, trails) = decision?;
            if changes.is_empty() {
                return Ok(Outcome { revision: before.revision, after: Arc::clone(&before), before, changes });
            }
            let title = command.done(&before);
            let made = Made { title: &title, changes: &changes, trails: &trails, day: today };
            if let Some(revision) = ledger::append(&self.db, &before, actor, &command, &made).await? {
                after.revision = revision;
                let after = Arc::new(after);
                self.plan.store(Arc::clone(&after));
                self.tell(revision, actor, &title, &changes);
                return Ok(Outcome { revision, before, after, changes });
            }
            self.read_new_entries().await?;
        }
        Err(Error::Busy)
    }

    /// Reads what others have written since.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn catch_up(&self) -> Result<(), Error> {
        let _writing = self.writing.lock().await;
        if !self.is_founded() {
            return self.reload().await;
        }
        self.read_new_entries().await
    }

    async fn read_new_entries(&self) -> Result<(), Error> {
        for entry in ledger::since(&self.db, self.plan().revision).await? {
            let changes = ledger::changes_of(&self.db, entry.revision).await?;
            let (mut plan, _) = with_trails(&self.plan(), &changes, Day::from_date(entry.day));
            plan.revision = entry.revision;
            self.plan.store(Arc::new(plan));
            self.tell(entry.revision, &entry.actor, &entry.title, &changes);
        }
        Ok(())
    }

    fn tell(&self, revision: i64, actor: &str, title: &str, changes: &[Change]) {
        let people = only_rows_of(changes).filter(|_| changes.len() <= MOST_TOLD);
        let people = people.map(|people| people.into_iter().map(|person| person.0).collect());
        // Nobody listening is no failure.
        let _ =
            self.events.send(Arc::new(Event { revision, actor: actor.to_owned(), title: title.to_owned(), people }));
    }
}

/// The plan after changes made on a day, and what follows of them for the trails of tasks.
fn with_trails(plan: &Plan, changes: &[Change], day: Day) -> (Plan, Vec<Change>) {
    let after = plan.with(changes);
    let trails = trail::edits(&after, changes, day);
    (after.with(&trails), trails)
}

/// Listens for other servers' entries for as long as the keeper lives; a lost connection is made anew, and what was missed
/// meanwhile is read from the ledger.
async fn follow(keeper: std::sync::Weak<Keeper>) {
    loop {
        let Some(strong) = keeper.upgrade() else { return };
        let pool = strong.db.get_postgres_connection_pool().clone();
        drop(strong);
        if let Err(error) = listen(&keeper, &pool).await {
            tracing::warn!(%error, "the database does not answer; trying again");
        }
        tokio::time::sleep(Duration::from_secs(1)).await;
    }
}

async fn listen(keeper: &std::sync::Weak<Keeper>, pool: &sea_orm::sqlx::PgPool) -> Result<(), Error> {
    let mut listener = PgListener::connect_with(pool).await?;
    listener.listen_all([ledger::CHANNEL, PRESENCE]).await?;
    // At the start, too: something may have been written before the listener stood.
    let mut behind = true;
    loop {
        let Some(keeper) = keeper.upgrade() else { return Ok(()) };
        if behind {
            keeper.catch_up().await?;
        }
        let presence = keeper.presence.clone();
        drop(keeper);
        // `None` says that the connection was lost and made anew: the ledger is read again in any case.
        behind = match listener.try_recv().await? {
            Some(news) if news.channel() == PRESENCE => {
                // Nobody listening is no failure.
                let _ = presence.send(Arc::from(news.payload()));
                false
            }
            _ => true,
        };
    }
}
