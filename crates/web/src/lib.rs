//! Pages and API: requests become commands of the core, figures of the core become pages.

mod api;
mod assets;
mod auth;
mod bookings;
mod error;
mod events;
mod fit;
mod frame;
mod health;
mod sessions;
mod sign_in;
mod words;

pub use error::Error;

use axum::{
    Router,
    extract::{DefaultBodyLimit, FromRef},
    http::{HeaderName, HeaderValue, StatusCode, header},
    routing::get,
};
use chrono::Utc;
use governor::{DefaultKeyedRateLimiter, Quota, RateLimiter};
use snug_core::Day;
use snug_store::{DatabaseConnection, Keeper};
use std::{num::NonZeroU32, sync::Arc, time::Duration};
use tower_http::{
    compression::CompressionLayer, csrf::CsrfLayer, set_header::SetResponseHeaderLayer, timeout::TimeoutLayer,
    trace::TraceLayer,
};
use tower_sessions::{Expiry, SessionManagerLayer, cookie::SameSite, cookie::time::Duration as CookieDuration};

/// What every handler can ask for.
#[derive(Clone, FromRef)]
pub struct AppState {
    /// The plan and its database.
    pub keeper: Arc<Keeper>,
    /// How the server was started.
    pub options: Arc<Options>,
    /// Counts sign-in attempts by e-mail address.
    attempts: Arc<DefaultKeyedRateLimiter<String>>,
    /// Horizon strips that were computed for the plan as it stands.
    horizons: Arc<fit::Horizons>,
}

impl FromRef<AppState> for DatabaseConnection {
    fn from_ref(state: &AppState) -> Self {
        state.keeper.db().clone()
    }
}

/// How the server is started.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// Cookies go over HTTPS only.
    pub secure_cookies: bool,
    /// The day that counts as today, for demonstrations and tests; else the civil day of the workspace's time zone.
    pub today: Option<Day>,
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
        /// Ten attempts at once, then two a minute.
        const BURST: NonZeroU32 = NonZeroU32::new(10).expect("ten is not zero");
        const WAIT: Duration = Duration::from_secs(30);
        let pace = Quota::with_period(WAIT).unwrap_or_else(|| Quota::per_minute(BURST));
        Self {
            keeper,
            options: Arc::new(options),
            attempts: Arc::new(RateLimiter::keyed(pace.allow_burst(BURST))),
            horizons: Arc::default(),
        }
    }

    /// The civil day it is in the workspace.
    pub fn today(&self) -> Day {
        self.options.today.unwrap_or_else(|| {
            let zone: chrono_tz::Tz = self.keeper.plan().settings.time_zone.parse().unwrap_or(chrono_tz::UTC);
            Day::from_date(Utc::now().with_timezone(&zone).date_naive())
        })
    }
}

/// Nothing but our own files; no inline scripts, no inline styles.
const CONTENT_POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; \
     font-src 'self'; connect-src 'self'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'";

/// The largest form that a page sends.
const LARGEST_FORM: usize = 64 * 1024;

/// All routes.
pub fn router(state: AppState) -> Router {
    let sessions = SessionManagerLayer::new(sessions::PgSessions::of(state.keeper.db()))
        .with_name("snug_session")
        .with_secure(state.options.secure_cookies)
        .with_same_site(SameSite::Lax)
        .with_expiry(Expiry::OnInactivity(CookieDuration::days(14)));
    let pages = Router::new()
        .route("/", get(async || axum::response::Redirect::to("/fit")))
        .merge(sign_in::routes())
        .merge(fit::routes())
        .merge(bookings::routes())
        .route("/events", get(events::stream))
        .fallback(async || Error::NotFound)
        .method_not_allowed_fallback(async || StatusCode::METHOD_NOT_ALLOWED)
        .layer(sessions)
        .layer(CsrfLayer::new());
    let header = |name: HeaderName, value: &'static str| {
        SetResponseHeaderLayer::if_not_present(name, HeaderValue::from_static(value))
    };
    Router::new()
        .nest("/api/v1", api::routes())
        .merge(health::routes())
        .route("/assets/{*path}", get(assets::serve))
        .merge(pages)
        .layer(DefaultBodyLimit::max(LARGEST_FORM))
        .layer(TimeoutLayer::with_status_code(StatusCode::SERVICE_UNAVAILABLE, Duration::from_secs(20)))
        .layer(CompressionLayer::new())
        .layer(header(header::CONTENT_SECURITY_POLICY, CONTENT_POLICY))
        .layer(header(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .layer(header(header::REFERRER_POLICY, "same-origin"))
        .layer(header(HeaderName::from_static("cross-origin-opener-policy"), "same-origin"))
        .layer(header(header::CACHE_CONTROL, "no-store"))
        .layer(TraceLayer::new_for_http())
        .with_state(state)
}
