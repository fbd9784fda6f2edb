//! A tag names one version of one record, so that somebody who was slower is told.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use snug_core::{
    BookingId, PersonId, Plan, RefusalCode, Tag,
    change::{Change, Edit},
    kinds::{Amount, Booking, Certainty, Kind, Unit, Who},
};
use support::day;

fn booking(id: i32) -> Booking {
    Booking {
        id: BookingId(id),
        reference: String::new(),
        who: Who::Person(PersonId(1)),
        project: None,
        start: day(0),
        end: day(4),
        amount: Amount { value: 240, unit: Unit::PerDay },
        certainty: Certainty::Firm,
        days_off: false,
        note: String::new(),
        line: String::new(),
    }
}

fn placed(bookings: &[Booking]) -> Plan {
    let person = Change::Person(Edit::new(support::person(1)));
    let bookings: Vec<Change> = bookings.iter().cloned().map(|one| Change::Booking(Edit::new(one))).collect();
    Plan::empty().with(&[person]).with(&bookings)
}

#[test]
fn a_record_that_stands_as_it_was_is_found_by_its_tag() {
    let plan = placed(&[booking(7), booking(8)]);
    let tag: Tag = Tag::of(&booking(7)).to_string().parse().unwrap();
    assert_eq!(plan.record_as_seen::<Booking>(tag), Ok(booking(7)));
    assert_eq!(plan.as_seen(Kind::Booking, tag), Ok(Change::Booking(Edit::new(booking(7)))));
    // What is said of another one with the same values is not said of this one.
    assert_ne!(Tag::of(&booking(8)), tag);
}

#[test]
fn whoever_was_slower_is_told_what_stands_or_that_it_is_gone() {
    let seen = Tag::of(&booking(7));
    for changed in [
        Booking { amount: Amount { value: 241, unit: Unit::PerDay }, ..booking(7) },
        Booking { note: "moved".to_owned(), ..booking(7) },
        Booking { certainty: Certainty::Pencilled, ..booking(7) },
        Booking { end: day(5), ..booking(7) },
    ] {
        let refusal = placed(std::slice::from_ref(&changed)).record_as_seen::<Booking>(seen).unwrap_err();
        assert_eq!(refusal.code, RefusalCode::ChangedMeanwhile);
        assert_eq!(*refusal.standing.unwrap(), Change::Booking(Edit::new(changed)));
    }
    let refusal = placed(&[booking(8)]).record_as_seen::<Booking>(seen).unwrap_err();
    assert_eq!((refusal.code, refusal.standing), (RefusalCode::NotFound, None));
}

#[test]
fn what_is_no_tag_is_told() {
    for text in ["", "-", "7", "7-", "x-1f", "7-zz", "[]", "{\"id\":7}", "99999999999-1"] {
        assert!(text.parse::<Tag>().is_err(), "{text}");
    }
}
