//! The pictures of the Fit room against the figures they are drawn from, on the demo and on plans made up at random.

use super::{
    horizon,
    people::{Item, chosen, items},
    query::{FitParams, FitQuery},
    sheet, strata,
};
use proptest::prelude::*;
use snug_core::{
    BookingId, Day, PersonId, Plan,
    cells::{Band, Grain},
    change::{Change, Edit},
    import::preview,
    load::PersonCells,
    work::{Amount, Booking, Certainty, Unit, Who},
};
use std::path::Path;

fn demo() -> Plan {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let data = snug_exchange::csv::read_folder(&folder).unwrap();
    Plan::empty().with(&preview(&Plan::empty(), &data).changes)
}

fn today() -> Day {
    "2026-03-11".parse().unwrap()
}

fn query(plan: &Plan, params: &FitParams) -> FitQuery {
    FitQuery::read(params, plan, today())
}

fn by_name<'a>(plan: &'a Plan, name: &str) -> &'a snug_core::plan::Entry {
    plan.people.values().find(|entry| entry.person.name == name).unwrap()
}

fn number(text: &str) -> f64 {
    text.trim_end_matches('%').parse().unwrap()
}

/// Everything a row draws lies inside its picture, layers never cross the rim, and spill is at least four pixels thick.
fn is_sound(plan: &Plan, entry: &snug_core::plan::Entry, query: &FitQuery) -> Result<(), TestCaseError> {
    let row = strata::row(plan, entry, query);
    let inside = |rect: &strata::Rect| {
        let (x, width, y, height) = (number(&rect.x), number(&rect.width), number(&rect.y), number(&rect.height));
        x >= -1e-9 && x + width <= 100.0 + 1e-3 && y >= -0.05 && y + height <= 50.11 && height >= 0.0
    };
    prop_assert!(row.off.iter().chain(&row.spill).chain(row.layers.iter().flat_map(|layer| &layer.rects)).all(inside));
    prop_assert!(row.spill.iter().all(|rect| number(&rect.height) >= 4.0), "spill is never thinner");
    // The rim's height on each day, in pixels from the top.
    let days = usize::try_from(query.weeks * 7).unwrap();
    let rim_at = |day: usize| {
        let middle = (f64::from(u32::try_from(day).unwrap()) + 0.5) * 100.0 / f64::from(u32::try_from(days).unwrap());
        let flat = row.rims.iter().filter(|line| line.y1 == line.y2);
        let here = flat.filter(|line| number(&line.x1) <= middle && middle <= number(&line.x2));
        here.map(|line| number(&line.y1)).next().unwrap()
    };
    for day in 0..days {
        let middle = (f64::from(u32::try_from(day).unwrap()) + 0.5) * 100.0 / f64::from(u32::try_from(days).unwrap());
        let here = |rect: &&strata::Rect| number(&rect.x) <= middle && middle <= number(&rect.x) + number(&rect.width);
        for layer in &row.layers {
            for rect in layer.rects.iter().filter(here) {
                prop_assert!(number(&rect.y) >= rim_at(day) - 0.11, "a layer crosses the rim on day {day}");
            }
        }
        for rect in row.spill.iter().filter(here) {
            prop_assert!(number(&rect.y) + number(&rect.height) <= rim_at(day) + 0.11, "spill lies above the rim");
        }
    }
    // Each label says what the cell's figures say.
    let grain = if query.by_day { Grain::Day } else { Grain::Week };
    let cells = PersonCells::of(plan, entry, &query.window(), grain, false);
    let buckets = grain.buckets(query.from, query.to(), &plan.settings);
    prop_assert_eq!(row.cells.len(), buckets.len());
    for (shown, bucket) in row.cells.iter().zip(buckets) {
        let band = cells.cell(bucket).band(plan.settings.snug_mark).unwrap();
        prop_assert_eq!(shown.band, band.as_str());
        prop_assert_eq!(shown.label.starts_with('+'), band == Band::Over, "{}", &shown.label);
    }
    Ok(())
}

#[test]
fn every_row_of_the_demo_is_drawn_as_it_is_computed() {
    let plan = demo();
    for params in [
        FitParams::default(),
        FitParams { by: "day".into(), ..FitParams::default() },
        FitParams { weeks: "26".into(), ..FitParams::default() },
        FitParams { from: "2026-05-04".into(), weeks: "1".into(), ..FitParams::default() },
    ] {
        let query = query(&plan, &params);
        for entry in plan.people.values() {
            is_sound(&plan, entry, &query).unwrap();
        }
    }
}

#[test]
fn a_layer_is_as_thick_as_its_hours() {
    let plan = demo();
    let query = query(&plan, &FitParams::default());
    let row = strata::row(&plan, by_name(&plan, "Malik Strand"), &query);
    let layer = row.layers.iter().find(|layer| layer.booking != 0).unwrap();
    let booking: Booking = serde_json::from_str(&layer.seen).unwrap();
    assert_eq!(booking.amount.unit, Unit::PerDay);
    let thick = number(&layer.rects[0].height);
    assert!((thick - f64::from(booking.amount.value) / 60.0 * row.hour).abs() < 0.11, "{thick}");
}

#[test]
fn people_are_found_by_name_role_skill_team_and_state() {
    let plan = demo();
    let names = |params: FitParams| -> Vec<String> {
        let query = query(&plan, &params);
        chosen(&plan, &query).into_iter().map(|entry| entry.person.name.clone()).collect()
    };
    let all = names(FitParams::default());
    assert_eq!(all.len(), 30);
    assert_eq!(all[26..], ["Router table", "Scissor lift", "Van North", "Van South"], "equipment stands last");
    assert_eq!(names(FitParams { q: "VARGA".into(), ..FitParams::default() }), ["Oona Varga"]);
    assert_eq!(names(FitParams { q: "rigging".into(), ..FitParams::default() }), ["Jonah Petrov", "Ruth Engel"]);
    assert_eq!(names(FitParams { role: "rigger".into(), ..FitParams::default() }), ["Jonah Petrov", "Ruth Engel"]);
    let over = names(FitParams { band: "over".into(), ..FitParams::default() });
    assert!(over.contains(&"Oona Varga".to_owned()) && over.len() < 20, "{over:?}");
    let sparks = names(FitParams { team: "sparks".into(), ..FitParams::default() });
    assert!(sparks.contains(&"Teo Lindqvist".to_owned()) && !sparks.contains(&"Greta Sund".to_owned()), "{sparks:?}");
}

#[test]
fn by_team_everybody_stands_under_each_team_they_give_time_to() {
    let plan = demo();
    let query = query(&plan, &FitParams { group: "team".into(), ..FitParams::default() });
    let people = chosen(&plan, &query);
    let list = items(&plan, &query, &people);
    let rows =
        |id: PersonId| list.iter().filter(|item| matches!(item, Item::Row(entry) if entry.person.id == id)).count();
    for entry in plan.people.values() {
        let id = entry.person.id;
        let teams = plan.teams.values().filter(|team| team.members.iter().any(|(member, _)| *member == id)).count();
        assert_eq!(rows(id), teams.max(1), "{}", entry.person.name);
    }
    let heads = list.iter().filter(|item| matches!(item, Item::Head(..))).count();
    let manned = plan.teams.values().filter(|team| !team.members.is_empty()).count();
    assert!(heads == manned || heads == manned + 1, "{heads} heads for {manned} teams with people");
}

#[test]
fn the_horizon_adds_up_everybody_and_marks_the_window() {
    let plan = demo();
    let query = query(&plan, &FitParams::default());
    let strips = horizon::Horizons::default();
    let first = horizon::first_day(&query, &plan);
    let weeks = strips.weeks(&plan, &query, first);
    let view = horizon::view(&query, &weeks);
    assert_eq!((view.bars.len(), first.to_string().as_str()), (26, "2026-02-23"));
    assert_eq!(view.bars.iter().filter(|bar| bar.inside).count(), 6);
    assert_eq!(view.bars.iter().find(|bar| bar.inside).unwrap().from, "2026-03-09");
    assert!(view.bars.iter().all(|bar| number(&bar.y) >= 7.9 && number(&bar.spill_y) >= 0.0));
    // A strip is computed once for a plan and a filter, and anew for another plan.
    assert!(std::sync::Arc::ptr_eq(&weeks, &strips.weeks(&plan, &query, first)));
    let mut next = plan.clone();
    next.revision += 1;
    assert!(!std::sync::Arc::ptr_eq(&weeks, &strips.weeks(&next, &query, first)));
}

#[test]
fn the_side_sheet_adds_up_to_its_cell() {
    let plan = demo();
    let oona = by_name(&plan, "Oona Varga").person.id.0.to_string();
    let params = FitParams { person: oona, at: "2026-03-23".into(), ..FitParams::default() };
    let query = query(&plan, &params);
    let view = sheet::view(&plan, &query, true).unwrap();
    assert_eq!((view.name.as_str(), view.when.as_str(), view.over), ("Oona Varga", "week of 23 March", true));
    assert_eq!(view.sentence, "6 h over the limit");
    assert_eq!((view.limit_name.as_str(), view.limit.as_str()), ("Limit, at most 32 h a week", "32 h"));
    let hours: f64 = view.parts.iter().map(|part| part.hours.trim_end_matches(" h").parse::<f64>().unwrap()).sum();
    assert!((hours - 38.0).abs() < 0.02, "{hours} h are 6 h more than 32 h");
    assert!(view.result.starts_with("+6 h") && view.result_name.starts_with("Spill"));
    assert!(
        !view.bookings.is_empty() && view.projects.iter().all(|choice| choice.name != "Kelp Forest"),
        "closed projects are no choice"
    );
    let nobody = FitQuery { person: Some(999_999), ..query };
    assert!(sheet::view(&plan, &nobody, true).is_none());
}

fn amount() -> impl Strategy<Value = Amount> {
    prop_oneof![
        (1..900).prop_map(|value| Amount { value, unit: Unit::PerDay }),
        (1..4_000).prop_map(|value| Amount { value, unit: Unit::PerWeek }),
        (1..9_000).prop_map(|value| Amount { value, unit: Unit::Total }),
        (1..20_000).prop_map(|value| Amount { value, unit: Unit::Percent }),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn any_bookings_are_drawn_inside_their_picture(
        who in 0usize..30,
        list in prop::collection::vec((0i32..40, 0i32..30, amount(), any::<bool>(), any::<bool>()), 0..6),
        by_day in any::<bool>(),
    ) {
        let plan = demo();
        let entry = plan.people.values().nth(who).unwrap();
        let project = plan.projects.keys().next().copied();
        let changes: Vec<Change> = list
            .iter()
            .enumerate()
            .map(|(at, (start, length, amount, firm, days_off))| {
                Change::Booking(Edit::new(Booking {
                    id: BookingId(50_000 + i32::try_from(at).unwrap()),
                    reference: String::new(),
                    who: Who::Person(entry.person.id),
                    project: project.filter(|_| at % 3 != 0),
                    start: today() + *start,
                    end: today() + *start + *length,
                    amount: *amount,
                    certainty: if *firm { Certainty::Firm } else { Certainty::Pencilled },
                    days_off: *days_off,
                    note: String::new(),
                }))
            })
            .collect();
        let plan = plan.with(&changes);
        let params = FitParams { by: if by_day { "day".into() } else { String::new() }, ..FitParams::default() };
        let query = query(&plan, &params);
        is_sound(&plan, &plan.people[&plan.people.keys().nth(who).copied().unwrap()], &query)?;
    }
}
