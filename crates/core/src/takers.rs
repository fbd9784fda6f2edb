//! Who else could do it: people with the skill and with room in those days, the best first, each with what it would come to.

use crate::{
    BookingId, Day, PersonId, Plan, ProjectId,
    cells::{Bucket, Cell, Grain},
    change::{Change, Edit},
    craft::is_same,
    demand::Window,
    kinds::{Booking, Person, PersonKind, Who},
    load::PersonCells,
    plan::Entry,
    reshape::minutes_between,
};

/// What somebody is looked for.
#[derive(Clone, Debug)]
pub struct Need {
    /// Who has it now, and is no answer.
    pub of: Option<PersonId>,
    /// For which project.
    pub project: Option<ProjectId>,
    /// A person or a piece of equipment.
    pub kind: PersonKind,
    /// The role that does such work.
    pub role: String,
    /// The skills that it takes.
    pub skills: Vec<String>,
    /// When.
    pub bucket: Bucket,
    /// How many minutes.
    pub minutes: i64,
}

impl Need {
    /// What it takes to do somebody's booking in their place: their role and skills; for an open seat the role or skill it names.
    #[must_use]
    pub fn of_booking(plan: &Plan, booking: &Booking, bucket: Bucket, minutes: i64) -> Self {
        let entry = match &booking.who {
            Who::Person(id) => plan.people.get(id),
            _ => None,
        };
        let named = match &booking.who {
            Who::Role(role) => role.clone(),
            _ => String::new(),
        };
        Self {
            of: entry.map(|entry| entry.person.id),
            project: booking.project,
            kind: entry.map_or(PersonKind::Person, |entry| entry.person.kind),
            role: entry.map_or_else(|| named.clone(), |entry| entry.person.role.clone()),
            skills: entry.map_or_else(|| vec![named], |entry| entry.person.skills.clone()),
            bucket,
            minutes,
        }
    }

    /// The skills of somebody that are asked for, each once, and whether their role is.
    fn matches(&self, person: &Person) -> (Vec<String>, bool) {
        let mut skills: Vec<String> = Vec::new();
        for own in person.skills.iter().filter(|own| self.skills.iter().any(|skill| is_same(skill, own))) {
            if !skills.iter().any(|known| is_same(known, own)) {
                skills.push(own.clone());
            }
        }
        (skills, !self.role.trim().is_empty() && is_same(&person.role, &self.role))
    }
}

/// Somebody who could take it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Taker {
    /// Who.
    pub person: PersonId,
    /// Their skills that are asked for.
    pub skills: Vec<String>,
    /// They have the role.
    pub same_role: bool,
    /// Their room in those days, in minutes.
    pub room: i64,
    /// What they can take of it within their limit.
    pub takes: i64,
    /// They work on the project already.
    pub on_project: bool,
    /// Their cell as it is, without it.
    pub cell: Cell,
}

/// Who could take it, the best first: most of the skills (the role counts as one), then most of the minutes within their room, then
/// on the project already, then most room left. Who takes more of it needs fewer handovers. People without any room, and, where a
/// role or skill is asked for, without any of it, are no answer.
#[must_use]
pub fn takers(plan: &Plan, need: &Need, grain: Grain, today: Day, most: usize) -> Vec<Taker> {
    let window = Window::new(need.bucket.from, need.bucket.to, today);
    let asks = !need.role.is_empty() || !need.skills.is_empty();
    let taker = |entry: &Entry| {
        let person = &entry.person;
        if Some(person.id) == need.of || person.kind != need.kind {
            return None;
        }
        let (skills, same_role) = need.matches(person);
        if asks && skills.is_empty() && !same_role {
            return None;
        }
        let cell = PersonCells::of(plan, entry, &window, grain, false).cell(need.bucket);
        let room = cell.room.min(cell.limit.unwrap_or(0));
        let takes = room.min(need.minutes);
        let on_project = need.project.is_some() && entry.bookings().any(|row| row.project == need.project);
        (takes > 0).then_some(Taker { person: person.id, skills, same_role, room, takes, on_project, cell })
    };
    let mut found: Vec<Taker> = plan.people.values().filter_map(taker).collect();
    found.sort_by_key(|taker| {
        let fit = taker.skills.len() + usize::from(taker.same_role);
        (std::cmp::Reverse((fit, taker.takes, taker.on_project, taker.room)), taker.person)
    });
    found.truncate(most);
    found
}

/// Where else in time a booking would fit.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Move {
    /// Days by which it moves.
    pub shift: i32,
    /// The day that it has to be over by, and where that comes from.
    pub latest: Option<(Day, Due)>,
    /// Minutes over the limit that are left in the weeks that it touches.
    pub left: i64,
}

/// What bounds a booking in time.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Due {
    /// The due date of one of their tasks in the project, by its title.
    Task(String),
    /// The finish of the project, by its name.
    Project(String),
}

/// How far a booking is moved at most in search of room, in days.
const FARTHEST: i32 = 42;

/// The day that a person's booking has to be over by: the earliest due date of their open tasks in the project, else the finish of
/// the project, else none. (Links between tasks do not bound it yet.)
#[must_use]
pub fn latest_day(plan: &Plan, booking: &Booking) -> Option<(Day, Due)> {
    let project = booking.project?;
    let Who::Person(person) = booking.who else { return None };
    let tasks = plan.people.get(&person)?.tasks.iter().filter_map(|id| plan.tasks.get(id));
    let inside =
        tasks.filter(|task| !task.is_done() && plan.project_line(task.project).any(|above| above.id == project));
    let due = inside.filter_map(|task| Some((task.due?, Due::Task(task.title.clone())))).min_by_key(|(day, _)| *day);
    due.or_else(|| {
        let project = plan.records.projects.get(&project)?;
        Some((project.finish?, Due::Project(project.name.clone())))
    })
}

/// The nearest move in time, later or earlier, that leaves least over the person's limit, within what bounds it and not into the
/// past; `None` where no move is any better than staying.
#[must_use]
pub fn best_move(plan: &Plan, booking: &Booking, today: Day) -> Option<Move> {
    let Who::Person(person) = booking.who else { return None };
    let latest = latest_day(plan, booking);
    let window = Window::new(booking.start - FARTHEST, booking.end + FARTHEST, today);
    let over = |plan: &Plan| -> i64 {
        let Some(entry) = plan.people.get(&person) else { return 0 };
        let cells = PersonCells::of(plan, entry, &window, Grain::Week, false);
        let weeks = Grain::Week.buckets(window.from.monday(), window.to.monday() + 6, &plan.settings);
        let over = |week: Bucket| cells.cell(week);
        weeks.into_iter().map(over).map(|cell| cell.spill.max(cell.peak)).sum()
    };
    let whole = minutes_between(plan, booking, booking.start, booking.end);
    let mut best = Move { shift: 0, latest: latest.clone(), left: over(plan) };
    for shift in (1..=FARTHEST).flat_map(|days| [days, -days]) {
        let to = Booking { start: booking.start + shift, end: booking.end + shift, ..booking.clone() };
        let outside =
            to.start < today && shift < 0 || shift > 0 && latest.as_ref().is_some_and(|(day, _)| to.end > *day);
        if outside || booking.id == BookingId(0) {
            continue;
        }
        // A move onto days off would lose hours, which is no help.
        if minutes_between(plan, &to, to.start, to.end) < whole {
            continue;
        }
        let left = over(&plan.with(&[Change::Booking(Edit::alter(booking.clone(), to))]));
        if left < best.left {
            best = Move { shift, left, ..best };
        }
        if best.left == 0 {
            break;
        }
    }
    (best.shift != 0).then_some(best)
}
