//! The pictures of the Fit room against the figures they are drawn from, on the demo and on plans made up at random.

use crate::{
    fit::{
        address::query::{FitParams, FitQuery},
        files::table,
        list::{self as lines, Line, lines as all_lines},
        picture::{
            group as head,
            palette::{OTHER, Palette},
            person::{self as row, RowView},
        },
        sheet::person as sheet,
        strips::{alerts, horizon, tray},
    },
    grid::{Rect, Shapes},
    kept::Kept,
};
use proptest::prelude::*;
use snug_core::{
    BookingId, Day, Eyes, PersonId, Plan,
    alerts::Alert,
    cells::{Band, Grain},
    change::{Change, Edit},
    import::preview,
    kinds::{Amount, Booking, Certainty, Unit, Who},
    load::{Group, Groups, Measure, PersonCells, RowKey, table as load_table},
    plan::Entry,
};
use std::{path::Path, sync::Arc};

pub fn demo() -> Plan {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let data = snug_exchange::csv::read_folder(&folder).unwrap();
    Plan::empty().with(&preview(&Plan::empty(), &data).changes)
}

pub fn today() -> Day {
    "2026-03-11".parse().unwrap()
}

fn query(plan: &Plan, params: &FitParams) -> FitQuery {
    FitQuery::read(params, plan, today())
}

fn by_name<'a>(plan: &'a Plan, name: &str) -> &'a Entry {
    plan.people.values().find(|entry| entry.person.name == name).unwrap()
}

fn number(text: &str) -> f64 {
    text.trim_end_matches('%').parse().unwrap()
}

fn chosen<'a>(plan: &'a Plan, query: &FitQuery) -> Vec<&'a Entry> {
    lines::chosen(&Kept::default(), plan, query)
}

fn draw(plan: &Plan, entry: &Entry, query: &FitQuery) -> RowView {
    let groups = Groups::new(plan, query.load());
    row::row(&groups, plan, entry, query, &Palette::new(plan, query.colour, query.project))
}

fn rows<'a>(plan: &'a Plan, params: &FitParams) -> Vec<Line<'a>> {
    let query = query(plan, params);
    let people = chosen(plan, &query);
    let groups = Groups::new(plan, query.load());
    all_lines(plan, &query, &people, &groups)
}

/// The shapes of a path, read from what a browser is sent.
fn drawn(elements: &str) -> Vec<Rect> {
    let pieces = elements.split(['M', 'm']).skip(1).zip(elements.matches(['M', 'm']));
    let numbers = |piece: &str| -> Vec<f64> {
        let parts = piece.split(|c: char| !(c.is_ascii_digit() || c == '.')).filter(|part| !part.is_empty());
        parts.map(|part| part.parse().unwrap()).collect()
    };
    let index = |number: f64| format!("{number}").parse::<usize>().unwrap();
    let mut before = (0.0, 0.0);
    let rect = |(piece, begins): (&str, &str)| {
        let [across, down, top, days] = numbers(piece)[..4] else { panic!("{piece} is no rectangle") };
        // A small letter goes on from where the one before began.
        let (from, floor) = if begins == "m" { (before.0 + across, before.1 + down) } else { (across, down) };
        before = (from, floor);
        Rect { from: index(from), to: index(from + days), top, floor }
    };
    pieces.map(rect).collect()
}

/// The height of a rim on each day, read from what a browser is sent.
fn drawn_rim(elements: &str) -> Vec<f64> {
    let path = elements.split_once("d=\"M0 ").unwrap().1.split('"').next().unwrap();
    let piece = |piece: &str| {
        let (y, days) = piece.split_once('h').unwrap();
        vec![y.parse().unwrap(); days.parse().unwrap()]
    };
    path.split('V').flat_map(piece).collect()
}

/// Everything a row draws lies inside its picture, layers never cross the rim, and spill is at least four pixels thick.
fn is_sound(plan: &Plan, entry: &Entry, query: &FitQuery) -> Result<(), TestCaseError> {
    let row = draw(plan, entry, query);
    let days = usize::try_from(query.days()).unwrap();
    let floor = query.height.floor();
    let inside = |rect: &Rect| {
        rect.from < rect.to && rect.to <= days && rect.top >= 0.0 && rect.top <= rect.floor && rect.floor <= floor + 0.1
    };
    let layers = row.layers.iter().flat_map(|layer| &layer.shapes.0);
    prop_assert!(drawn(&row.off.to_string()).iter().chain(&row.spill.0).chain(layers).all(inside));
    prop_assert!(row.spill.0.iter().all(|rect| rect.floor - rect.top >= 3.99), "spill is never thinner");
    // The rim's height on each day, in pixels from the top.
    let rim = drawn_rim(&row.rim.to_string());
    prop_assert_eq!(rim.len(), days);
    let rim_at = |day: usize| rim[day];
    for day in 0..days {
        let here = |rect: &&Rect| (rect.from..rect.to).contains(&day);
        for layer in &row.layers {
            for rect in layer.shapes.0.iter().filter(here) {
                prop_assert!(rect.top >= rim_at(day) - 0.11, "a layer crosses the rim on day {day}");
            }
        }
        for rect in row.spill.0.iter().filter(here) {
            prop_assert!(rect.floor <= rim_at(day).max(4.0) + 0.11, "spill lies above the rim");
        }
    }
    // Each label says what the cell's figures say.
    let cells = PersonCells::of(plan, entry, &query.window(), query.zoom, false);
    prop_assert_eq!(row.cells.len(), query.buckets.len());
    for (shown, bucket) in row.cells.iter().zip(&query.buckets) {
        let band = cells.cell(*bucket).band(plan.settings.snug_mark).unwrap();
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
        FitParams { zoom: "day".into(), rows: "tall".into(), ..FitParams::default() },
        FitParams { span: "26".into(), rows: "compact".into(), ..FitParams::default() },
        FitParams { zoom: "fortnight".into(), ..FitParams::default() },
        FitParams { zoom: "month".into(), span: "5".into(), ..FitParams::default() },
        FitParams { from: "2026-05-04".into(), span: "1".into(), ..FitParams::default() },
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
    let row = draw(&plan, by_name(&plan, "Malik Strand"), &query);
    let layer = row.layers.iter().find(|layer| layer.tag.is_some()).unwrap();
    let booking = plan.booking(BookingId(layer.tag.unwrap().id)).unwrap();
    assert_eq!(booking.amount.unit, Unit::PerDay);
    let [Rect { top, floor, .. }, ..] = layer.shapes.0[..] else { panic!("nothing is drawn") };
    let hours = f64::from(booking.amount.value) / 60.0;
    assert!((floor - top - hours * query.height.hour()).abs() < 0.01, "{top} to {floor}");
    // What a browser is sent is what was computed, to a tenth of a pixel.
    let sent = drawn(&layer.shapes.to_string());
    assert_eq!(sent.len(), layer.shapes.0.len());
    for (sent, shape) in sent.iter().zip(&layer.shapes.0) {
        assert_eq!((sent.from, sent.to), (shape.from, shape.to));
        assert!((sent.top - shape.top).abs() < 0.051 && (sent.floor - shape.floor).abs() < 0.051);
    }
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
    let list = rows(&plan, &FitParams { angle: "team".into(), ..FitParams::default() });
    let standing =
        |id: PersonId| list.iter().filter(|line| matches!(line, Line::Row(entry, _) if entry.person.id == id)).count();
    for entry in plan.people.values() {
        let id = entry.person.id;
        let teams =
            plan.records.teams.values().filter(|team| team.members.iter().any(|(member, _)| *member == id)).count();
        assert_eq!(standing(id), teams.max(1), "{}", entry.person.name);
    }
}

#[test]
fn heads_say_what_the_load_table_says_at_every_angle_and_by_every_measure() {
    let plan = demo();
    for (angle, group) in
        [("team", Group::Team), ("role", Group::Role), ("skill", Group::Skill), ("project", Group::Project)]
    {
        for measure in ["minutes", "projects", "tasks", "points", "field Weight kg"] {
            let params = FitParams { angle: angle.into(), measure: measure.into(), ..FitParams::default() };
            let query = query(&plan, &params);
            assert_eq!((query.load().group, query.measure_word.is_empty()), (group, measure == "minutes"));
            let table = load_table(&plan, &query.load());
            let groups = Groups::new(&plan, query.load());
            let mut heads = 0;
            for line in rows(&plan, &params) {
                let Line::Head(head) = line else { continue };
                let key = head.key.text(&plan);
                let Some(row) = table.rows.iter().find(|row| row.key == key) else {
                    assert!(groups.row(&head.key).iter().all(|cell| cell.load == 0), "{key} has no row in the table");
                    continue;
                };
                assert_eq!(groups.row(&head.key), row.band_cells, "{key} by {measure}");
                let view = head::head(&groups, &plan, &head, &query, &Palette::new(&plan, query.colour, None));
                assert_eq!(view.cells.len(), 6);
                heads += 1;
            }
            assert!(heads > 3 || measure != "minutes", "{angle} has {heads} heads");
        }
    }
}

#[test]
fn with_one_project_in_view_the_others_stay_in_the_sum_in_slate() {
    let plan = demo();
    let all = query(&plan, &FitParams::default());
    let one = query(&plan, &FitParams { project: "beetle".into(), ..FitParams::default() });
    let people = chosen(&plan, &one);
    assert!(people.len() > 3 && people.len() < 15, "only who is on it: {}", people.len());
    let felix = by_name(&plan, "Felix Osei");
    let (whole, focused) = (draw(&plan, felix, &all), draw(&plan, felix, &one));
    let labels = |row: &RowView| row.cells.iter().map(|cell| cell.label.clone()).collect::<Vec<_>>();
    assert_eq!(labels(&whole), labels(&focused), "figures stay");
    let slate = focused.layers.iter().filter(|layer| layer.hue == OTHER).count();
    assert!(slate > 0 && slate < focused.layers.len());
    assert!(focused.layers[0].title.starts_with("Beetle Hall refit"), "what is in view lies lowest");
}

/// What a row has without some of its bookings: as if they were not in the plan.
#[test]
fn what_is_pencilled_or_held_can_be_left_out_of_picture_and_figures_alike() {
    let plan = demo();
    let params = FitParams { span: "12".into(), ..FitParams::default() };
    let mut left_out = 0;
    for (layers, is_gone) in [
        ("pencilled", (|it| it.certainty == Certainty::Pencilled) as fn(&Booking) -> bool),
        ("holds", |it| it.project.is_none()),
        ("pencilled,holds", |it| it.certainty == Certainty::Pencilled || it.project.is_none()),
    ] {
        let query = query(&plan, &FitParams { layers: layers.into(), ..params.clone() });
        let all = FitQuery { turned_layers: std::collections::BTreeSet::new(), ..query.clone() };
        let gone: Vec<Change> =
            plan.bookings().filter(is_gone).map(|booking| Change::Booking(Edit::remove(booking))).collect();
        let rest = plan.with(&gone);
        for (id, entry) in &plan.people {
            let (without, removed) = (draw(&plan, entry, &query), draw(&rest, &rest.people[id], &all));
            let told = |row: &RowView| row.cells.iter().map(|cell| cell.spoken.clone()).collect::<Vec<_>>();
            assert_eq!(told(&without), told(&removed), "{} without {layers}", entry.person.name);
            let drawn = |row: &RowView| row.layers.iter().map(|layer| layer.tag.map(|tag| tag.id)).collect::<Vec<_>>();
            assert_eq!(drawn(&without), drawn(&removed));
            left_out += usize::from(drawn(&without) != drawn(&draw(&plan, entry, &all)));
        }
    }
    assert!(left_out > 3, "{left_out} rows have something to leave out");
}

/// The hours that shapes stand for on a day.
fn hours_at(shapes: &Shapes, day: usize, query: &FitQuery) -> f64 {
    let here = shapes.0.iter().filter(|rect| (rect.from..rect.to).contains(&day));
    here.map(|rect| rect.floor - rect.top).sum::<f64>() / query.height.hour()
}

/// Shapes are drawn to a tenth of a pixel, at both ends.
fn is_near(drawn: f64, hours: f64, query: &FitQuery) -> bool {
    (drawn - hours).abs() <= 0.25 / query.height.hour()
}

fn hours(minutes: i32) -> f64 {
    f64::from(minutes) / 60.0
}

#[test]
fn tasks_lie_in_the_layers_of_their_project_as_thick_as_their_hours() {
    let plan = demo();
    let query = query(&plan, &FitParams { layers: "tasks".into(), rows: "tall".into(), ..FitParams::default() });
    let mut seen = 0;
    for entry in plan.people.values() {
        let row = draw(&plan, entry, &query);
        let load = PersonCells::of(&plan, entry, &query.window(), query.zoom, true).load;
        for (day, at) in load.days.indexes(query.from, query.to()).enumerate() {
            // Where nothing goes over the rim every minute of a task finds its place.
            if load.load[at] > load.days.rim()[at] {
                continue;
            }
            for part in load.tasks.iter().filter(|part| part.minutes[at] > 0) {
                let title = &plan.tasks[&part.task].title;
                let lanes = row.lanes.iter().filter(|lane| lane.title.starts_with(title.as_str()));
                let drawn: f64 = lanes.map(|lane| hours_at(&lane.shapes, day, &query)).sum();
                assert!(is_near(drawn, hours(part.minutes[at]), &query), "{title}, day {day}: {drawn} h");
                seen += 1;
            }
        }
    }
    assert!(seen > 100, "{seen} days of tasks are drawn");
}

#[test]
fn beside_a_draft_the_live_plan_is_drawn_on_the_days_on_which_it_is_other() {
    let live = demo();
    let later = |booking: Booking| {
        let moved = Booking { start: booking.start + 7, end: booking.end + 7, ..booking.clone() };
        Change::Booking(Edit::alter(booking, moved))
    };
    let draft = live.with(&live.bookings().take(40).map(later).collect::<Vec<_>>());
    let query = FitQuery { live: Some(Arc::new(live.clone())), ..query(&draft, &FitParams::default()) };
    let mut other = 0;
    for (id, entry) in &draft.people {
        let minutes = |plan: &Plan| -> Vec<i32> {
            let load = PersonCells::of(plan, &plan.people[id], &query.window(), Grain::Day, false).load;
            load.load.days(load.days.indexes(query.from, query.to())).collect()
        };
        let row = draw(&draft, entry, &query);
        for (day, (there, here)) in minutes(&live).into_iter().zip(minutes(&draft)).enumerate() {
            let piece = row.live.0.iter().find(|(from, to, _)| (*from..*to).contains(&day));
            assert_eq!(piece.is_some(), there != here, "{} on day {day}", entry.person.name);
            if let Some((.., y)) = piece {
                assert!(
                    is_near((query.height.floor() - y) / query.height.hour(), hours(there), &query),
                    "day {day}: {y}"
                );
                other += 1;
            }
        }
    }
    assert!(other > 20, "{other} days are other");
}

#[test]
fn free_hours_are_what_is_left_under_the_rim() {
    let plan = demo();
    let query = query(&plan, &FitParams { layers: "free".into(), rows: "tall".into(), ..FitParams::default() });
    for entry in plan.people.values() {
        let row = draw(&plan, entry, &query);
        let load = PersonCells::of(&plan, entry, &query.window(), query.zoom, false).load;
        for (day, at) in load.days.indexes(query.from, query.to()).enumerate() {
            let free = hours(load.days.rim()[at] - load.load[at]).max(0.0);
            let drawn = hours_at(&row.free, day, &query);
            assert!(is_near(drawn, free, &query), "{}, day {day}: {drawn} h drawn, {free} h free", entry.person.name);
        }
    }
}

#[test]
fn warnings_count_what_the_rows_show_and_open_them() {
    let mut plan = demo();
    // Besides what the demo holds: a booking on a weekend alone, and one that is marked to work there.
    let malik = by_name(&plan, "Malik Strand").person.id;
    let saturday: Day = "2026-03-21".parse().unwrap();
    for (id, days_off) in [(50_000, false), (50_001, true)] {
        plan.apply(&Change::Booking(Edit::new(Booking {
            id: BookingId(id),
            reference: String::new(),
            who: Who::Person(malik),
            project: None,
            start: saturday,
            end: saturday + 1,
            amount: Amount { value: 60, unit: Unit::PerDay },
            certainty: Certainty::Firm,
            days_off,
            note: String::new(),
            line: String::new(),
        })));
    }
    let kept = Kept::default();
    let usual = query(&plan, &FitParams::default());
    let strip = alerts::view(&kept, &plan, &usual);
    let mut told = Vec::new();
    for alert in &strip.alerts {
        let params: FitParams = serde_urlencoded::from_str(alert.href.split_once('?').unwrap().1).unwrap();
        let query = query(&plan, &params);
        let kind = query.alert.unwrap();
        told.push(kind);
        let number: usize = alert.text.split(' ').next().unwrap().parse().unwrap();
        let opened = rows(&plan, &params);
        if kind == Alert::Unbooked {
            let heads = opened.iter().filter(|line| matches!(line, Line::Head(_))).count();
            assert_eq!(number, heads, "{}", alert.text);
            continue;
        }
        // The rows that open are those of everybody with the warning, and what is counted are their warnings.
        let of = |entry: &Entry| {
            let (window, buckets) = (usual.window(), &usual.buckets);
            snug_core::alerts::of_person(&plan, entry, &window, usual.zoom, buckets).count(kind)
        };
        let counts: Vec<(PersonId, usize)> = plan.people.iter().map(|(id, entry)| (*id, of(entry))).collect();
        let expected: Vec<PersonId> = counts.iter().filter(|(_, count)| *count > 0).map(|(id, _)| *id).collect();
        let mut people: Vec<PersonId> = opened
            .iter()
            .filter_map(|line| if let Line::Row(entry, _) = line { Some(entry.person.id) } else { None })
            .collect();
        people.sort_unstable();
        assert_eq!(people, expected, "{}", alert.text);
        assert_eq!(number, counts.iter().map(|(_, count)| count).sum::<usize>(), "{}", alert.text);
    }
    let missing: Vec<&Alert> = Alert::ALL.iter().filter(|alert| !told.contains(alert)).collect();
    assert!(missing.is_empty() || missing == [&Alert::Unbooked], "{missing:?} are not told");
}

#[test]
fn the_tray_has_what_is_unplaced() {
    let plan = demo();
    let tray = tray::view(&Kept::default(), &plan, &query(&plan, &FitParams::default()), true);
    assert_eq!(tray.slips.len() + tray.more, 7);
    assert!(tray.slips[0].is_seat && tray.slips[0].name.starts_with("Open seat: "));
    let glacier = query(&plan, &FitParams { project: "beetle".into(), ..FitParams::default() });
    let less = tray::view(&Kept::default(), &plan, &glacier, true);
    assert!(less.slips.len() < 7, "only what is of the project in view");
}

#[test]
fn the_table_twin_has_the_same_figures() {
    let plan = demo();
    let query = query(&plan, &FitParams { angle: "role".into(), ..FitParams::default() });
    let twin = table::twin(&Kept::default(), &plan, &query);
    let whole = load_table(&plan, &query.load());
    for (row, (_, head)) in twin.table.rows.iter().zip(&twin.names).filter(|(_, (_, head))| *head) {
        assert!(*head);
        assert_eq!(row.cells, whole.rows.iter().find(|other| other.key == row.key).unwrap().cells);
    }
    let csv = snug_exchange::table::csv(&twin.table, &query.load(), &plan.settings);
    assert!(csv.starts_with("key,start,limit_min,") && csv.contains("rigger,2026-03-09,"));
    let names: Vec<String> = twin.names.into_iter().map(|(name, _)| name).collect();
    let book = snug_exchange::xlsx::load_table(&twin.table, &query.load(), &names, "hours").unwrap();
    assert_eq!(&book[..2], b"PK");
    assert_eq!(query.measure, Measure::Minutes);
    assert!(Groups::new(&plan, query.load()).people(&RowKey::Role("rigger".into())).len() >= 2);
}

#[test]
fn the_horizon_adds_up_everybody_and_marks_the_window() {
    let plan = demo();
    let query = query(&plan, &FitParams::default());
    let kept = Kept::default();
    let first = horizon::first_day(&query, &plan);
    let weeks = horizon::weeks(&kept, &plan, &query, first);
    let view = horizon::view(&plan, &query, &weeks);
    assert_eq!((view.bars.len(), first.to_string().as_str()), (26, "2026-02-23"));
    assert_eq!(view.bars.iter().filter(|bar| bar.inside).count(), 6);
    assert_eq!(view.bars.iter().find(|bar| bar.inside).unwrap().from, "2026-03-09");
    assert!(view.bars.iter().all(|bar| number(&bar.y) >= 7.9 && number(&bar.spill_y) >= 0.0));
    // A strip is computed once for a plan and a filter, and anew for another plan.
    assert!(std::sync::Arc::ptr_eq(&weeks, &horizon::weeks(&kept, &plan, &query, first)));
    for (reading, revision) in [(0, 1), (1, 0)] {
        let mut next = plan.clone();
        next.reading += reading;
        next.revision += revision;
        assert!(!std::sync::Arc::ptr_eq(&weeks, &horizon::weeks(&kept, &next, &query, first)));
        assert!(!std::sync::Arc::ptr_eq(&weeks, &horizon::weeks(&kept, &plan, &query, first)), "kept of the last only");
    }
}

#[test]
fn the_side_sheet_adds_up_to_its_cell() {
    let plan = demo();
    let oona = by_name(&plan, "Oona Varga").person.id.0.to_string();
    let params = FitParams { person: oona, at: "2026-03-23".into(), ..FitParams::default() };
    let query = query(&plan, &params);
    let view = sheet::view(&Eyes::of_all(&plan), &query, true).unwrap();
    assert_eq!((view.name.as_str(), view.when.as_str(), view.over), ("Oona Varga", "week of 23 March", true));
    assert_eq!(view.sentence, "6 h over the limit");
    assert_eq!((view.limit_name.as_str(), view.limit.as_str()), ("Limit, at most 32 h a week", "32 h"));
    let hours: f64 = view.parts.iter().map(|part| part.hours.trim_end_matches(" h").parse::<f64>().unwrap()).sum();
    assert!((hours - 38.0).abs() < 0.02, "{hours} h are 6 h more than 32 h");
    assert!(view.result.starts_with("+6 h") && view.result_name.starts_with("Spill"));
    assert!(
        !view.bookings.is_empty()
            && view.choices.projects.as_ref().unwrap().iter().all(|choice| choice.name != "Kelp Forest"),
        "closed projects are no choice"
    );
    let ways = view.ways.unwrap();
    assert!(ways.options.iter().all(|way| !way.says.is_empty()), "each way says what it would do");
    assert!(ways.title.contains("6 h"), "{}", ways.title);
    let nobody = FitQuery { person: Some(999_999), ..query };
    assert!(sheet::view(&Eyes::of_all(&plan), &nobody, true).is_none());
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
        let project = plan.records.projects.keys().next().copied();
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
                    line: String::new(),
                }))
            })
            .collect();
        let plan = plan.with(&changes);
        let params = FitParams { zoom: if by_day { "day".into() } else { String::new() }, ..FitParams::default() };
        let query = query(&plan, &params);
        is_sound(&plan, &plan.people[&plan.people.keys().nth(who).copied().unwrap()], &query)?;
    }
}

/// The line of what was worked stands at the hours of each past day, and is drawn for those alone who see these hours.
#[test]
fn what_was_worked_is_a_line_over_past_days_for_those_who_see_it() {
    let plan = demo();
    let entry = by_name(&plan, "Oona Varga");
    let params =
        FitParams { from: "2026-03-02".into(), span: "3".into(), layers: "worked".into(), ..FitParams::default() };
    let line = |params: &FitParams, eyes: &Eyes<'_>| draw(&plan, entry, &query(&plan, params).seen_by(eyes)).worked;
    let all = Eyes::of_all(&plan);
    let found = line(&params, &all);
    let days: usize = found.0.iter().map(|(from, to, _)| to - from).sum();
    assert_eq!(days, 9, "from Monday of last week to yesterday");
    let query = query(&plan, &params);
    for at in 0..9 {
        let date = query.from + i32::try_from(at).unwrap();
        let logged: i32 = plan.log_of(entry.person.id, date, date).iter().map(|row| row.minutes).sum();
        let (_, _, top) = found.0.iter().find(|(from, to, _)| (*from..*to).contains(&at)).unwrap();
        let floor = query.height.floor();
        let expected = floor - (f64::from(logged) / 60.0 * query.height.hour()).min(floor);
        assert!((top - expected).abs() < 0.01, "{date}: {logged} minutes at {top}");
    }
    assert!(line(&params, &Eyes::of_none(&plan)).0.is_empty(), "not for those who do not see them");
    let told = |eyes: &Eyes<'_>| {
        let selected = query.selecting(entry.person.id.0, query.from);
        sheet::view(eyes, &selected, true).unwrap().worked
    };
    let of_week = plan.log_of(entry.person.id, query.from, query.from + 6).iter().map(|row| i64::from(row.minutes));
    assert_eq!(
        (told(&all), told(&Eyes::of_none(&plan))),
        (Some(crate::words::hours(of_week.sum())), None),
        "as the side sheet"
    );
    assert!(line(&FitParams { layers: String::new(), ..params }, &all).0.is_empty(), "nor where nobody asks for it");
}
