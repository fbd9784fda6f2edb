//! What addresses of Even out ask for: whatever comes is bounded, names only who is there, and reads back as itself.

use super::asked::{Asked, Tool};
use crate::fit::{
    address::query::{FitParams, FitQuery},
    tests::{demo, today},
};
use proptest::{collection::vec, prelude::*, sample::select};
use snug_core::{PersonId, Plan};
use std::sync::LazyLock;

static DEMO: LazyLock<Plan> = LazyLock::new(demo);

/// What somebody may type for any of its names.
fn words() -> impl Strategy<Value = Vec<(String, String)>> {
    let names = ["tool", "person", "team", "from", "weeks", "cut", "pin", "other"];
    let values = [
        "",
        "all",
        "flatten",
        "unworked",
        "1",
        "2,3,5",
        "-1",
        "0",
        "7",
        "99999999999",
        "2026-03-16",
        "2026-02-30",
        "0001-01-01",
        "9999-12-31",
        "design",
        "a & b",
        ",,",
        "1,x,2",
    ];
    vec(
        (select(names.to_vec()), select(values.to_vec())).prop_map(|(name, value)| (name.to_owned(), value.to_owned())),
        0..8,
    )
}

proptest! {
    #[test]
    fn whatever_is_asked_for_is_bounded_and_reads_back_as_itself(pairs in words()) {
        let plan = &*DEMO;
        let asked = Asked::of(&pairs);
        let (picked, problem) = asked.picked(plan, today());
        prop_assert!((1..=26).contains(&picked.weeks));
        prop_assert!(picked.people.iter().all(|id| plan.people.contains_key(id)));
        let (from, to) = picked.days;
        match asked.tool() {
            Tool::Flatten => {
                prop_assert_eq!(from, from.monday());
                prop_assert_eq!(to.since(from) + 1, 7 * picked.weeks);
                prop_assert!(from >= today().monday() && from.since(today()) <= 366, "nothing that is over is moved");
            }
            Tool::Unworked => prop_assert!(to == today() - 1 && from < to, "hours of past days alone are offered again"),
        }
        let is_said = problem.as_ref().is_some_and(|text| text.starts_with("From when? "));
        prop_assert!(problem.is_none() || is_said, "{:?}", problem);
        // The form and the address say the same, and mean the same once more.
        let said: Vec<(String, String)> =
            asked.pairs().into_iter().map(|(name, value)| (name.to_owned(), value.to_owned())).collect();
        let again = Asked::of(&said);
        prop_assert_eq!(again.address(), asked.address());
        let (repeated, _) = again.picked(plan, today());
        prop_assert_eq!((repeated.people, repeated.days, repeated.movable), (picked.people, picked.days, picked.movable));
    }

    /// From the Fit room it begins with the weeks that are seen there, as far as they are to come, and with whom one sees.
    #[test]
    fn from_the_fit_room_it_asks_for_what_is_seen_there(
        from in -30..60_i32, span in 1..30_i32, zoom in select(&["day", "week", "month", "quarter"][..]), some in any::<bool>(),
    ) {
        let plan = &*DEMO;
        let params = FitParams {
            from: (today() + from).to_string(),
            span: span.to_string(),
            zoom: zoom.to_owned(),
            ..FitParams::default()
        };
        let query = FitQuery::read(&params, plan, today());
        let few: Vec<i32> = if some { plan.people.keys().take(3).map(|id| id.0).collect() } else { Vec::new() };
        let (picked, problem) = Asked::in_fit(&query, &few).picked(plan, today());
        prop_assert_eq!(problem, None);
        let named: Vec<i32> = picked.people.iter().map(|PersonId(id)| *id).collect();
        let expected = if some { few } else { plan.people.keys().map(|id| id.0).collect() };
        prop_assert_eq!(named, expected);
        prop_assert_eq!(picked.days.0, query.from.monday().max(today().monday()));
        let seen = ((query.days() + 6) / 7).min(26);
        prop_assert_eq!(picked.weeks, seen);
    }
}
