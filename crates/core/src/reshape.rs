//! What can be made of a booking in place: split, trimmed, handed over in whole or in part, copied, repeated, said in another unit.
//!
//! All of it is pure and answers edits for [`Command::Rearrange`](crate::Command::Rearrange). The first piece that stays keeps the
//! identity of the booking. A piece of a booking in total hours gets the minutes that lay on its days; the other units keep their
//! amount, which says the same of fewer days.

use crate::{
    BookingId, Day, PersonId, Plan, Refusal,
    change::Edit,
    demand::landed,
    kinds::{Amount, Booking, Unit, Who},
    spread::round_half_up,
};

/// A part of a booking: some of its days, and there all or some of its minutes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Part {
    /// First day.
    pub from: Day,
    /// Last day.
    pub to: Day,
    /// Minutes in all; `None` for all of them.
    pub minutes: Option<i64>,
}

/// The most copies that one repetition makes: two years of weeks.
pub const MOST_COPIES: i32 = 104;

/// The minutes that a booking puts on a range of days.
#[must_use]
pub fn minutes_between(plan: &Plan, booking: &Booking, from: Day, to: Day) -> i64 {
    let (days, minutes, _) = landed(plan, booking);
    minutes.sum(days.indexes(from, to))
}

/// Cuts a booking in two: the second piece begins on `day`.
///
/// # Errors
/// Where `day` does not lie inside the booking.
pub fn split(plan: &Plan, booking: &Booking, day: Day) -> Result<Vec<Edit<Booking>>, Refusal> {
    if day <= booking.start || day > booking.end {
        let message = format!(
            "Split between {} and {}: the second piece has to begin inside the booking.",
            booking.start + 1,
            booking.end
        );
        return Err(Refusal::value("day", message));
    }
    let pieces = [(booking.start, day - 1), (day, booking.end)];
    Ok(into_pieces(booking, pieces.iter().filter_map(|(from, to)| piece(plan, booking, *from, *to)).collect()))
}

/// Takes minutes off a booking on some of its days.
///
/// # Errors
/// Where nothing of the booking lies there.
pub fn trim(plan: &Plan, booking: &Booking, part: Part) -> Result<Vec<Edit<Booking>>, Refusal> {
    let (stays, _) = cut_out(plan, booking, part)?;
    Ok(into_pieces(booking, stays))
}

/// Gives a part of a booking to somebody; all of it where the part is the whole.
///
/// # Errors
/// Where nothing of the booking lies in the part, or the person has it already.
pub fn hand_over(plan: &Plan, booking: &Booking, part: Part, to: PersonId) -> Result<Vec<Edit<Booking>>, Refusal> {
    if booking.who == Who::Person(to) {
        return Err(Refusal::value("to", "They have this booking already; choose somebody else."));
    }
    // All of it, also where it lands nowhere.
    if part.minutes.is_none() && part.from <= booking.start && part.to >= booking.end {
        return Ok(vec![Edit::alter(booking.clone(), Booking { who: Who::Person(to), ..booking.clone() })]);
    }
    let (stays, mut given) = cut_out(plan, booking, part)?;
    given.who = Who::Person(to);
    if stays.is_empty() {
        return Ok(vec![Edit::alter(booking.clone(), given)]);
    }
    let mut edits = into_pieces(booking, stays);
    edits.push(Edit::new(fresh(given)));
    Ok(edits)
}

/// The same booking once more every `weeks` weeks, as long as a copy begins on or before `until`.
///
/// # Errors
/// Where it is not every 1 to 52 weeks, no copy would be made, or more than [`MOST_COPIES`].
pub fn repeat(booking: &Booking, weeks: i32, until: Day) -> Result<Vec<Edit<Booking>>, Refusal> {
    if !(1..=52).contains(&weeks) {
        return Err(Refusal::value("weeks", "A booking repeats every 1 to 52 weeks."));
    }
    let step = weeks * 7;
    let copies = until.since(booking.start) / step;
    if copies < 1 {
        let message =
            format!("The first copy would begin on {}; repeat until that day or later.", booking.start + step);
        return Err(Refusal::value("until", message));
    }
    if copies > MOST_COPIES {
        return Err(Refusal::value(
            "until",
            format!("That makes {copies} copies; {MOST_COPIES} are the most at once."),
        ));
    }
    let copy = |n: i32| {
        let mut copy = fresh(booking.clone());
        (copy.start, copy.end) = (booking.start + n * step, booking.end + n * step);
        Edit::new(copy)
    };
    Ok((1..=copies).map(copy).collect())
}

/// A copy beside the booking, moved by days and, if somebody is named, theirs.
#[must_use]
pub fn copy(booking: &Booking, days: i32, to: Option<PersonId>) -> Edit<Booking> {
    let mut copy = fresh(booking.clone());
    (copy.start, copy.end) = (booking.start + days, booking.end + days);
    if let Some(person) = to {
        copy.who = Who::Person(person);
    }
    Edit::new(copy)
}

/// The amount that puts as near as can be the same minutes on the same days in another unit, half up.
///
/// `None` where the booking lands nowhere, so that there is nothing to go by.
#[must_use]
pub fn in_unit(plan: &Plan, booking: &Booking, unit: Unit) -> Option<Amount> {
    let (days, minutes, _) = landed(plan, booking);
    let range = days.indexes(booking.start, booking.end);
    let total = minutes.sum(0..minutes.len());
    let value = match unit {
        Unit::Total => total,
        Unit::Percent => {
            let limit = days.rim().sum(range);
            (limit > 0).then(|| round_half_up(total * 10_000, limit))?
        }
        // What one unit of the amount would put there, on a scale that keeps half days and cut weeks.
        Unit::PerDay | Unit::PerWeek => {
            const SCALE: i32 = 100_000;
            let probe = Booking { amount: Amount { value: SCALE, unit }, ..booking.clone() };
            let (_, of_probe, _) = landed(plan, &probe);
            let of_probe = of_probe.sum(0..of_probe.len());
            (of_probe > 0).then(|| round_half_up(total * i64::from(SCALE), of_probe))?
        }
    };
    i32::try_from(value).ok().filter(|value| *value > 0).map(|value| Amount { value, unit })
}

/// A booking as a new one: without identity and reference.
fn fresh(booking: Booking) -> Booking {
    Booking { id: BookingId(0), reference: String::new(), ..booking }
}

/// The piece of a booking on some of its days; `None` where nothing of it lies there.
fn piece(plan: &Plan, booking: &Booking, from: Day, to: Day) -> Option<Booking> {
    let (from, to) = (from.max(booking.start), to.min(booking.end));
    if from > to {
        return None;
    }
    let minutes = minutes_between(plan, booking, from, to);
    if minutes == 0 {
        return None;
    }
    let mut piece = Booking { start: from, end: to, ..booking.clone() };
    if booking.amount.unit == Unit::Total && (from, to) != (booking.start, booking.end) {
        piece.amount.value = i32::try_from(minutes).ok()?;
    }
    Some(piece)
}

/// What stays of a booking, and what is cut out of it.
fn cut_out(plan: &Plan, booking: &Booking, part: Part) -> Result<(Vec<Booking>, Booking), Refusal> {
    let (from, to) = (part.from.max(booking.start), part.to.min(booking.end));
    let inside = piece(plan, booking, from, to);
    let Some(inside) = inside else {
        return Err(Refusal::value("from", "Nothing of this booking lies on those days."));
    };
    let there = minutes_between(plan, booking, from, to);
    let mut stays: Vec<Booking> = piece(plan, booking, booking.start, from - 1).into_iter().collect();
    let mut given = inside.clone();
    if let Some(minutes) = part.minutes.filter(|minutes| *minutes < there) {
        if minutes < 1 {
            return Err(Refusal::value("minutes", "Say how many hours: at least one minute of them."));
        }
        let of = |value: i64| Amount { value: i32::try_from(value).unwrap_or(i32::MAX), unit: Unit::Total };
        given.amount = of(minutes);
        stays.push(Booking { amount: of(there - minutes), ..inside });
    }
    stays.extend(piece(plan, booking, to + 1, booking.end));
    Ok((stays, given))
}

/// A booking becomes these pieces; without any it is taken off.
fn into_pieces(booking: &Booking, pieces: Vec<Booking>) -> Vec<Edit<Booking>> {
    if pieces.is_empty() {
        return vec![Edit::remove(booking.clone())];
    }
    let edit = |(at, piece): (usize, Booking)| match at {
        0 => Edit::alter(booking.clone(), piece),
        _ => Edit::new(fresh(piece)),
    };
    pieces.into_iter().enumerate().map(edit).collect()
}
