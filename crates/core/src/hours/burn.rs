//! Budgets: what of them is used, what is planned, what is left and on which day they run out (`rules/hours.md`, "A budget").

use super::{
    heaps::heaps,
    money::{Rate, cents, end_of_person, end_unnamed, rate_on},
};
use crate::{
    Day, Plan, ProjectId,
    availability::Days,
    by_day::ByDay,
    demand::{Slot, TaskPart, Window, booking_minutes, landed, person_load, seat_loads, team_parts},
    kinds::{BudgetLineId, Person, Who},
    plan::Entry,
    settings::Envelope,
    spread::largest_remainder,
};
use rust_decimal::Decimal;
use std::collections::{BTreeMap, HashMap};

/// What has a budget.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Budgeted {
    /// A project, with those inside it.
    Project(ProjectId),
    /// A line.
    Line(BudgetLineId),
    /// What is on none of a project's lines, though it has some.
    NoLine(ProjectId),
}

impl Budgeted {
    /// The project that it is of.
    #[must_use]
    pub fn project(self, plan: &Plan) -> Option<ProjectId> {
        match self {
            Self::Project(id) | Self::NoLine(id) => Some(id),
            Self::Line(id) => plan.records.budget_lines.get(&id).map(|line| line.project),
        }
    }

    /// The line's name; empty where it is none.
    #[must_use]
    pub fn line(self, plan: &Plan) -> &str {
        match self {
            Self::Line(id) => plan.records.budget_lines.get(&id).map_or("", |line| line.line.as_str()),
            _ => "",
        }
    }

    /// What it may take, in minutes and in money, where somebody said.
    #[must_use]
    pub fn budget(self, plan: &Plan) -> (Option<i64>, Option<Decimal>) {
        let found = match self {
            Self::Project(id) => plan.records.projects.get(&id).map(|it| (it.budget_minutes, it.budget_money)),
            Self::Line(id) => plan.records.budget_lines.get(&id).map(|it| (it.minutes, it.money)),
            Self::NoLine(_) => None,
        };
        found.unwrap_or_default()
    }
}

/// Minutes, and what they and expenses come to.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
struct Amount {
    minutes: i64,
    /// In sixtieths of the currency, as minutes × an hour's rate are: sums stay exact.
    money: Decimal,
    /// Minutes without a cost rate.
    unrated: i64,
}

impl Amount {
    fn work(person: Option<&Person>, day: Day, minutes: i64) -> Self {
        match person.and_then(|person| rate_on(person, Rate::Cost, day)) {
            Some(rate) => Self { minutes, money: rate * Decimal::from(minutes), unrated: 0 },
            None => Self { minutes, money: Decimal::ZERO, unrated: minutes },
        }
    }

    fn add(&mut self, other: &Self) {
        self.minutes += other.minutes;
        self.money += other.money;
        self.unrated += other.unrated;
    }
}

/// How a budget burns.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Burn {
    used: Amount,
    planned: BTreeMap<Day, Amount>,
}

/// Where a budget stands, in minutes or in money.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Standing<T> {
    /// What it may take; `None` where nobody said.
    pub budget: Option<T>,
    /// What is logged or spent.
    pub used: T,
    /// What is planned from today on.
    pub planned: T,
    /// What is neither used nor planned; below zero where it does not suffice.
    pub left: Option<T>,
    /// The first day on which used + planned up to it exceed the budget; today where what is used does.
    pub runs_out: Option<Day>,
}

impl Burn {
    /// In minutes.
    #[must_use]
    pub fn hours(&self, budget: Option<i64>, today: Day) -> Standing<i64> {
        let planned = self.planned.values().map(|it| it.minutes).sum();
        let left = budget.map(|budget| budget - self.used.minutes - planned);
        let runs_out = budget.and_then(|budget| self.first_over(today, |amount| amount.minutes > budget));
        Standing { budget, used: self.used.minutes, planned, left, runs_out }
    }

    /// In the workspace currency, with cents.
    #[must_use]
    pub fn money(&self, budget: Option<Decimal>, today: Day) -> Standing<Decimal> {
        let used = cents(self.used.money);
        let planned = cents(self.planned.values().map(|it| it.money).sum());
        let left = budget.map(|budget| budget - used - planned);
        let runs_out = budget.and_then(|budget| {
            let sixtieths = budget * Decimal::from(60);
            self.first_over(today, |amount| amount.money > sixtieths)
        });
        Standing { budget, used, planned, left, runs_out }
    }

    /// Minutes, logged or to come, that no rate gives a price.
    #[must_use]
    pub fn unrated(&self) -> i64 {
        self.used.unrated + self.planned.values().map(|it| it.unrated).sum::<i64>()
    }

    fn first_over(&self, today: Day, is_over: impl Fn(&Amount) -> bool) -> Option<Day> {
        let mut sum = self.used;
        if is_over(&sum) {
            return Some(today);
        }
        self.planned.iter().find_map(|(day, amount)| {
            sum.add(amount);
            is_over(&sum).then_some(*day)
        })
    }
}

/// Which budgets work of a project burns, looked up once for each project and name of a line.
struct Budgets<'p> {
    plan: &'p Plan,
    /// The lines of each project that has some.
    lines: HashMap<ProjectId, Vec<BudgetLineId>>,
    known_lines: HashMap<(ProjectId, &'p str), Option<Budgeted>>,
    known_projects: HashMap<ProjectId, Vec<Budgeted>>,
    burns: BTreeMap<Budgeted, Burn>,
}

impl<'p> Budgets<'p> {
    fn of(plan: &'p Plan) -> Self {
        let mut found = Self {
            plan,
            lines: HashMap::new(),
            known_lines: HashMap::new(),
            known_projects: HashMap::new(),
            burns: BTreeMap::new(),
        };
        for line in plan.records.budget_lines.values() {
            found.lines.entry(line.project).or_default().push(line.id);
            found.burns.entry(Budgeted::Line(line.id)).or_default();
        }
        let has_one = |id: &ProjectId| {
            plan.records.projects.get(id).is_some_and(|it| it.budget_minutes.is_some() || it.budget_money.is_some())
        };
        for project in plan.records.projects.keys() {
            let above = plan.project_line(*project).map(|it| it.id).filter(|id| has_one(id));
            let above: Vec<Budgeted> = above.map(Budgeted::Project).collect();
            if has_one(project) {
                found.burns.entry(Budgeted::Project(*project)).or_default();
            }
            if !above.is_empty() {
                found.known_projects.insert(*project, above);
            }
        }
        found
    }

    /// The line that work of a project burns: the one it names, else the only one of the project, or of the nearest above it that has
    /// lines; `None` where there are no lines at all.
    fn line(&mut self, project: ProjectId, name: &'p str) -> Option<Budgeted> {
        if self.lines.is_empty() {
            return None;
        }
        let key = (project, name);
        if let Some(known) = self.known_lines.get(&key) {
            return *known;
        }
        let named = self.plan.line_named(project, name).filter(|_| !name.is_empty()).map(Budgeted::Line);
        let found = named.or_else(|| {
            let mut above = self.plan.project_line(project).map(|it| it.id);
            let (nearest, lines) = above.find_map(|id| Some((id, self.lines.get(&id)?)))?;
            Some(if let [only] = lines[..] { Budgeted::Line(only) } else { Budgeted::NoLine(nearest) })
        });
        self.known_lines.insert(key, found);
        found
    }

    fn is_any(&self) -> bool {
        !self.burns.is_empty()
    }

    /// Adds to the line that a name means for work of a project.
    fn put_on_line(&mut self, (project, name): (ProjectId, &'p str), day: Option<Day>, amount: &Amount) {
        if let Some(of) = self.line(project, name) {
            put(self.burns.entry(of).or_default(), day, amount);
        }
    }

    /// Adds to a project and those above it.
    fn put_on_projects(&mut self, project: ProjectId, day: Option<Day>, amount: &Amount) {
        for of in self.known_projects.get(&project).into_iter().flatten() {
            put(self.burns.entry(*of).or_default(), day, amount);
        }
    }
}

/// Adds what is used, or is planned on a day.
fn put(burn: &mut Burn, day: Option<Day>, amount: &Amount) {
    match day {
        None => burn.used.add(amount),
        Some(day) => burn.planned.entry(day).or_default().add(amount),
    }
}

/// A booking's project, the line that it names, and its minutes.
type Booked<'a> = (ProjectId, &'a str, ByDay);

/// Minutes of one day as they lie on lines: in the sum of which project, of whose line.
type Piece<'a> = (ProjectId, (ProjectId, &'a str), Day, i64);

/// Shows how the load from today on lies on lines: minutes of a task on the line of the task, whatever booking they fill, and what of
/// a day is beyond those on the lines of its bookings, in proportion.
fn each_piece<'a>(
    plan: &'a Plan,
    (slots, parts): (&[Slot], &[TaskPart]),
    booked: &[Booked<'a>],
    (days, today): (&Days, Day),
    see: &mut dyn FnMut(Piece<'a>),
) {
    let range = days.indexes(today, days.last());
    let counts_tasks = plan.settings.envelope != Envelope::Bookings;
    // Where minutes of tasks lie: in the first project above that is booked on the day, else in their own.
    let mut filled: HashMap<(ProjectId, usize), i64> = HashMap::new();
    for part in parts.iter().filter(|_| counts_tasks) {
        let line: Vec<ProjectId> = plan.project_line(part.project).map(|project| project.id).collect();
        let name = plan.tasks.get(&part.task).map_or("", |task| task.line.as_str());
        for index in range.clone().filter(|index| part.minutes[*index] > 0) {
            let is_booked = |id: &&ProjectId| booked.iter().any(|(on, _, minutes)| on == *id && minutes[index] > 0);
            let on = line.iter().find(is_booked).copied().unwrap_or(part.project);
            let minutes = i64::from(part.minutes[index]);
            *filled.entry((on, index)).or_insert(0) += minutes;
            see((on, (part.project, name), days.day(index), minutes));
        }
    }
    for (project, load) in slots.iter().filter_map(|slot| Some((slot.project?, &slot.load))) {
        let own: Vec<&Booked<'_>> = booked.iter().filter(|(on, ..)| *on == project).collect();
        for index in range.clone() {
            let rest = i64::from(load[index]) - filled.get(&(project, index)).copied().unwrap_or(0);
            if rest <= 0 {
                continue;
            }
            let weights: Vec<i64> = own.iter().map(|(_, _, minutes)| i64::from(minutes[index])).collect();
            for ((_, name, _), minutes) in own.iter().zip(largest_remainder(rest, &weights).unwrap_or_default()) {
                if minutes > 0 {
                    see((project, (project, *name), days.day(index), minutes));
                }
            }
        }
    }
}

fn of_person<'a>(plan: &'a Plan, entry: &'a Entry, today: Day, see: &mut dyn FnMut(Piece<'a>)) {
    let window = Window::new(today, end_of_person(plan, entry, today), today);
    let load = person_load(plan, entry, &window, true);
    let rows = entry.numbers.bookings().filter(|row| row.brick.touches(window.span().0, window.span().1));
    let booked: Vec<Booked<'_>> = rows
        .filter_map(|row| Some((row.project?, row.line(), booking_minutes(plan, entry, &load.days, &row))))
        .collect();
    each_piece(plan, (&load.slots, &load.tasks), &booked, (&load.days, today), see);
}

fn of_nobody<'a>(plan: &'a Plan, today: Day, see: &mut dyn FnMut(Piece<'a>)) {
    let window = Window::new(today, end_unnamed(plan, today), today);
    let (first, last) = window.span();
    let days = Days::of_workspace(&plan.settings, first, last);
    for seat in seat_loads(plan, &window) {
        let parts = match seat.who {
            Who::Team(team) => team_parts(plan, team, &window),
            _ => Vec::new(),
        };
        let own = plan.seats.values().filter(|it| it.who == seat.who && it.start <= last && it.end >= first);
        let booked: Vec<Booked<'_>> = own
            .filter_map(|booking| {
                let (own, minutes, _) = landed(plan, booking);
                let mut here = ByDay::zeros(days.pattern.weeks());
                for index in own.indexes(booking.start, booking.end) {
                    if let Some(at) = days.index(own.day(index)) {
                        here[at] += minutes[index];
                    }
                }
                Some((booking.project?, booking.line.as_str(), here))
            })
            .collect();
        each_piece(plan, (&seat.slots, &parts), &booked, (&days, today), see);
    }
}

/// How every budget burns: of projects that have one, with those inside them, of lines, and what is on none of the lines.
///
/// A record on no line of its own is on the only line of its project, or of the nearest project above it that has lines. Expenses of
/// days after today are planned.
#[must_use]
pub fn table(plan: &Plan, today: Day) -> BTreeMap<Budgeted, Burn> {
    let mut budgets = Budgets::of(plan);
    if !budgets.is_any() {
        return budgets.burns;
    }
    heaps(plan, (Day::MIN, Day::MAX), &mut |heap| {
        let Some(project) = heap.project else { return };
        let name = heap.task.and_then(|id| plan.tasks.get(&id)).map_or("", |task| task.line.as_str());
        let person = plan.people.get(&heap.person).map(|it| &*it.person);
        let amount = Amount::work(person, heap.day, heap.minutes);
        budgets.put_on_line((project, name), None, &amount);
        budgets.put_on_projects(project, None, &amount);
    });
    for expense in plan.records.expenses.values() {
        let amount = Amount { money: expense.sum() * Decimal::from(60), ..Amount::default() };
        let day = Some(expense.date).filter(|day| *day > today);
        budgets.put_on_line((expense.project, &expense.line), day, &amount);
        budgets.put_on_projects(expense.project, day, &amount);
    }
    let mut take = |person: Option<&Person>, piece| {
        let (of, line, day, minutes): Piece<'_> = piece;
        let amount = Amount::work(person, day, minutes);
        budgets.put_on_line(line, Some(day), &amount);
        budgets.put_on_projects(of, Some(day), &amount);
    };
    for entry in plan.people.values() {
        of_person(plan, entry, today, &mut |piece| take(Some(&entry.person), piece));
    }
    of_nobody(plan, today, &mut |piece| take(None, piece));
    budgets.burns
}
