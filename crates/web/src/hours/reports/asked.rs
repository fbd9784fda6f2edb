//! What the address of a report asks for.

use crate::{columns::Pairs, words};
use snug_core::{
    Day, PersonId, Plan, ProjectId, TeamId,
    kinds::Kind,
    reports::{Ask, By, Filter, Range, Subject},
};

/// What the address says, as it says it.
#[derive(Clone, Debug, Default)]
pub struct Asked {
    pub of: String,
    pub range: String,
    pub from: String,
    pub to: String,
    pub by: String,
    pub then: String,
    pub project: String,
    pub person: String,
    pub team: String,
    pub kind: String,
    pub tag: String,
    pub chart: String,
    /// The figure of the chart.
    pub figure: String,
    /// The columns that are shown, by name; none for all.
    pub columns: Vec<String>,
}

/// The most columns that an address names; a report has no more.
const MOST_COLUMNS: usize = 20;

/// No report is of more days: ten years.
const MOST_DAYS: i32 = 3_660;

impl Asked {
    /// Reads an address.
    pub fn read(pairs: &Pairs) -> Self {
        let said =
            |name: &str| pairs.iter().find(|(known, _)| known == name).map_or(String::new(), |(_, it)| it.clone());
        let columns = pairs.iter().filter(|(name, value)| name == "col" && !value.is_empty());
        Self {
            of: said("of"),
            range: said("range"),
            from: said("from"),
            to: said("to"),
            by: said("by"),
            then: said("then"),
            project: said("project"),
            person: said("person"),
            team: said("team"),
            kind: said("kind"),
            tag: said("tag"),
            chart: said("chart"),
            figure: said("figure"),
            columns: columns.map(|(_, value)| value.clone()).take(MOST_COLUMNS).collect(),
        }
    }

    /// What it is about.
    pub fn subject(&self) -> Subject {
        self.of.parse().unwrap_or_default()
    }

    /// The range by its name; `None` where days of one's own are asked for.
    pub fn range(&self) -> Option<Range> {
        let usual = if self.subject() == Subject::Due { Range::NextFourWeeks } else { Range::LastFourWeeks };
        match self.range.as_str() {
            "days" => None,
            word => Some(word.parse().unwrap_or(usual)),
        }
    }

    /// The days, and what is wrong with those that were typed.
    fn days(&self, today: Day) -> ((Day, Day), Option<&'static str>) {
        if let Some(range) = self.range() {
            return (range.days(today), None);
        }
        // Far enough from the ends of time that a report can look around.
        let day = |text: &str| text.parse::<Day>().ok().map(|day| day.clamp(Day::MIN + 400, Day::MAX - 400));
        let usual = Range::LastFourWeeks.days(today);
        let (from, to) = (day(&self.from).unwrap_or(usual.0), day(&self.to).unwrap_or(today));
        if to < from {
            return (usual, Some("The last day lies before the first; the last four weeks are shown."));
        }
        if to.since(from) > MOST_DAYS {
            return ((to - MOST_DAYS, to), Some("A report is of ten years at most; the last ten are shown."));
        }
        ((from, to), None)
    }

    /// What is asked of the core, and what is wrong with it.
    pub fn ask(&self, plan: &Plan, today: Day) -> (Ask, Option<&'static str>) {
        let ((from, to), problem) = self.days(today);
        let by: Vec<By> = [&self.by, &self.then].into_iter().filter_map(|word| word.parse().ok()).collect();
        let filter = Filter {
            project: plan.find(Kind::Project, &self.project).map(ProjectId),
            person: self.person.parse().ok().map(PersonId),
            team: plan.find(Kind::Team, &self.team).map(TeamId),
            kind: self.kind.clone(),
            tag: self.tag.clone(),
        };
        (Ask { subject: self.subject(), from, to, by, filter }.sound(), problem)
    }

    /// The address of what it asks for, at a path.
    pub fn at(&self, path: &str) -> String {
        let said = [
            ("of", self.of.as_str()),
            ("range", &self.range),
            ("from", &self.from),
            ("to", &self.to),
            ("by", &self.by),
            ("then", &self.then),
            ("project", &self.project),
            ("person", &self.person),
            ("team", &self.team),
            ("kind", &self.kind),
            ("tag", &self.tag),
            ("chart", &self.chart),
            ("figure", &self.figure),
        ];
        let columns = self.columns.iter().map(|name| ("col", name.as_str()));
        words::address(path, said.into_iter().chain(columns))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn asked(query: &str) -> Asked {
        Asked::read(&serde_urlencoded::from_str::<Pairs>(query).unwrap_or_default())
    }

    #[test]
    fn an_address_asks_for_the_same_again() {
        let address = "/r?of=due&range=this%20week&by=project&then=week&tag=a%26b&col=project&col=number";
        assert_eq!(asked(&address[3..]).at("/r"), address);
    }

    #[test]
    fn days_that_cannot_be_are_told_and_bounded() {
        let today: Day = "2026-03-11".parse().unwrap_or(Day::MIN);
        let days = |query: &str| {
            let (ask, problem) = asked(query).ask(&Plan::empty(), today);
            (ask.from.to_string(), ask.to.to_string(), problem.is_some())
        };
        let expected = |from: &str, to: &str, problem| (from.to_owned(), to.to_owned(), problem);
        assert_eq!(days("of=due"), expected("2026-03-11", "2026-04-07", false));
        assert_eq!(days("range=days&from=2026-03-01&to=2026-03-02"), expected("2026-03-01", "2026-03-02", false));
        assert_eq!(days("range=days&from=2026-03-05&to=2026-03-02"), expected("2026-02-12", "2026-03-11", true));
        assert!(days("range=days&from=2001-01-01&to=2026-03-02").2);
    }
}
