//! The keeper holds the plan in memory, takes commands, and follows what other servers write.

mod reading;

use crate::{
    Error, Watch,
    accounts::Account,
    drafts::{self, Draft},
    follow,
    founding::{self, Founder},
    idempotency::Once,
    ledger::{self, Ledger, Made},
    opened::Opened,
    snapshot,
};
use arc_swap::ArcSwap;
use sea_orm::{
    ConnectionTrait as _, DatabaseConnection, DatabaseTransaction, DbBackend, Statement, TransactionTrait as _,
};
use snug_core::{Command, Day, Plan, change::Change, effect::only_rows_of, settings::Settings, trail};
use std::{
    sync::{
        Arc, PoisonError,
        atomic::{AtomicBool, AtomicU64, Ordering},
    },
    time::Instant,
};
use tokio::sync::{Mutex, broadcast};

/// How often a command is decided again when other writers were first.
const MOST_TRIES: usize = 10;
/// How often of these the writers of other servers may be first. After that they wait: a server that decides a little slower than
/// another one would never get through while that one writes.
const FREE_TRIES: usize = 4;
/// Above this many changes pages are told to read everything again.
const MOST_TOLD: usize = 200;

/// Something new in the plan.
#[derive(Clone, Debug)]
pub enum News {
    /// An entry of the ledger.
    Entry(Event),
    /// Entries that were told are gone: the database lost them. Everything is to be read again, as of this revision.
    StartedOver(i64),
}

/// An entry of the ledger, as it is told.
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

/// The live plan, or a draft, in memory, in front of its database.
pub struct Keeper {
    db: DatabaseConnection,
    /// The draft that it keeps, as it was known last; `None` for the live plan.
    draft: Option<ArcSwap<Draft>>,
    /// The drafts that are in memory beside the live plan.
    opened: Opened,
    plan: ArcSwap<Plan>,
    /// The mark of the plan's last entry. Read and set by whoever is writing.
    line: std::sync::Mutex<String>,
    /// When the plan was last held against the ledger, in seconds of the keeper's life.
    checked: AtomicU64,
    begun: Instant,
    /// One writer a server at a time; between servers the revision decides.
    writing: Mutex<()>,
    events: broadcast::Sender<Arc<News>>,
    pub(crate) presence: broadcast::Sender<Arc<str>>,
    pub(crate) ended: broadcast::Sender<Arc<str>>,
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
        let (plan, line) = plan.unwrap_or_else(|| (Plan::empty(), String::new()));
        let ended = broadcast::channel(1_024).0;
        let keeper = Arc::new(Self { founded, ..Self::of(db, None, (plan, line), ended) });
        tokio::spawn(follow::follow(Arc::downgrade(&keeper)));
        Ok(keeper)
    }

    /// Puts a draft into memory beside the live plan that this one keeps; `None` where there is no such draft.
    async fn beside(&self, id: i32) -> Result<Option<Arc<Self>>, Error> {
        // A draft may have been made by another server on entries that this one has not read yet.
        self.catch_up().await?;
        let Some(draft) = drafts::one(&self.db, id).await? else { return Ok(None) };
        let plan = drafts::plan_of(&self.db, self.plan(), &draft).await?;
        let line = ledger::standing(&self.db, id, plan.revision).await?.map(|it| it.line).unwrap_or_default();
        let draft = Some(ArcSwap::from_pointee(draft));
        // Sessions end whatever they look at.
        Ok(Some(Arc::new(Self::of(self.db.clone(), draft, (plan, line), self.ended.clone()))))
    }

    /// A plan in memory, with the mark of its last entry. Who looks at which row is told about the live plan alone.
    fn of(
        db: DatabaseConnection,
        draft: Option<ArcSwap<Draft>>,
        (plan, line): (Plan, String),
        ended: broadcast::Sender<Arc<str>>,
    ) -> Self {
        Self {
            db,
            draft,
            opened: Opened::default(),
            plan: ArcSwap::from_pointee(plan),
            line: std::sync::Mutex::new(line),
            checked: AtomicU64::new(0),
            begun: Instant::now(),
            writing: Mutex::new(()),
            events: broadcast::channel(1_024).0,
            presence: broadcast::channel(256).0,
            ended,
            founded: AtomicBool::new(true),
        }
    }

    /// The keeper of a draft, which is put into memory where it is not there yet; `None` where there is no such draft.
    ///
    /// # Errors
    /// The database does not answer, or a row of it cannot be read.
    pub async fn of_draft(&self, id: i32) -> Result<Option<Arc<Self>>, Error> {
        self.opened.get(id, async || self.beside(id).await).await
    }

    /// The draft that it keeps; `None` for the live plan.
    pub fn draft(&self) -> Option<Arc<Draft>> {
        self.draft.as_ref().map(ArcSwap::load_full)
    }

    /// Notes, once a day, that somebody looks at the draft that it keeps.
    ///
    /// # Errors
    /// The database does not answer.
    pub async fn looked_at(&self, today: Day) -> Result<(), Error> {
        let Some(known) = &self.draft else { return Ok(()) };
        let draft = known.load_full();
        if draft.looked_on < today {
            drafts::looked(&self.db, draft.id, today).await?;
            known.store(Arc::new(Draft { looked_on: today, ..(*draft).clone() }));
        }
        Ok(())
    }

    /// The draft's number; 0 for the live plan.
    fn number(&self) -> i32 {
        self.draft().map_or(0, |draft| draft.id)
    }

    /// Its entries of the ledger.
    pub fn ledger(&self) -> Ledger<'_> {
        Ledger::of(&self.db, self.number())
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
    pub fn events(&self) -> broadcast::Receiver<Arc<News>> {
        self.events.subscribe()
    }

    /// Who looks at what, as it is told from now on.
    pub fn presence(&self) -> broadcast::Receiver<Arc<str>> {
        self.presence.subscribe()
    }

    /// The hashes of sessions that end from now on, on whatever server.
    pub fn ended_sessions(&self) -> broadcast::Receiver<Arc<str>> {
        self.ended.subscribe()
    }

    /// Tells every server who looks at what; of a draft nobody. It is told and forgotten: nothing is kept.
    ///
    /// # Errors
    /// The database does not answer.
    pub async fn tell_presence(&self, text: &str) -> Result<(), Error> {
        if self.draft.is_some() {
            return Ok(());
        }
        let values = [follow::PRESENCE.into(), text.into()];
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
        if !founding::put_workspace(&self.db, settings).await? {
            return Err(Error::WorkspaceExists);
        }
        self.reload().await
    }

    /// Makes the workspace, unless it stands, and its administrator, for whoever holds a key of the first start; `None` where the
    /// key opens nothing.
    ///
    /// # Errors
    /// The password cannot be hashed, or the database does not answer; nothing was made.
    pub async fn found_by(&self, key: &str, settings: Settings, founder: Founder) -> Result<Option<Account>, Error> {
        let made = founding::found(&self.db, key, settings, founder).await?;
        if made.is_some() {
            let _writing = self.writing.lock().await;
            self.reload().await?;
        }
        Ok(made)
    }

    async fn reload(&self) -> Result<(), Error> {
        if self.draft.is_some() {
            // A draft whose entries are lost is put together anew when somebody opens it again.
            return Ok(());
        }
        if let Some((mut plan, line)) = snapshot::load(&self.db).await? {
            plan.reading = self.plan().reading + 1;
            self.put(Arc::new(plan), line);
            self.founded.store(true, Ordering::Release);
        }
        Ok(())
    }

    /// Shows a plan, with the mark of its last entry.
    fn put(&self, plan: Arc<Plan>, line: String) {
        *self.line.lock().unwrap_or_else(PoisonError::into_inner) = line;
        self.plan.store(plan);
    }

    fn line(&self) -> String {
        self.line.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Carries a command out: decide, write with the ledger, show. Where another writer was first, the plan is brought up to
    /// date and the command decided again.
    ///
    /// # Errors
    /// The rules refuse it, others wrote all the time, or the database does not answer; nothing was written.
    pub async fn submit(&self, actor: &str, command: Command, today: Day) -> Result<Outcome, Error> {
        self.submit_once(actor, command, today, None).await
    }

    /// The same for a request that is to be done once.
    ///
    /// # Errors
    /// Also, it was done already.
    pub async fn submit_once(
        &self,
        actor: &str,
        command: Command,
        today: Day,
        once: Option<Once>,
    ) -> Result<Outcome, Error> {
        let order = Order { actor, command: Arc::new(command), today, once };
        let _writing = self.writing.lock().await;
        for tried in 0..MOST_TRIES {
            let txn = if tried < FREE_TRIES { None } else { Some(self.take_turn().await?) };
            let decided = self.decide(&order).await?;
            if let Some(outcome) = self.write(&order, decided, txn, &Watch::default()).await? {
                return Ok(outcome);
            }
            self.read_on().await?;
        }
        Err(Error::Busy)
    }

    /// The same for what takes long: others go on writing while it is decided, and whoever watches sees how far it is and can stop
    /// it.
    ///
    /// # Errors
    /// Also, it was stopped.
    pub async fn submit_watched(
        &self,
        actor: &str,
        command: Command,
        today: Day,
        watch: &Watch,
    ) -> Result<Outcome, Error> {
        /// How often it is decided beside others; after that they wait.
        const BESIDE_OTHERS: usize = 3;
        let order = Order { actor, command: Arc::new(command), today, once: None };
        let work = async {
            for tried in 0..MOST_TRIES {
                watch.begin("Comparing with the plan", 0);
                let (mut writing, mut txn) = (None, None);
                if tried >= BESIDE_OTHERS {
                    writing = Some(self.writing.lock().await);
                    txn = Some(self.take_turn().await?);
                }
                let decided = self.decide(&order).await?;
                let _writing = match writing {
                    Some(writing) => writing,
                    None => self.writing.lock().await,
                };
                if self.plan().revision == decided.before.revision
                    && let Some(outcome) = self.write(&order, decided, txn, watch).await?
                {
                    return Ok(outcome);
                }
                self.read_on().await?;
            }
            Err(Error::Busy)
        };
        tokio::select! {
            done = work => done,
            // What was written is not committed, and goes.
            () = watch.stopped() => Err(Error::Stopped),
        }
    }

    /// Lets nobody on other servers write before the transaction ends, and reads what they have written so far.
    async fn take_turn(&self) -> Result<DatabaseTransaction, Error> {
        let txn = self.db.begin().await?;
        ledger::hold(&txn, self.number()).await?;
        self.read_on().await?;
        Ok(txn)
    }

    /// Decides a command on the plan as it stands, on a thread of its own: an import of many rows takes a while.
    async fn decide(&self, order: &Order<'_>) -> Result<Decided, Error> {
        let before = self.plan();
        // Texts are not in the plan; those that the command speaks of are read for the decision.
        let texts = self.texts_for(&order.command).await?;
        let (plan, command, today) = (Arc::clone(&before), Arc::clone(&order.command), order.today);
        let decision = tokio::task::spawn_blocking(move || {
            let changes = plan.decide_with(&command, today, &texts)?;
            let (after, trails) = after(&plan, &changes, today);
            Ok::<_, Error>((changes, after, trails))
        });
        let (changes, after, trails) = decision.await.map_err(|error| Error::Damaged(error.to_string()))??;
        Ok(Decided { before, changes, after, trails })
    }

    /// Writes what was decided, with the ledger, and shows it; `None` where another writer was first. `turn` is the transaction that
    /// keeps others out, where one does.
    async fn write(
        &self,
        order: &Order<'_>,
        decided: Decided,
        turn: Option<DatabaseTransaction>,
        watch: &Watch,
    ) -> Result<Option<Outcome>, Error> {
        let Decided { before, changes, mut after, trails } = decided;
        if changes.is_empty() {
            return Ok(Some(Outcome { revision: before.revision, after: Arc::clone(&before), before, changes }));
        }
        let title = order.command.done(&before);
        let once = order.once.as_ref();
        let made = Made { title: &title, changes: &changes, trails: &trails, day: order.today, once, watch };
        let at = (&*before, &*self.line());
        let txn = match turn {
            Some(txn) => txn,
            None => self.db.begin().await?,
        };
        let written = ledger::append(txn, at, order.actor, &order.command, &made).await?;
        let Some((revision, line)) = written else { return Ok(None) };
        after.revision = revision;
        let after = Arc::new(after);
        self.put(Arc::clone(&after), line);
        self.tell(revision, order.actor, &title, &changes);
        Ok(Some(Outcome { revision, before, after, changes }))
    }

    fn tell(&self, revision: i64, actor: &str, title: &str, changes: &[Change]) {
        let people = only_rows_of(changes).filter(|_| changes.len() <= MOST_TOLD);
        let people = people.map(|people| people.into_iter().map(|person| person.0).collect());
        // Nobody listening is no failure.
        let event = Event { revision, actor: actor.to_owned(), title: title.to_owned(), people };
        let _ = self.events.send(Arc::new(News::Entry(event)));
    }
}

/// A command, and who gives it when.
struct Order<'a> {
    actor: &'a str,
    command: Arc<Command>,
    today: Day,
    once: Option<Once>,
}

/// What a command comes to on a plan.
struct Decided {
    before: Arc<Plan>,
    changes: Vec<Change>,
    after: Plan,
    trails: Vec<Change>,
}

/// The plan after changes made on a day, and what follows of them for the trails of tasks. A draft leaves no trail.
fn after(plan: &Plan, changes: &[Change], day: Day) -> (Plan, Vec<Change>) {
    let after = plan.with(changes);
    if plan.draft != 0 {
        return (after, Vec::new());
    }
    let trails = trail::edits(&after, changes, day);
    (after.with(&trails), trails)
}
