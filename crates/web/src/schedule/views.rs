//! The views of the room, and how one goes from one to the other.

use crate::words;
use snug_core::Day;

/// A view's name and where it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum View {
    Outline,
    Gantt,
    Calendar,
    Slips,
    Long,
}

impl View {
    const ALL: [Self; 5] = [Self::Outline, Self::Gantt, Self::Calendar, Self::Slips, Self::Long];

    /// Where it is.
    pub fn path(self) -> &'static str {
        match self {
            Self::Outline => "/schedule/outline",
            Self::Gantt => "/schedule/gantt",
            Self::Calendar => "/schedule/calendar",
            Self::Slips => "/schedule/slips",
            Self::Long => "/schedule/long",
        }
    }

    fn name(self) -> &'static str {
        match self {
            Self::Outline => "Outline",
            Self::Gantt => "Gantt",
            Self::Calendar => "Calendar",
            Self::Slips => "Slips",
            Self::Long => "Long view",
        }
    }

    /// By what the address of a deed names it.
    pub fn of_word(word: &str) -> Option<Self> {
        match word {
            "tasks" => Some(Self::Gantt),
            "calendar" => Some(Self::Calendar),
            "slips" => Some(Self::Slips),
            "long" => Some(Self::Long),
            _ => None,
        }
    }
}

/// The ways to all views: address, name, and whether it is this one. The projects that are looked at go along.
pub fn ways(here: View, projects: &str) -> Vec<(String, &'static str, bool)> {
    let way = |view: View| (words::address(view.path(), [("project", projects)]), view.name(), view == here);
    View::ALL.into_iter().map(way).collect()
}

/// Where the middle of today lies across a window of days, in percent; nothing where it is not in it.
pub fn today_at(today: Day, (from, to): (Day, Day)) -> Option<String> {
    let days = f64::from(to.since(from) + 1);
    (from..=to).contains(&today).then(|| format!("{:.3}%", 100.0 * (f64::from(today.since(from)) + 0.5) / days))
}
