//! Budgets: what of them is used, what is planned, what is left and on which day they run out (`rules/hours.md`, "A budget").

use super::{
    heaps::heaps_of,
    money::{Rate, cents, end_of_person, end_unnamed, rate_on},
};
use crate::{
    Day, Plan, ProjectId,
    availability::Days,
    by_day::ByDay,
    demand::{Slot, TaskPart, Window, booking_minutes, landed, person_load, seat_loads, team_parts},
    kinds::{BudgetLineId, Person, Who},
    parts::in_parts,
    plan::Entry,
    settings::Envelope,
    spread::largest_remainder,
};
use rust_decimal::Decimal;
use rustc_hash::FxHashMap;
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
    /// Adds what is used, or is planned on a day.
    fn put(&mut self, day: Option<Day>, amount: &Amount) {
        match day {
            None => self.used.add(amount),
            Some(day) => self.planned.entry(day).or_default().add(amount),
        }
    }

    fn add(&mut self, other: &Self) {
        self.used.add(&other.used);
        other.planned.iter().for_each(|(day, amount)| self.put(Some(*day), amount));
    }

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

/// What can burn, and which of it work burns.
struct Budgets<'p> {
    plan: &'p Plan,
    all: Vec<Budgeted>,
    /// Where in `all` each stands.
    places: HashMap<Budgeted, usize>,
    /// The lines of each project that has some.
    lines: HashMap<ProjectId, Vec<BudgetLineId>>,
}

impl<'p> Budgets<'p> {
    fn of(plan: &'p Plan) -> Self {
        let mut lines: HashMap<ProjectId, Vec<BudgetLineId>> = HashMap::new();
        for line in plan.records.budget_lines.values() {
            lines.entry(line.project).or_default().push(line.id);
        }
        let projects = plan.records.projects.values();
        let with_one = projects.filter(|it| it.budget_minutes.is_some() || it.budget_money.is_some());
        let all: Vec<Budgeted> = with_one
            .map(|project| Budgeted::Project(project.id))
            .chain(plan.records.budget_lines.keys().map(|id| Budgeted::Line(*id)))
            .chain(lines.keys().map(|id| Budgeted::NoLine(*id)))
            .collect();
        let places = all.iter().enumerate().map(|(at, of)| (*of, at)).collect();
        Self { plan, all, places, lines }
    }

    /// The line that work of a project burns: the one it names, else the only one of the project, or of the nearest above it that has
    /// lines; `None` where there are no lines at all.
    fn line(&self, (project, name): Line<'_>) -> Option<Budgeted> {
        if self.lines.is_empty() {
            return None;
        }
        let named = self.plan.line_named(project, name).filter(|_| !name.is_empty()).map(Budgeted::Line);
        named.or_else(|| {
            let mut above = self.plan.project_line(project).map(|it| it.id);
            let (nearest, lines) = above.find_map(|id| Some((id, self.lines.get(&id)?)))?;
            Some(if let [only] = lines[..] { Budgeted::Line(only) } else { Budgeted::NoLine(nearest) })
        })
    }

    /// Where everything stands that work in the sum of a project and on a line burns.
    fn burnt_by(&self, of: ProjectId, line: Line<'_>) -> Vec<usize> {
        let projects = self.plan.project_line(of).map(|it| Budgeted::Project(it.id));
        self.line(line).into_iter().chain(projects).filter_map(|it| self.places.get(&it).copied()).collect()
    }
}

/// Budgets as they burn.
struct Burning<'a, 'p> {
    budgets: &'a Budgets<'p>,
    /// In the order of `budgets.all`.
    burns: Vec<Burn>,
    /// What burns, looked up once for each project and line.
    known: FxHashMap<(ProjectId, Line<'p>), Vec<usize>>,
}

impl<'a, 'p> Burning<'a, 'p> {
    fn none_of(budgets: &'a Budgets<'p>) -> Self {
        Self { budgets, burns: vec![Burn::default(); budgets.all.len()], known: FxHashMap::default() }
    }

    /// Adds what is used, or is planned on a day, in the sum of a project and on a line.
    fn put(&mut self, of: ProjectId, line: Line<'p>, day: Option<Day>, amount: &Amount) {
        for at in self.known.entry((of, line)).or_insert_with(|| self.budgets.burnt_by(of, line)) {
            self.burns[*at].put(day, amount);
        }
    }

    fn put_piece(&mut self, person: Option<&Person>, (of, line, day, minutes): Piece<'p>) {
        self.put(of, line, Some(day), &Amount::work(person, day, minutes));
    }

    /// What one person logged, and what lies ahead of them.
    fn put_person(&mut self, entry: &'p Entry, today: Day) {
        let plan = self.budgets.plan;
        let log = (entry.person.id, plan.log_of(entry.person.id, Day::MIN, Day::MAX));
        heaps_of(plan, log, &|_| (), &mut |heap| {
            let Some(project) = heap.project else { return };
            let name = heap.task.and_then(|id| plan.tasks.get(&id)).map_or("", |task| task.line.as_str());
            self.put(project, (project, name), None, &Amount::work(Some(&entry.person), heap.day, heap.minutes));
        });
        of_person(plan, entry, today, &mut |piece| self.put_piece(Some(&entry.person), piece));
    }

    /// What no person carries, and expenses; those of days after today are planned.
    fn put_rest(&mut self, today: Day) {
        let plan = self.budgets.plan;
        for expense in plan.records.expenses.values() {
            let amount = Amount { money: expense.sum() * Decimal::from(60), ..Amount::default() };
            let day = Some(expense.date).filter(|day| *day > today);
            self.put(expense.project, (expense.project, &expense.line), day, &amount);
        }
        of_nobody(plan, today, &mut |piece| self.put_piece(None, piece));
    }
}

/// A booking's project, the line that it names, and its minutes.
type Booked<'a> = (ProjectId, &'a str, ByDay);

/// The line that work names, and the project that it is looked for in.
type Line<'a> = (ProjectId, &'a str);

/// Minutes of one day as they lie on lines: in the sum of which project, on which line.
type Piece<'a> = (ProjectId, Line<'a>, Day, i64);

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
    let mut filled: FxHashMap<(ProjectId, usize), i64> = FxHashMap::default();
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
            if let [(_, name, minutes)] = own[..] {
                if minutes[index] > 0 {
                    see((project, (project, *name), days.day(index), rest));
                }
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
    let budgets = Budgets::of(plan);
    if budgets.all.is_empty() {
        return BTreeMap::new();
    }
    let parts = in_parts(&plan.everybody(), |people| {
        let mut burning = Burning::none_of(&budgets);
        for entry in people {
            burning.put_person(entry, today);
        }
        burning.burns
    });
    let mut all = Burning::none_of(&budgets);
    all.put_rest(today);
    for part in parts {
        all.burns.iter_mut().zip(&part).for_each(|(burn, more)| burn.add(more));
    }
    let is_told = |(of, burn): &(Budgeted, Burn)| !matches!(of, Budgeted::NoLine(_)) || *burn != Burn::default();
    budgets.all.iter().copied().zip(all.burns).filter(is_told).collect()
}
