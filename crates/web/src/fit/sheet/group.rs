//! The side sheet of a group's cell: who is in it, who is over, which seats are open; and the sheet of an open seat.

use crate::{
    fit::{
        address::{angle::group_of, query::FitQuery, zoom::named},
        names::{group_name, project_name},
        picture::palette::Palette,
        sheet::{
            form::{BookingForm, Choices, form_of, fresh},
            ways::{self as options, OptionView},
        },
    },
    words,
};
use askama::Template;
use snug_core::{
    BookingId, Plan, budget,
    cells::{Bucket, Cell},
    kinds::{Booking, Unit, Who},
    load::{Groups, Measure, PersonCells, Query, RowKey},
    plan::Entry,
    reshape::minutes_between,
};

/// Somebody of the group in the cell.
pub struct MemberLine {
    pub href: String,
    pub name: String,
    pub says: String,
    pub over: bool,
}

#[derive(Template)]
#[template(path = "fit/sheet/group.html")]
pub struct GroupSheetView {
    pub name: String,
    pub when: String,
    pub sentence: String,
    pub over: bool,
    pub facts: Vec<(String, String)>,
    pub members: Vec<MemberLine>,
    pub members_more: usize,
    pub options_title: String,
    pub options: Vec<OptionView>,
    pub bookings: Vec<BookingForm>,
    pub fresh: Option<BookingForm>,
    pub choices: Choices,
    pub units: &'static [Unit],
    pub may_book: bool,
    pub back: String,
    pub close: String,
}

/// The most members that a sheet lists.
const MOST_MEMBERS: usize = 30;

/// The sheet of a group or an open seat, if one is selected.
pub fn view(plan: &Plan, query: &FitQuery, may_book: bool) -> Option<GroupSheetView> {
    if let Some(id) = query.group.strip_prefix("seat:") {
        return of_seat(plan, query, may_book, BookingId(id.parse().ok()?));
    }
    let key = group_of(plan, &query.group)?;
    let at = query.at.filter(|day| (query.from..=query.to()).contains(day)).unwrap_or(query.from);
    let bucket = query.buckets.iter().copied().rev().find(|b| b.from <= at)?;
    let groups = Groups::new(plan, Query { group: key.group(), measure: Measure::Minutes, ..query.load() });
    let index = query.buckets.iter().position(|b| *b == bucket)?;
    let cell = groups.row(&key)[index];
    let of_project = matches!(key, RowKey::Project(_));
    let mut members: Vec<(i64, MemberLine)> =
        groups.people(&key).into_iter().filter_map(|entry| member(plan, entry, &key, bucket, query)).collect();
    members.sort_by_key(|(rank, line)| (-rank, line.name.clone()));
    let members_more = members.len().saturating_sub(MOST_MEMBERS);
    let palette = Palette::new(plan, query.colour, query.project);
    let seats = plan.seats.values().filter(|seat| seat.start <= bucket.to && seat.end >= bucket.from);
    let bookings = seats
        .filter(|seat| key.counts(plan, seat))
        .map(|seat| seat_form(plan, seat, bucket, query, &palette))
        .collect();
    let seat_name = match &key {
        RowKey::Role(text) | RowKey::Skill(text) => text.clone(),
        _ => String::new(),
    };
    let project = match key {
        RowKey::Project(id) => id,
        _ => query.project,
    };
    let over = !of_project && (cell.spill > 0 || cell.over > 0);
    Some(GroupSheetView {
        name: group_name(plan, &key),
        when: named(query.zoom, bucket, query.order),
        sentence: sentence(&cell, of_project),
        over,
        facts: facts(plan, &key, &cell, query),
        members: members.into_iter().take(MOST_MEMBERS).map(|(_, line)| line).collect(),
        members_more,
        options_title: String::new(),
        options: Vec::new(),
        bookings,
        fresh: Some(match key {
            RowKey::Team(Some(id)) => BookingForm { team: id.0, ..fresh(plan, 0, String::new(), bucket, project) },
            _ => fresh(plan, 0, if seat_name.is_empty() { " ".to_owned() } else { seat_name }, bucket, project),
        }),
        choices: Choices { people: None, ..Choices::of(plan) },
        units: Unit::ALL,
        may_book,
        back: query.href("/fit"),
        close: query.unselected().href("/fit"),
    })
}

fn sentence(cell: &Cell, of_project: bool) -> String {
    if of_project {
        return format!("{} planned", words::hours(cell.load));
    }
    match cell.over {
        0 if cell.spill > 0 => format!("{} more than they have", words::hours(cell.spill)),
        0 => format!("{} of room", words::hours(cell.room)),
        1 => format!("1 person is over, {} of room elsewhere", words::hours(cell.room)),
        many => format!("{many} people are over, {} of room elsewhere", words::hours(cell.room)),
    }
}

fn facts(plan: &Plan, key: &RowKey, cell: &Cell, query: &FitQuery) -> Vec<(String, String)> {
    let mut facts = vec![("Planned".to_owned(), words::hours(cell.load))];
    if cell.pencilled() > 0 {
        facts.push(("of it pencilled".to_owned(), words::hours(cell.pencilled())));
    }
    if let Some(limit) = cell.limit {
        facts.push(("Limit of all of them".to_owned(), words::hours(limit)));
        facts.push(("Spill, person by person".to_owned(), words::hours(cell.spill.max(cell.peak))));
    }
    if let RowKey::Project(Some(id)) = key {
        let (worked, ahead) = (budget::worked(plan), budget::ahead(plan, query.today));
        let found = budget::of_project(plan, *id, &worked, &ahead);
        facts.push(("Worked so far".to_owned(), words::hours(found.worked)));
        facts.push(("Firm from today on".to_owned(), words::hours(found.firm)));
        facts.push(("Pencilled from today on".to_owned(), words::hours(found.pencilled)));
        if let (Some(budget), Some(gap)) = (found.budget, found.gap()) {
            facts.push(("Budgeted hours".to_owned(), words::hours(budget)));
            let name = if gap < 0 { "Beyond the budget" } else { "Gap: budgeted, not booked" };
            facts.push((name.to_owned(), words::hours(gap.abs())));
        }
    }
    facts
}

/// A member's line; in a project, what they give to it.
fn member(plan: &Plan, entry: &Entry, key: &RowKey, bucket: Bucket, query: &FitQuery) -> Option<(i64, MemberLine)> {
    let window = query.window();
    let of_project = match key {
        RowKey::Project(id) => Some(*id),
        _ => None,
    };
    let cells = PersonCells::of(plan, entry, &window, query.zoom, of_project.is_some());
    let cell = cells.cell(bucket);
    let over = cell.spill.max(cell.peak);
    let line = |says: String| MemberLine {
        href: query.selecting(entry.person.id.0, bucket.from).href("/fit"),
        name: entry.person.name.clone(),
        says,
        over: over > 0,
    };
    let whole = words::sentence(&cell, plan.settings.snug_mark);
    let Some(project) = of_project else { return Some((over * 1_000_000 - cell.room, line(whole))) };
    let slot = cells.load.slots.iter().find(|slot| slot.project == project)?;
    let range = cells.load.days.indexes(bucket.from, bucket.to);
    let here = slot.load.sum(range);
    (here > 0).then(|| (here, line(format!("{} here; {}", words::hours(here), whole.to_lowercase()))))
}

fn seat_form(plan: &Plan, seat: &Booking, bucket: Bucket, query: &FitQuery, palette: &Palette<'_>) -> BookingForm {
    let who = match &seat.who {
        Who::Role(role) => format!("Open seat: {role}"),
        Who::Team(id) => {
            plan.records.teams.get(id).map_or_else(String::new, |team| format!("{}, no name yet", team.name))
        }
        Who::Person(_) => String::new(),
    };
    let summary = format!(
        "{} · {} · {}",
        project_name(plan, seat.project),
        words::amount(seat.amount),
        words::range(seat.start, seat.end, query.order)
    );
    BookingForm { title: who, ..form_of(plan, seat, 0, summary, bucket, query, palette) }
}

fn of_seat(plan: &Plan, query: &FitQuery, may_book: bool, id: BookingId) -> Option<GroupSheetView> {
    let seat = plan.seats.get(&id)?;
    let bucket = Bucket { from: seat.start, to: seat.end };
    let minutes = minutes_between(plan, seat, seat.start, seat.end);
    let palette = Palette::new(plan, query.colour, query.project);
    let form = seat_form(plan, seat, bucket, query, &palette);
    let options = match seat.who {
        Who::Role(_) if may_book => options::hand_overs(plan, seat, bucket, minutes, query.zoom, query.today),
        _ => Vec::new(),
    };
    let empty = options.is_empty() && matches!(seat.who, Who::Role(_)) && may_book;
    Some(GroupSheetView {
        name: form.title.clone(),
        when: words::range(seat.start, seat.end, query.order),
        sentence: format!("{} with no name yet", words::hours(minutes)),
        over: false,
        facts: vec![
            ("Project".to_owned(), project_name(plan, seat.project)),
            ("How much".to_owned(), words::amount(seat.amount)),
        ],
        members: Vec::new(),
        members_more: 0,
        options_title: if empty {
            "Nobody with this role or skill has room in those days".to_owned()
        } else if options.is_empty() {
            String::new()
        } else {
            "Who could fill it".to_owned()
        },
        options,
        bookings: vec![form],
        fresh: None,
        choices: Choices { people: None, ..Choices::of(plan) },
        units: Unit::ALL,
        may_book,
        back: query.href("/fit"),
        close: query.unselected().href("/fit"),
    })
}
