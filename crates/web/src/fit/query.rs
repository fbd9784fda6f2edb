//! What the address of the Fit room says: the window, the zoom, the filter, what is selected.

use crate::words;
use serde::Deserialize;
use snug_core::{Day, Plan, cells::Band, demand::Window, settings::DateOrder};

/// The address as it comes; anything that makes no sense is taken as not said.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(default)]
pub struct FitParams {
    pub from: String,
    pub weeks: String,
    pub by: String,
    pub q: String,
    pub team: String,
    pub role: String,
    pub band: String,
    pub group: String,
    pub person: String,
    pub at: String,
    pub offset: String,
}

/// The longest window, in weeks; what the horizon shows.
pub const MOST_WEEKS: i32 = 26;

/// The address as it is meant.
#[derive(Clone, Debug)]
pub struct FitQuery {
    /// First day, a first day of a week.
    pub from: Day,
    /// Length in weeks, 1..=26.
    pub weeks: i32,
    /// A cell is a day, not a week.
    pub by_day: bool,
    /// Part of a name.
    pub q: String,
    /// A team's code.
    pub team: String,
    /// A role.
    pub role: String,
    /// Only people with a cell in this band.
    pub band: Option<Band>,
    /// Under team heads.
    pub by_team: bool,
    /// The person in the side sheet.
    pub person: Option<i32>,
    /// The first day of the selected cell.
    pub at: Option<Day>,
    /// Rows left out at the top.
    pub offset: usize,
    /// Today.
    pub today: Day,
    /// How dates are written.
    pub order: DateOrder,
}

impl FitQuery {
    /// Reads an address.
    pub fn read(params: &FitParams, plan: &Plan, today: Day) -> Self {
        let by_day = params.by == "day";
        let first = i32::try_from(plan.settings.first_weekday).unwrap_or(0);
        let week_start = |day: Day| {
            let into = (i32::try_from(day.weekday()).unwrap_or(0) - first).rem_euclid(7);
            day - into
        };
        let usual = if by_day { 2 } else { 6 };
        let weeks = params.weeks.parse().unwrap_or(usual).clamp(1, if by_day { 3 } else { MOST_WEEKS });
        let from = params.from.parse().ok().filter(|day: &Day| *day < Day::MAX - 400 && *day > Day::MIN + 400);
        Self {
            from: week_start(from.unwrap_or(today)),
            weeks,
            by_day,
            q: params.q.trim().chars().take(100).collect(),
            team: params.team.clone(),
            role: params.role.clone(),
            band: params.band.parse().ok(),
            by_team: params.group == "team",
            person: params.person.parse().ok(),
            at: params.at.parse().ok(),
            offset: params.offset.parse().unwrap_or(0),
            today,
            order: plan.settings.date_order,
        }
    }

    /// The last day.
    pub fn to(&self) -> Day {
        self.from + (self.weeks * 7 - 1)
    }

    /// The window that is computed.
    pub fn window(&self) -> Window {
        Window { from: self.from, to: self.to(), today: self.today }
    }

    /// Whether some people are left out.
    pub fn is_filtered(&self) -> bool {
        !self.q.is_empty() || !self.team.is_empty() || !self.role.is_empty() || self.band.is_some()
    }

    fn pairs(&self) -> Vec<(&'static str, String)> {
        let mut pairs = vec![("from", self.from.to_string()), ("weeks", self.weeks.to_string())];
        let mut add = |name, value: String| {
            if !value.is_empty() {
                pairs.push((name, value));
            }
        };
        add("by", if self.by_day { "day".to_owned() } else { String::new() });
        add("q", self.q.clone());
        add("team", self.team.clone());
        add("role", self.role.clone());
        add("band", self.band.map(|band| band.to_string()).unwrap_or_default());
        add("group", if self.by_team { "team".to_owned() } else { String::new() });
        add("person", self.person.map(|id| id.to_string()).unwrap_or_default());
        add("at", self.at.map(|day| day.to_string()).unwrap_or_default());
        pairs
    }

    /// The address of this very view, under a path.
    pub fn href(&self, path: &str) -> String {
        let pairs = self.pairs();
        words::address(path, pairs.iter().map(|(name, value)| (*name, value.as_str())))
    }

    /// The same view with another window.
    pub fn at_window(&self, from: Day, weeks: i32, by_day: bool) -> Self {
        Self { from, weeks, by_day, person: None, at: None, ..self.clone() }
    }

    /// The same view with a cell selected.
    pub fn selecting(&self, person: i32, at: Day) -> Self {
        Self { person: Some(person), at: Some(at), ..self.clone() }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(params: &FitParams) -> FitQuery {
        FitQuery::read(params, &Plan::empty(), "2026-03-11".parse().unwrap())
    }

    #[test]
    fn a_room_begins_with_the_week_of_today_and_its_address_reads_back() {
        let usual = read(&FitParams::default());
        assert_eq!((usual.from.to_string().as_str(), usual.weeks, usual.by_day), ("2026-03-09", 6, false));
        let params = FitParams {
            from: "2026-04-01".into(),
            weeks: "12".into(),
            q: "oak & ash".into(),
            band: "over".into(),
            group: "team".into(),
            person: "7".into(),
            ..FitParams::default()
        };
        let href = read(&params).href("/fit");
        assert_eq!(href, "/fit?from=2026-03-30&weeks=12&q=oak%20%26%20ash&band=over&group=team&person=7");
        let again: FitParams = serde_urlencoded::from_str(href.split_once('?').unwrap().1).unwrap();
        assert_eq!(read(&again).href("/fit"), href);
    }

    #[test]
    fn what_makes_no_sense_is_taken_as_not_said() {
        let params = FitParams {
            from: "9999-01-01".into(),
            weeks: "1000".into(),
            band: "purple".into(),
            person: "x".into(),
            offset: "-1".into(),
            ..FitParams::default()
        };
        let query = read(&params);
        assert_eq!((query.from.to_string().as_str(), query.weeks), ("2026-03-09", MOST_WEEKS));
        assert!(query.band.is_none() && query.person.is_none() && query.offset == 0 && !query.is_filtered());
        let days = read(&FitParams { by: "day".into(), weeks: "9".into(), ..FitParams::default() });
        assert_eq!((days.weeks, days.to().to_string().as_str()), (3, "2026-03-29"), "at most three weeks by day");
    }
}
