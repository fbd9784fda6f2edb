//! What the address of the Fit room says: angle, measure, window, zoom, filters, overlays, what is open and what is selected. The
//! address is the whole state of the room, so that it can be sent.

use crate::{
    fit::address::{
        angle::{Angle, Overlay},
        colour::Colour,
        zoom::{Height, ZOOMS, span_of, stepped},
    },
    words,
};
use serde::Deserialize;
use snug_core::{
    Day, Eyes, PersonId, Plan, ProjectId,
    alerts::Alert,
    cells::{Band, Bucket, Grain},
    demand::{Counted, Window},
    kinds::Kind,
    load::{Group, Measure, Query},
    settings::DateOrder,
};
use std::{collections::BTreeSet, sync::Arc};

/// The address as it comes. A word that is not known is said to be none; a number or a day that makes no sense is taken as not said.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(default)]
pub struct FitParams {
    pub angle: String,
    pub measure: String,
    pub zoom: String,
    pub from: String,
    pub span: String,
    pub colour: String,
    pub q: String,
    pub team: String,
    pub role: String,
    pub skill: String,
    pub project: String,
    pub tag: String,
    pub band: String,
    pub alert: String,
    /// Overlays that are not as usual, with commas between.
    pub layers: String,
    pub rows: String,
    /// People whose rows are open, with commas between.
    pub open: String,
    /// Groups that are not folded or unfolded as usual, with `~` between.
    pub turned: String,
    pub person: String,
    /// The group whose cell is selected.
    pub group: String,
    pub at: String,
    pub offset: String,
    /// A cell that is to be selected in the view one comes from: its row's key, a point, and its place in the row.
    pub cell: String,
    /// A row that is to be opened or closed there, or a group to be folded or unfolded, by its key.
    pub turn: String,
}

/// The address as it is meant.
#[derive(Clone, Debug)]
pub struct FitQuery {
    /// From which side.
    pub angle: Angle,
    /// What is counted.
    pub measure: Measure,
    /// Its word.
    pub measure_word: String,
    /// What a cell is.
    pub zoom: Grain,
    /// First day, the first of a cell.
    pub from: Day,
    /// Number of cells.
    pub span: i32,
    /// The cells.
    pub buckets: Vec<Bucket>,
    /// What layers are coloured by.
    pub colour: Colour,
    /// Its word.
    pub colour_word: String,
    /// Part of a name, role, skill or tag.
    pub q: String,
    /// A team's code.
    pub team: String,
    /// A role.
    pub role: String,
    /// A skill.
    pub skill: String,
    /// The one project in view.
    pub project: Option<ProjectId>,
    /// Its code.
    pub project_code: String,
    /// A tag of somebody's tasks.
    pub tag: String,
    /// Only people with a cell in this band.
    pub band: Option<Band>,
    /// Only rows with this warning.
    pub alert: Option<Alert>,
    /// Overlays that are not as usual.
    pub turned_layers: BTreeSet<Overlay>,
    /// Whose logged hours are seen by whoever looks, where they are asked for.
    pub known: BTreeSet<PersonId>,
    /// How tall rows are.
    pub height: Height,
    /// Rows that are open.
    pub open: BTreeSet<i32>,
    /// Groups that are not folded or unfolded as usual.
    pub turned: BTreeSet<String>,
    /// The person in the side sheet.
    pub person: Option<i32>,
    /// The group in the side sheet, by its key in an address.
    pub group: String,
    /// The first day of the selected cell.
    pub at: Option<Day>,
    /// Lines left out at the top.
    pub offset: usize,
    /// What the address asks for that there is not, a sentence each; nothing else is shown in its place.
    pub unknown: Vec<String>,
    /// The live plan beside a draft that is shown.
    pub live: Option<Arc<Plan>>,
    /// Today.
    pub today: Day,
    /// How dates are written.
    pub order: DateOrder,
}

/// The words of an address that must be known: each with what it chooses, and whether it is.
fn unknown(params: &FitParams, plan: &Plan) -> Vec<String> {
    let known = |words: &[&str], word: &str| words.contains(&word);
    let zooms: Vec<&str> = ZOOMS.iter().map(|zoom| zoom.0.as_str()).collect();
    let found = [
        ("angle", &params.angle, known(&Angle::ALL.map(|known| known.1), &params.angle)),
        ("count", &params.measure, Measure::read(&params.measure, plan).is_ok()),
        ("length of a cell", &params.zoom, known(&zooms, &params.zoom)),
        ("height of rows", &params.rows, known(&Height::ALL.map(|known| known.1), &params.rows)),
        ("colour", &params.colour, Colour::is_known(&params.colour, plan)),
        ("state", &params.band, params.band.parse::<Band>().is_ok()),
        ("warning", &params.alert, params.alert.parse::<Alert>().is_ok()),
        ("project", &params.project, plan.find(Kind::Project, &params.project).is_some()),
        ("team", &params.team, plan.find(Kind::Team, &params.team).is_some()),
    ];
    let sentence = |(what, word, _): (&str, &String, bool)| {
        let word: String = word.chars().take(40).collect();
        format!("There is no {what} “{word}”.")
    };
    found.into_iter().filter(|(_, word, is_known)| !word.is_empty() && !is_known).map(sentence).collect()
}

impl FitQuery {
    /// Reads an address.
    pub fn read(params: &FitParams, plan: &Plan, today: Day) -> Self {
        let settings = &plan.settings;
        let zoom = params.zoom.parse().ok().filter(|grain| *grain != Grain::FiscalYear).unwrap_or(Grain::Week);
        let (usual, least, most) = span_of(zoom);
        let span = params.span.parse().unwrap_or(usual).clamp(least, most);
        let from = params.from.parse().ok().filter(|day: &Day| *day < Day::MAX - 4_000 && *day > Day::MIN + 800);
        // Days begin with a week, everything else with itself.
        let whole = if zoom == Grain::Day { Grain::Week } else { zoom };
        let from = whole.start_of(from.unwrap_or(today), settings);
        let buckets = zoom.buckets(from, stepped(zoom, from, span, settings) - 1, settings);
        let measure = Measure::read(&params.measure, plan).unwrap_or(Measure::Minutes);
        let colour = Colour::read(&params.colour, plan);
        let project = plan.find(Kind::Project, &params.project).map(ProjectId);
        let overlay = |word: &str| Overlay::ALL.iter().find(|known| known.1 == word).map(|known| known.0);
        Self {
            angle: Angle::read(&params.angle),
            measure_word: if measure == Measure::Minutes { String::new() } else { measure.word(plan) },
            measure,
            zoom,
            from,
            span,
            buckets,
            colour_word: colour.word(plan),
            colour,
            q: params.q.trim().chars().take(100).collect(),
            team: params.team.clone(),
            role: params.role.clone(),
            skill: params.skill.clone(),
            project_code: if project.is_some() { params.project.clone() } else { String::new() },
            project,
            tag: params.tag.clone(),
            band: params.band.parse().ok(),
            alert: params.alert.parse().ok(),
            turned_layers: params.layers.split(',').filter_map(overlay).collect(),
            known: BTreeSet::new(),
            height: Height::read(&params.rows),
            open: params.open.split(',').filter_map(|id| id.parse().ok()).take(100).collect(),
            turned: params.turned.split('~').filter(|key| !key.is_empty()).map(str::to_owned).take(500).collect(),
            person: params.person.parse().ok(),
            group: params.group.clone(),
            at: params.at.parse().ok(),
            offset: params.offset.parse().unwrap_or(0),
            unknown: unknown(params, plan),
            live: None,
            today,
            order: settings.date_order,
        }
    }

    /// The same for these eyes: what somebody has logged is for them and a few others.
    pub fn seen_by(mut self, eyes: &Eyes<'_>) -> Self {
        if self.shows(Overlay::Worked) {
            self.known = eyes.plan.people.keys().copied().filter(|id| eyes.knows(*id)).collect();
        }
        self
    }

    /// The last day.
    pub fn to(&self) -> Day {
        self.buckets.last().map_or(self.from, |bucket| bucket.to)
    }

    /// How many days are shown.
    pub fn days(&self) -> i32 {
        self.to().since(self.from) + 1
    }

    /// Whether an overlay is on.
    pub fn shows(&self, overlay: Overlay) -> bool {
        let usual = Overlay::ALL.iter().any(|known| known.0 == overlay && known.3);
        usual != self.turned_layers.contains(&overlay)
    }

    /// What counts.
    pub fn counted(&self) -> Counted {
        Counted { pencilled: self.shows(Overlay::Pencilled), holds: self.shows(Overlay::Holds) }
    }

    /// The window that is computed.
    pub fn window(&self) -> Window {
        Window { counted: self.counted(), ..Window::new(self.from, self.to(), self.today) }
    }

    /// The question to the load table.
    pub fn load(&self) -> Query {
        let group = self.angle.group().unwrap_or(Group::Person);
        Query { window: self.window(), grain: self.zoom, group, measure: self.measure }
    }

    /// Whether some people are left out.
    pub fn is_filtered(&self) -> bool {
        self.filters() > 0 || !self.q.is_empty()
    }

    /// How many filters besides the words are on.
    pub fn filters(&self) -> usize {
        let texts = [&self.team, &self.role, &self.skill, &self.tag, &self.project_code];
        texts.iter().filter(|text| !text.is_empty()).count()
            + usize::from(self.band.is_some())
            + usize::from(self.alert.is_some())
    }

    fn pairs(&self) -> Vec<(&'static str, String)> {
        let text = |value: Option<String>| value.unwrap_or_default();
        let list = |items: Vec<String>, between: &str| items.join(between);
        let usual_angle = self.angle == Angle::Person;
        let layers = Overlay::ALL.iter().filter(|known| self.turned_layers.contains(&known.0));
        vec![
            ("angle", if usual_angle { String::new() } else { self.angle.word().to_owned() }),
            ("measure", self.measure_word.clone()),
            ("zoom", if self.zoom == Grain::Week { String::new() } else { self.zoom.to_string() }),
            ("from", self.from.to_string()),
            ("span", self.span.to_string()),
            ("colour", if self.colour == Colour::Project { String::new() } else { self.colour_word.clone() }),
            ("q", self.q.clone()),
            ("team", self.team.clone()),
            ("role", self.role.clone()),
            ("skill", self.skill.clone()),
            ("project", self.project_code.clone()),
            ("tag", self.tag.clone()),
            ("band", text(self.band.map(|band| band.to_string()))),
            ("alert", text(self.alert.map(|alert| alert.to_string()))),
            ("layers", list(layers.map(|known| known.1.to_owned()).collect(), ",")),
            ("rows", if self.height == Height::Normal { String::new() } else { self.height.word().to_owned() }),
            ("open", list(self.open.iter().map(ToString::to_string).collect(), ",")),
            ("turned", list(self.turned.iter().cloned().collect(), "~")),
            ("person", text(self.person.map(|id| id.to_string()))),
            ("group", self.group.clone()),
            ("at", text(self.at.map(|day| day.to_string()))),
        ]
    }

    /// The address of this very view, under a path.
    pub fn href(&self, path: &str) -> String {
        let pairs = self.pairs();
        words::address(path, pairs.iter().map(|(name, value)| (*name, value.as_str())))
    }

    /// What a form keeps that has these fields itself.
    pub fn kept_besides(&self, own: &[&str]) -> Vec<(&'static str, String)> {
        self.pairs().into_iter().filter(|(name, value)| !value.is_empty() && !own.contains(name)).collect()
    }

    /// The same view with nothing selected.
    pub fn unselected(&self) -> Self {
        Self { person: None, group: String::new(), at: None, offset: 0, ..self.clone() }
    }

    /// The same view with another window.
    pub fn at_window(&self, plan: &Plan, zoom: Grain, from: Day, span: i32) -> Self {
        let params = FitParams {
            zoom: zoom.to_string(),
            from: from.to_string(),
            span: span.to_string(),
            ..FitParams::default()
        };
        let Self { zoom, from, span, buckets, .. } = Self::read(&params, plan, self.today);
        Self { zoom, from, span, buckets, ..self.unselected() }
    }

    /// The same view as many cells later, or earlier.
    pub fn moved(&self, plan: &Plan, cells: i32) -> Self {
        let whole = if self.zoom == Grain::Day { 7 } else { 1 };
        self.at_window(plan, self.zoom, stepped(self.zoom, self.from, cells * whole, &plan.settings), self.span)
    }

    /// The same view with a person's cell selected.
    pub fn selecting(&self, person: i32, at: Day) -> Self {
        Self { person: Some(person), group: String::new(), at: Some(at), ..self.clone() }
    }

    /// The same view with a group's cell selected.
    pub fn selecting_group(&self, group: &str, at: Day) -> Self {
        Self { person: None, group: group.to_owned(), at: Some(at), ..self.clone() }
    }

    /// The same view after one followed the link of a cell or of a row's name, which say no more than what they alter.
    pub fn followed(&self, params: &FitParams) -> Self {
        if let Some((key, place)) = params.cell.rsplit_once('.') {
            let bucket = place.parse().ok().and_then(|at: usize| self.buckets.get(at));
            let at = bucket.map_or(self.from, |bucket| bucket.from);
            return key.parse().map_or_else(|_| self.selecting_group(key, at), |person| self.selecting(person, at));
        }
        let mut next = self.clone();
        match params.turn.parse() {
            Ok(person) if !next.open.remove(&person) => drop(next.open.insert(person)),
            Err(_) if !next.turned.remove(&params.turn) => drop(next.turned.insert(params.turn.clone())),
            _ => {}
        }
        next
    }

    /// The selected person's identity.
    pub fn person_id(&self) -> Option<PersonId> {
        self.person.map(PersonId)
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
        assert_eq!((usual.from.to_string().as_str(), usual.span, usual.zoom), ("2026-03-09", 6, Grain::Week));
        let params = FitParams {
            from: "2026-04-01".into(),
            span: "12".into(),
            q: "oak & ash".into(),
            band: "over".into(),
            angle: "team".into(),
            measure: "projects".into(),
            layers: "free,milestones".into(),
            rows: "tall".into(),
            open: "4,7".into(),
            turned: "team:sparks~role:a, b".into(),
            alert: "days-off".into(),
            person: "7".into(),
            ..FitParams::default()
        };
        let href = read(&params).href("/fit");
        assert!(
            href.starts_with("/fit?angle=team&measure=projects&from=2026-03-30&span=12&q=oak%20%26%20ash&band=over")
        );
        let again: FitParams = serde_urlencoded::from_str(href.split_once('?').unwrap().1).unwrap();
        assert_eq!(read(&again).href("/fit"), href);
        let query = read(&again);
        assert!(query.shows(Overlay::Free) && !query.shows(Overlay::Milestones) && query.shows(Overlay::Holds));
        assert!(query.turned.contains("role:a, b") && query.open.contains(&7));
    }

    #[test]
    fn a_word_that_is_not_known_is_said_to_be_none_and_a_number_that_cannot_be_is_not_said() {
        let params = FitParams {
            from: "9999-01-01".into(),
            span: "1000".into(),
            band: "purple".into(),
            person: "x".into(),
            offset: "-1".into(),
            measure: "field of dreams".into(),
            ..FitParams::default()
        };
        let query = read(&params);
        assert_eq!(query.unknown, ["There is no count “field of dreams”.", "There is no state “purple”."]);
        let nonsense =
            FitParams { angle: "nonsense".into(), zoom: "decade".into(), rows: "huge".into(), ..FitParams::default() };
        assert_eq!(
            read(&nonsense).unknown,
            [
                "There is no angle “nonsense”.",
                "There is no length of a cell “decade”.",
                "There is no height of rows “huge”."
            ]
        );
        assert!(
            read(&FitParams { angle: "team".into(), zoom: "week".into(), ..FitParams::default() }).unknown.is_empty()
        );
        assert_eq!((query.from.to_string().as_str(), query.span), ("2026-03-09", 26));
        assert!(query.band.is_none() && query.person.is_none() && query.offset == 0 && !query.is_filtered());
        assert_eq!(query.measure, Measure::Minutes);
        let days = read(&FitParams { zoom: "day".into(), span: "99".into(), ..FitParams::default() });
        assert_eq!((days.span, days.to().to_string().as_str()), (35, "2026-04-12"), "at most five weeks by day");
        let months = read(&FitParams { zoom: "month".into(), ..FitParams::default() });
        assert_eq!((months.from.to_string(), months.to().to_string()), ("2026-03-01".into(), "2026-08-31".into()));
    }

    #[test]
    fn a_link_says_what_it_alters_and_the_view_one_comes_from_the_rest() {
        let view = read(&FitParams { span: "4".into(), q: "oak".into(), open: "4".into(), ..FitParams::default() });
        let after = |cell: &str, turn: &str| {
            view.followed(&FitParams { cell: cell.into(), turn: turn.into(), ..FitParams::default() }).href("/fit")
        };
        let kept = "/fit?from=2026-03-09&span=4&q=oak";
        assert_eq!(after("7.1", ""), format!("{kept}&open=4&person=7&at=2026-03-16"));
        assert_eq!(after("team:a.b.3", ""), format!("{kept}&open=4&group=team%3Aa.b&at=2026-03-30"));
        assert_eq!(after("7.99", ""), format!("{kept}&open=4&person=7&at=2026-03-09"), "there is no such column");
        assert_eq!(after("", "4"), kept);
        assert_eq!(after("", "7"), format!("{kept}&open=4%2C7"));
        assert_eq!(after("", "team:a"), format!("{kept}&open=4&turned=team%3Aa"));
    }
}
