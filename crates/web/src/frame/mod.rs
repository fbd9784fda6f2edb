//! What every page has around it.

use crate::{AppState, Error, auth::User, columns::listed};
use serde::{Deserialize, Serialize};
use snug_core::{Role, kinds::Kind};
use tower_sessions::Session;

pub use snug_core::kinds::Room;

/// The rooms that there are.
pub const ROOMS: [Room; 4] = [Room::Fit, Room::Schedule, Room::Hours, Room::Setup];

/// Where the pages of a room are.
pub trait Pages {
    /// Its name.
    fn name(self) -> &'static str;
    /// Where it is.
    fn href(self) -> &'static str;
    /// The pages of the room that a role may open, for its tabs: address and name.
    fn pages(self, role: Role) -> Vec<(String, String)>;
}

impl Pages for Room {
    fn name(self) -> &'static str {
        match self {
            Self::Fit => "Fit",
            Self::Schedule => "Schedule",
            Self::Hours => "Hours",
            Self::Setup => "Setup",
            Self::None => "",
        }
    }

    fn href(self) -> &'static str {
        match self {
            Self::Fit | Self::None => "/fit",
            Self::Schedule => "/schedule/gantt",
            Self::Hours => "/hours",
            Self::Setup => "/setup",
        }
    }

    fn pages(self, role: Role) -> Vec<(String, String)> {
        // Lists that are looked at most stand first, those of other kinds of record after them.
        let (before, first, after): (&[_], &[Kind], &[_]) = match self {
            Self::Schedule => (
                &[
                    ("/schedule/outline", "Outline"),
                    ("/schedule/gantt", "Gantt"),
                    ("/schedule/calendar", "Calendar"),
                    ("/schedule/slips", "Slips"),
                    ("/schedule/long", "Long view"),
                    ("/schedule/tuck-in", "Tuck in"),
                    ("/schedule/projects", "Portfolio"),
                    ("/schedule/milestones", "Milestones"),
                    ("/schedule/risks", "Risks"),
                    ("/schedule/baselines", "Plans kept"),
                ],
                &[Kind::Task, Kind::Project],
                &[],
            ),
            Self::Hours => (
                &[
                    ("/hours/day", "My day"),
                    ("/hours", "Week sheet"),
                    ("/hours/approve", "Approval"),
                    ("/hours/actuals", "Estimate and actual"),
                    ("/hours/worked", "Planned and worked"),
                    ("/hours/walk-ins", "Walk-ins"),
                    ("/hours/earned", "Earned value"),
                    ("/hours/bias", "Bias"),
                    ("/hours/reports", "Reports"),
                    ("/hours/budgets", "Budgets"),
                    (MONEY, "Money"),
                ],
                &[],
                &[],
            ),
            Self::Setup => (
                &[("/setup", "All of it")],
                &[Kind::Person, Kind::Team, Kind::Absence, Kind::Holiday, Kind::Field],
                &[
                    ("/setup/calendars", "Calendars"),
                    ("/setup/import", "Import and export"),
                    ("/setup/members", "Members"),
                    ("/setup/settings", "Settings"),
                    ("/setup/activity", "Activity"),
                    (SECURITY, "Security"),
                ],
            ),
            Self::Fit | Self::None => return Vec::new(),
        };
        let fixed = |pages: &[(&str, &str)]| -> Vec<_> {
            let least = |path: &str| match path {
                SECURITY => Role::Administrator,
                MONEY => Role::Manager,
                _ => Role::Viewer,
            };
            let pages = pages.iter().filter(|(path, _)| role >= least(path));
            pages.map(|(path, name)| ((*path).to_owned(), (*name).to_owned())).collect()
        };
        // Those that have a page of their own lead to their list from there.
        let has_page = |kind: &Kind| matches!(kind, Kind::Milestone | Kind::Risk);
        let others = listed().filter(|kind| kind.about().room == self && !first.contains(kind) && !has_page(kind));
        let lists = first.iter().copied().chain(others).map(Kind::about);
        let lists = lists.map(|about| (format!("/{}", about.path), about.list_title()));
        fixed(before).into_iter().chain(lists).chain(fixed(after)).collect()
    }
}

/// The one page of Setup that only administrators see.
const SECURITY: &str = "/setup/security";

/// The one page of Hours that only managers see.
const MONEY: &str = "/hours/money";

/// A message that waits in the session for the next page.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Flash {
    /// What was done.
    pub message: String,
    /// More about it, a sentence a line.
    pub says: Vec<String>,
    /// Whether it can be undone.
    pub undo: bool,
    /// Whether it was an undo, which can be brought back.
    #[serde(default)]
    pub redo: bool,
    /// Whether it is about something that failed.
    pub problem: bool,
    /// Where what was done can be seen: address and name.
    #[serde(default)]
    pub links: Vec<(String, String)>,
}

impl Flash {
    const KEY: &'static str = "flash";

    /// A message with nothing to undo.
    pub fn plain(message: impl Into<String>) -> Self {
        Self { message: message.into(), says: Vec::new(), undo: false, redo: false, problem: false, links: Vec::new() }
    }

    /// A message that something failed.
    pub fn problem(message: impl Into<String>) -> Self {
        Self { problem: true, ..Self::plain(message) }
    }

    /// Leaves the message for the next page.
    pub async fn leave(self, session: &Session) -> Result<(), Error> {
        session.insert(Self::KEY, self).await.map_err(Error::from)
    }
}

/// The top bar: who is signed in, which rooms they have, what they could undo.
pub struct Frame {
    /// The workspace's name.
    pub workspace: String,
    /// The name of who is signed in.
    pub name: String,
    /// What they may do, in a word.
    pub role: Role,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would bring back.
    pub redo: Option<String>,
    /// The plan's revision that the page shows.
    pub revision: i64,
    /// The room that the page is in.
    pub room: Room,
    /// The address of the page.
    pub here: String,
    /// A message that was left for it.
    pub flash: Option<Flash>,
    /// Whether the stand-ins of the demo are there.
    pub demo: bool,
    /// The draft that is worked in: its number, 0 for the live plan, and what it is called.
    pub draft: (i32, String),
}

impl Frame {
    /// The frame of a page for somebody.
    pub async fn of(state: &AppState, user: &User, room: Room) -> Result<Self, Error> {
        let (undo, redo) = state.keeper.ledger().undo_and_redo(user.actor()).await?;
        let plan = state.keeper.plan();
        Ok(Self {
            workspace: plan.settings.name.clone(),
            name: user.account.name.clone(),
            role: user.account.role,
            undo: undo.map(|entry| entry.title),
            redo: redo.map(|entry| entry.title),
            revision: plan.revision,
            room,
            here: user.here.clone(),
            flash: user.session.remove(Flash::KEY).await?,
            demo: state.options.demo.is_some(),
            draft: state.keeper.draft().map_or_else(Default::default, |draft| (draft.id, draft.name.clone())),
        })
    }

    /// The room's name.
    pub fn room_name(&self) -> &'static str {
        self.room.name()
    }

    /// The pages of the room, for its tabs.
    pub fn tabs(&self) -> Vec<(String, String)> {
        self.room.pages(self.role)
    }

    /// The rooms, each with its address, its name, and whether the page is in it.
    pub fn rooms(&self) -> [(&'static str, &'static str, bool); 4] {
        ROOMS.map(|room| (room.href(), room.name(), room == self.room))
    }

    /// Whether a page of the room is the one that is shown.
    pub fn is_at(&self, path: &str) -> bool {
        let here = self.here.split('?').next().unwrap_or_default();
        here == path
            || path == "/schedule/projects" && here.starts_with("/schedule/projects/")
            || path.matches('/').count() == 1
                && path != "/setup"
                && path != "/hours"
                && here.starts_with(&format!("{path}/"))
    }

    /// Whether the role is at least this one.
    pub fn may(&self, role: &str) -> bool {
        role.parse().is_ok_and(|role: Role| self.role >= role)
    }
}
