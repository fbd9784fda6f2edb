//! Pages and API: requests become commands of the core, figures of the core become pages.

mod answer;
mod api;
mod assets;
mod auth;
mod bookings;
mod calendars;
mod columns;
mod doors;
mod drafts;
mod effects;
mod error;
mod events;
mod files;
mod finder;
mod fit;
mod frame;
mod grid;
mod health;
mod help;
mod hours;
mod kept;
mod looks;
mod mail;
mod markdown;
mod me;
mod offers;
mod readable;
mod records;
mod schedule;
mod sessions;
mod setup;
mod sign_in;
mod start;
mod styleguide;
mod task;
mod two_step;
mod unpacking;
mod words;

pub use calendars::keep_fresh;
pub use error::Error;
pub use files::Shelf;
pub use ipnet::IpNet;
pub use lettre::message::Mailbox;
pub use mail::Post;

use crate::drafts::Here;
use axum::{
    Router,
    extract::{DefaultBodyLimit, FromRef, MatchedPath, Request},
    http::{HeaderName, HeaderValue, StatusCode, header},
    middleware::{Next, from_fn, from_fn_with_state},
    response::{IntoResponse as _, Response},
    routing::get,
};
use chrono::Utc;
use snug_core::{Day, Plan};
use snug_store::{DatabaseConnection, Keeper, Seal};
use std::{sync::Arc, time::Duration};
use tokio_util::{sync::CancellationToken, task::TaskTracker};
use tower_http::{
    catch_panic::CatchPanicLayer, compression::CompressionLayer, csrf::CsrfLayer, set_header::SetResponseHeaderLayer,
    timeout::TimeoutLayer, trace::TraceLayer,
};
use tower_sessions::{Expiry, SessionManagerLayer, cookie::SameSite, cookie::time::Duration as CookieDuration};

/// What every handler can ask for.
#[derive(Clone, FromRef)]
pub struct AppState {
    /// The plan and its database: the live plan, or the draft that is worked in.
    pub keeper: Arc<Keeper>,
    /// The live plan, where a draft is worked in.
    #[from_ref(skip)]
    live: Option<Arc<Keeper>>,
    /// How the server was started.
    pub options: Arc<Options>,
    /// Counts attempts to come in.
    limits: Arc<doors::Limits>,
    /// What rooms computed for the plan as it stands.
    kept: Arc<kept::Kept>,
    /// Who unfolds files.
    unpacking: Arc<unpacking::Unpacking>,
    /// Imports under way.
    jobs: TaskTracker,
}

impl FromRef<AppState> for DatabaseConnection {
    fn from_ref(state: &AppState) -> Self {
        state.keeper.db().clone()
    }
}

/// How the server is started.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// Cookies go over HTTPS only; so they do unless the server listens on loopback alone.
    pub secure_cookies: bool,
    /// Browsers are told to come over HTTPS only from now on.
    pub strict_https: bool,
    /// The proxies in front, which are believed where a request comes from.
    pub proxies: Vec<IpNet>,
    /// From whom letters come; from nobody unless it is said.
    pub sender: Option<Mailbox>,
    /// Seals the secrets of authenticators.
    pub seal: Seal,
    /// Told when the server stops: streams end then.
    pub stopping: CancellationToken,
    /// The day that counts as today, for demonstrations and tests; else the civil day of the workspace's time zone.
    pub today: Option<Day>,
    /// Where mail goes; without it nobody can be invited by mail.
    pub post: Option<Post>,
    /// Where what is in files lies; in memory unless it is said.
    pub files: Shelf,
    /// The address under which people reach the server, for links in letters.
    pub base: String,
    /// Calendars may be read from inside this server's own network, too.
    pub inner_feeds: bool,
    /// Addresses that may sign in to the demo, shown on its sign-in page with the password.
    pub demo: Option<Demo>,
}

/// What the sign-in page of the demo tells.
#[derive(Clone, Debug)]
pub struct Demo {
    /// Each with what they may do.
    pub addresses: Vec<(String, String)>,
    /// The one password of all.
    pub password: String,
}

impl AppState {
    /// Everything a server needs on top of its keeper.
    pub fn new(keeper: Arc<Keeper>, options: Options) -> Self {
        Self {
            keeper,
            live: None,
            options: Arc::new(options),
            limits: Arc::default(),
            kept: Arc::default(),
            unpacking: Arc::default(),
            jobs: TaskTracker::new(),
        }
    }

    /// Waits until imports under way have stopped; they do as the server stops.
    pub async fn finish(&self) {
        self.jobs.close();
        self.jobs.wait().await;
    }

    /// The civil day it is in the workspace.
    pub fn today(&self) -> Day {
        self.options.today.unwrap_or_else(|| Day::from_date(Utc::now().with_timezone(&self.zone()).date_naive()))
    }

    /// The live plan as it stands, where a draft is worked in: what is otherwise there is drawn beside the draft.
    fn live_plan(&self) -> Option<Arc<Plan>> {
        self.live.as_ref().map(|live| live.plan())
    }

    /// The workspace's time zone.
    pub fn zone(&self) -> chrono_tz::Tz {
        self.keeper.plan().settings.time_zone.parse().unwrap_or(chrono_tz::UTC)
    }

    /// Mails a letter behind the answer, which does not wait for the mail server. Without one nothing is sent.
    fn mail_later(&self, letter: mail::Letter) {
        let (state, to) = (self.clone(), letter.to.clone());
        tokio::spawn(async move {
            if let Err(error) = state.mail(letter).await {
                tracing::warn!(error = &error as &dyn std::error::Error, to, "a letter was not mailed");
            }
        });
    }

    /// Mails a letter.
    async fn mail(&self, letter: mail::Letter) -> Result<(), Error> {
        self.mail_with(letter, None).await
    }

    /// Mails a letter, with a file or without.
    async fn mail_with(&self, letter: mail::Letter, enclosed: Option<mail::Enclosure>) -> Result<(), Error> {
        let Some(post) = &self.options.post else { return Ok(()) };
        post.send(self.options.sender.as_ref(), letter, enclosed).await
    }

    /// The address under which people reach the server, without a slash at its end.
    pub fn base(&self) -> &str {
        self.options.base.trim_end_matches('/')
    }
}

/// Works something out on a thread of its own, so that other requests go on meanwhile.
async fn worked_out<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, Error> {
    let done = tokio::task::spawn_blocking(work).await;
    Ok(done.map_err(|error| snug_store::Error::Damaged(error.to_string()))?)
}

/// Makes a page in the same way.
async fn computed(
    work: impl FnOnce() -> askama::Result<String> + Send + 'static,
) -> Result<axum::response::Html<String>, Error> {
    Ok(axum::response::Html(worked_out(work).await??))
}

/// Nothing but our own files; no inline scripts, no inline styles.
const CONTENT_POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; \
     font-src 'self'; connect-src 'self'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'";

/// Says on which plan, or a later one, a page was made, so that a script can tell an old answer from a new one.
async fn tell_revision(Here(state): Here, request: Request, next: Next) -> Response {
    let revision = state.keeper.plan().revision;
    let mut response = next.run(request).await;
    response.headers_mut().insert("snug-revision", revision.into());
    response
}

/// What is answered where a handler panicked; what happened is in the log already.
fn fallen(_: Box<dyn std::any::Any + Send>) -> Response {
    Error::from(snug_store::Error::Damaged("a handler panicked".to_owned())).into_response()
}

/// A request as logs name it: by its route, as some addresses hold a key.
fn named(request: &Request) -> tracing::Span {
    let route = request.extensions().get::<MatchedPath>().map_or("none", MatchedPath::as_str);
    tracing::debug_span!("request", method = %request.method(), route)
}

/// All routes.
pub fn router(state: AppState) -> Router {
    let sessions = SessionManagerLayer::new(sessions::PgSessions::of(state.keeper.db()))
        .with_name(if state.options.secure_cookies { "__Host-snug_session" } else { "snug_session" })
        .with_secure(state.options.secure_cookies)
        .with_same_site(SameSite::Lax)
        .with_expiry(Expiry::OnInactivity(CookieDuration::days(14)));
    let pages = Router::new()
        .route("/", get(async || axum::response::Redirect::to("/fit")))
        .merge(sign_in::routes())
        .merge(fit::routes())
        .merge(looks::routes())
        .merge(schedule::routes())
        .merge(bookings::routes())
        .merge(records::routes())
        .merge(hours::routes())
        .merge(setup::routes())
        .merge(files::routes())
        .merge(calendars::routes())
        .merge(me::routes())
        .merge(start::routes())
        .merge(drafts::routes())
        .merge(finder::routes())
        .merge(help::routes())
        .merge(styleguide::routes())
        .route("/events", get(events::stream))
        .layer(from_fn_with_state(state.clone(), tell_revision))
        .fallback(async || Error::NotFound)
        .method_not_allowed_fallback(async || StatusCode::METHOD_NOT_ALLOWED)
        .layer(sessions)
        .layer(CsrfLayer::new());
    let header = |name: HeaderName, value: &'static str| {
        SetResponseHeaderLayer::if_not_present(name, HeaderValue::from_static(value))
    };
    let strict = state.options.strict_https.then(|| HeaderValue::from_static("max-age=31536000"));
    Router::new()
        .merge(api::routes().method_not_allowed_fallback(api::wrong_method))
        .merge(health::routes())
        .merge(calendars::open_routes())
        .route("/assets/{*path}", get(assets::serve))
        .merge(pages)
        .layer(from_fn(readable::check))
        .layer(DefaultBodyLimit::max(readable::LARGEST_FORM))
        .layer(TimeoutLayer::with_status_code(StatusCode::SERVICE_UNAVAILABLE, Duration::from_secs(20)))
        .layer(CompressionLayer::new())
        .layer(header(header::CONTENT_SECURITY_POLICY, CONTENT_POLICY))
        .layer(header(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .layer(header(header::REFERRER_POLICY, "same-origin"))
        .layer(header(HeaderName::from_static("cross-origin-opener-policy"), "same-origin"))
        .layer(header(header::CACHE_CONTROL, "no-store"))
        .layer(SetResponseHeaderLayer::if_not_present(header::STRICT_TRANSPORT_SECURITY, move |_: &Response| {
            strict.clone()
        }))
        // The last net: what nobody has foreseen is told like any other failure, and the server goes on.
        .layer(CatchPanicLayer::custom(fallen))
        .layer(TraceLayer::new_for_http().make_span_with(named))
        .with_state(state)
}
