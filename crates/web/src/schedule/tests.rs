//! What addresses of the Schedule room's views say: whatever comes reads as a view of bounded length, whose own address reads back as
//! that view, and a link that is followed leads to a cell that is seen.

use super::{
    address::{href, list, said},
    calendar::query::{CalendarQuery, PATH as CALENDAR, Span},
    long::query::{LongQuery, PATH as LONG, ZOOMS, team_of},
    slips::query::{PATH as SLIPS, SPANS, SlipsQuery},
};
use crate::grid::part_of;
use proptest::{prelude::*, sample::select};
use serde::{Serialize, de::DeserializeOwned};
use snug_core::{Day, Plan, change::Change, change::Edit, settings::Settings};
use std::collections::BTreeMap;

const TODAY: &str = "2026-03-11";
const WORDS: [&str; 14] = [
    "",
    "2026-03-16",
    "2026-02-30",
    "0000-01-01",
    "9999-12-31",
    "-1",
    "1",
    "8",
    "99999999999",
    "month",
    "week",
    "quarter",
    "oak & ash",
    "t7",
];

fn today() -> Day {
    TODAY.parse().unwrap_or_else(|_| unreachable!())
}

/// What somebody may type into an address: any word for any of its names.
fn words<P: DeserializeOwned + Serialize + Default + std::fmt::Debug>() -> impl Strategy<Value = P> {
    let Ok(serde_json::Value::Object(names)) = serde_json::to_value(P::default()) else { unreachable!() };
    let names: Vec<String> = names.into_iter().map(|(name, _)| name).collect();
    let some = prop::collection::btree_map(select(names), select(&WORDS[..]), 0..8);
    some.prop_map(|words: BTreeMap<String, &str>| {
        let read = serde_json::to_value(words).and_then(serde_json::from_value);
        read.unwrap_or_else(|_| unreachable!())
    })
}

/// A plan whose weeks begin on any day.
fn plan() -> impl Strategy<Value = Plan> {
    (0..7usize).prop_map(|first_weekday| {
        Plan::empty().with(&[Change::Settings(Edit::new(Settings { first_weekday, ..Settings::default() }))])
    })
}

fn again<P: DeserializeOwned + Default>(address: &str) -> P {
    said(&address.parse().unwrap_or_else(|_| unreachable!()))
}

proptest! {
    #[test]
    fn an_address_of_slips_is_its_view(plan in plan(), params in words(), at in 0..80usize) {
        let query = SlipsQuery::read(params, &plan, today());
        prop_assert!(SPANS.iter().any(|span| span.0 == query.weeks));
        prop_assert!((query.from..=query.to()).contains(&query.at()));
        prop_assert_eq!((query.buckets[0].from, query.buckets[query.buckets.len() - 1].to), (query.from, query.to()));
        let read = SlipsQuery::read(again(&query.href(SLIPS, |_| {})), &plan, today());
        prop_assert_eq!((read.from, read.weeks, read.at(), read.offset), (query.from, query.weeks, query.at(), query.offset));
        let followed = SlipsQuery::read(again(&query.followed(&format!("5.{at}"))), &plan, today());
        prop_assert_eq!(followed.person().map(|id| id.0), Some(5));
        prop_assert_eq!(followed.at(), query.buckets.get(at).map_or(query.from, |bucket| bucket.from));
    }

    #[test]
    fn an_address_of_the_long_view_is_its_view(plan in plan(), params in words(), at in 0..20usize) {
        let query = LongQuery::read(params, &plan, today());
        let most = ZOOMS.iter().find(|zoom| zoom.0 == query.zoom).map(|zoom| zoom.2);
        prop_assert_eq!(i32::try_from(query.buckets.len()).ok(), most);
        let read = LongQuery::read(again(&query.href(LONG, |_| {})), &plan, today());
        prop_assert_eq!((read.from, read.zoom, read.buckets, read.offset), (query.from, query.zoom, query.buckets.clone(), query.offset));
        let followed = LongQuery::read(again(&query.followed(&format!("t7.{at}"))), &plan, today());
        prop_assert_eq!(followed.team(), team_of("t7"));
        prop_assert_eq!(followed.bucket(), query.buckets.get(at).or(query.buckets.first()).copied());
    }

    #[test]
    fn an_address_of_the_calendar_is_its_view(plan in plan(), params in words(), (row, at) in (0..6usize, 0..7i32)) {
        let query = CalendarQuery::read(params, &plan, today());
        prop_assert!((1..=42).contains(&(query.to().since(query.from()) + 1)));
        prop_assert!((query.from()..=query.to()).contains(&query.day));
        prop_assert!(query.rows.windows(2).all(|two| two[1].since(two[0]) == query.days));
        let read = CalendarQuery::read(again(&query.href(CALENDAR, |_| {})), &plan, today());
        prop_assert_eq!((read.at(), read.span, read.rows), (query.at(), query.span, query.rows.clone()));
        if let Some(first) = query.rows.get(row).filter(|_| at < query.days) {
            let followed = CalendarQuery::read(again(&query.followed(&format!("{first}.{at}"))), &plan, today());
            prop_assert_eq!(followed.at(), Some(*first + at));
        }
        // The view before the one after is this one.
        let (on, back) = (query.moved(1), |day: Day| {
            let from = |params: &mut super::calendar::query::Params| params.from = day.to_string();
            CalendarQuery::read(again(&query.href(CALENDAR, from)), &plan, today())
        });
        prop_assert_eq!(back(back(on).moved(-1)).rows, query.rows.clone());
        prop_assert!(query.span != Span::Month || query.rows.len() >= 4);
    }

    /// The chunks of a list are the list, one after the other.
    #[test]
    fn chunks_are_the_whole(total in 0..200usize, page in 1..50usize, beyond in 0..usize::MAX) {
        let (mut offset, mut seen) = (0, Vec::new());
        loop {
            let (range, next) = part_of(total, offset, page);
            seen.extend(range);
            let Some(next) = next else { break };
            offset = next.parse().unwrap_or(usize::MAX);
        }
        prop_assert_eq!(seen, (0..total).collect::<Vec<_>>());
        prop_assert!(part_of(total, total.saturating_add(beyond), page).0.is_empty());
    }
}

#[test]
fn a_box_that_is_ticked_several_times_is_a_list() {
    let params: super::calendar::query::Params = again("/schedule/calendar?also=a&also=b%20c&span=week&nonsense=1");
    assert_eq!(list(&params.also), ["a", "b c"]);
    assert_eq!(href("/p", &params), "/p?also=a%2Cb%20c&span=week");
}
