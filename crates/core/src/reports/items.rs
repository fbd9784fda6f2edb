//! What reports are made of: entries of logged work, expenses, and tasks.

use super::{Ask, By, Subject, Value, columns::Slot, first_of, person_name};
use crate::{
    Day, Eyes, PersonId, Plan, ProjectId, TaskId, TeamId,
    demand::{is_parent, left_of, logged_in},
    hours::{Counts, Heap, heaps_of, money::Money},
    kinds::{Expense, Task, TimeEntry, TrailId},
};
use std::borrow::Cow;

/// One thing of a report.
pub(super) enum Item<'p> {
    /// Logged work: one entry, with its note, or what counts alike.
    Logged(Heap, Option<&'p TimeEntry>),
    /// An expense.
    Expense(&'p Expense),
    /// A task.
    Task(&'p Task),
    /// A task that was finished on a day.
    Done(&'p Task, Day),
}

/// What a thing, or a group, is told apart by.
#[derive(Clone, PartialEq, Eq, Hash)]
pub(super) enum Mark<'p> {
    Nothing,
    Task(TaskId),
    Project(ProjectId),
    Person(PersonId),
    Team(TeamId),
    Words(Cow<'p, str>),
    Day(Day),
}

impl<'p> Mark<'p> {
    /// The name of it.
    pub fn value(&self, plan: &'p Plan) -> Value<'p> {
        let text = |text: Option<&'p str>| text.map_or(Value::Nothing, |text| Value::Text(Cow::Borrowed(text)));
        match self {
            Self::Nothing => Value::Nothing,
            Self::Task(id) => text(plan.tasks.get(id).map(|task| task.title.as_str())),
            Self::Project(id) => text(plan.records.projects.get(id).map(|project| project.name.as_str())),
            Self::Person(id) => text(Some(person_name(plan, *id))),
            Self::Team(id) => text(plan.records.teams.get(id).map(|team| team.name.as_str())),
            Self::Words(words) => Value::Text(words.clone()),
            Self::Day(day) => Value::Day(*day),
        }
    }
}

/// The figures of a thing or of a group.
#[derive(Clone, Debug, Default)]
pub(super) struct Figures {
    number: i64,
    first: i64,
    second: i64,
    good: i64,
    bad: i64,
    money: Money,
}

impl Figures {
    pub fn add(&mut self, other: &Self) {
        self.number += other.number;
        self.first += other.first;
        self.second += other.second;
        self.good += other.good;
        self.bad += other.bad;
        self.money.add(&other.money);
    }

    pub fn value(&self, slot: Slot) -> Value<'static> {
        match slot {
            Slot::Number => Value::Count(self.number),
            Slot::First => Value::Minutes(self.first),
            Slot::Second => Value::Minutes(self.second),
            Slot::Good => Value::Count(self.good),
            Slot::Bad => Value::Count(self.bad),
            Slot::Cost => Value::Money(self.money.cost()),
            Slot::Billed => Value::Money(self.money.billed()),
            Slot::Spent => Value::Money(self.money.spent()),
            Slot::Margin => Value::Money(self.money.margin()),
        }
    }
}

impl<'p> Item<'p> {
    /// The task that it is, or is of.
    pub fn task(&self, plan: &'p Plan) -> Option<&'p Task> {
        match self {
            Self::Task(task) | Self::Done(task, _) => Some(task),
            Self::Logged(heap, _) => plan.tasks.get(&heap.task?).map(|task| &**task),
            Self::Expense(expense) => plan.tasks.get(&expense.task?).map(|task| &**task),
        }
    }

    fn project(&self) -> Option<ProjectId> {
        match self {
            Self::Task(task) | Self::Done(task, _) => Some(task.project),
            Self::Logged(heap, _) => heap.project,
            Self::Expense(expense) => Some(expense.project),
        }
    }

    /// Who logged or spent it.
    fn person(&self) -> Option<PersonId> {
        match self {
            Self::Logged(heap, _) => Some(heap.person),
            Self::Expense(expense) => expense.person,
            Self::Task(_) | Self::Done(..) => None,
        }
    }

    /// The day of it: of logged work and expenses theirs, of a finished task the day on which it was finished.
    pub fn day(&self) -> Option<Day> {
        match self {
            Self::Logged(heap, _) => Some(heap.day),
            Self::Expense(expense) => Some(expense.date),
            Self::Done(_, day) => Some(*day),
            Self::Task(task) => task.due,
        }
    }

    /// When a task was finished.
    pub fn done(&self) -> Option<Day> {
        match self {
            Self::Done(_, day) => Some(*day),
            _ => None,
        }
    }

    /// When a task was promised: its due date, and of a finished one without that its planned finish.
    pub fn promised(&self, plan: &'p Plan) -> Option<Day> {
        let task = self.task(plan)?;
        if self.done().is_some() { task.due.or(task.finish) } else { task.due }
    }

    /// Words of its own: the note of logged work, what money was spent on, else the task.
    pub fn words(&self, plan: &'p Plan) -> Value<'p> {
        match self {
            Self::Logged(_, Some(entry)) if !entry.note.is_empty() => Value::Text(Cow::Borrowed(&entry.note)),
            Self::Expense(expense) => Value::Text(Cow::Borrowed(&expense.what)),
            Self::Logged(..) => Value::Nothing,
            _ => self.mark(plan, By::Task).value(plan),
        }
    }

    /// What it is told apart by.
    pub fn mark(&self, plan: &'p Plan, by: By) -> Mark<'p> {
        let task = || self.task(plan);
        // An empty word tells no more than none.
        let words = |text: Option<&'p str>| {
            text.filter(|text| !text.is_empty()).map_or(Mark::Nothing, |text| Mark::Words(Cow::Borrowed(text)))
        };
        match by {
            By::Task => task().map_or(Mark::Nothing, |task| Mark::Task(task.id)),
            By::Project => self.project().map_or(Mark::Nothing, Mark::Project),
            By::Person => match self {
                Self::Logged(..) | Self::Expense(_) => self.person().map_or(Mark::Nothing, Mark::Person),
                Self::Task(task) | Self::Done(task, _) => {
                    let mut people = task.assignees.people();
                    match (people.next(), people.next()) {
                        (None, _) => Mark::Nothing,
                        (Some(one), None) => Mark::Person(one),
                        _ => {
                            let names: Vec<&str> =
                                task.assignees.people().map(|person| person_name(plan, person)).collect();
                            Mark::Words(Cow::Owned(names.join(", ")))
                        }
                    }
                }
            },
            By::Role => {
                let person = self.person().and_then(|id| plan.people.get(&id));
                words(person.map(|entry| entry.person.role.trim()))
            }
            By::Team => task().and_then(|task| task.team).map_or(Mark::Nothing, Mark::Team),
            By::Kind => words(task().map(|task| task.kind.as_str())),
            By::Stage => words(task().map(|task| task.stage.as_str())),
            By::Day | By::Week | By::Month => {
                self.day().and_then(|day| first_of(by, day)).map_or(Mark::Nothing, Mark::Day)
            }
        }
    }

    /// What it adds to a report.
    pub fn figures(&self, plan: &'p Plan, subject: Subject, today: Day, with_money: bool) -> Figures {
        let one = Figures { number: 1, ..Figures::default() };
        match self {
            Self::Logged(heap, _) => {
                let money = if with_money { Money::of_heap(plan, heap) } else { Money::default() };
                let billable = if heap.billable { heap.minutes } else { 0 };
                Figures { number: heap.entries.into(), first: heap.minutes, second: billable, money, ..one }
            }
            Self::Expense(expense) => Figures { money: Money::of_expense(expense.sum()), ..one },
            Self::Task(task) | Self::Done(task, _) => {
                let estimate = task.estimate.map_or(0, |minutes| minutes * task.assignees.heads());
                let (second, bad) = match subject {
                    Subject::Completion => {
                        let is_late =
                            self.promised(plan).zip(self.done()).is_some_and(|(promised, done)| done > promised);
                        (logged_in(plan, task.id), is_late)
                    }
                    _ => (left_of(plan, task).unwrap_or(0), task.due.is_some_and(|due| due < today)),
                };
                Figures { first: estimate, second, good: i64::from(!bad), bad: i64::from(bad), ..one }
            }
        }
    }

    /// In which order things stand: by day, then by name.
    pub fn order(&self, plan: &'p Plan) -> (Option<Day>, String, i32) {
        let id = match self {
            Self::Logged(_, entry) => entry.map_or(0, |entry| entry.id.0),
            Self::Expense(expense) => expense.id.0,
            Self::Task(task) | Self::Done(task, _) => task.id.0,
        };
        let name = match self {
            Self::Logged(heap, _) => person_name(plan, heap.person).to_lowercase(),
            Self::Expense(expense) => expense.what.to_lowercase(),
            Self::Task(task) | Self::Done(task, _) => task.title.to_lowercase(),
        };
        (self.day(), name, id)
    }
}

/// Whether a thing counts.
fn takes(counts: &Counts<'_>, plan: &Plan, item: &Item<'_>) -> bool {
    let task = item.task(plan);
    let (own, assigned) = match item {
        Item::Logged(..) | Item::Expense(_) => (item.person(), None),
        Item::Task(task) | Item::Done(task, _) => (None, Some(task.assignees.people())),
    };
    counts.take(task, item.project(), own.into_iter().chain(assigned.into_iter().flatten()))
}

/// The day on which a finished task was finished: since when its trail says so without a break. What the trail does not know has none.
fn done_on(plan: &Plan, task: &Task) -> Option<Day> {
    let trail = plan.records.trails.get(&TrailId(task.id.0)).filter(|_| task.is_done())?;
    let done = trail.days.iter().rev().take_while(|row| &*row.stage == task.stage.as_str());
    done.last().map(|row| row.date)
}

/// Shows what counts of the log of a person whose hours are seen: each entry, or where things are put together, what of it is alike.
pub(super) fn logged<'p>(
    eyes: &Eyes<'p>,
    ask: &Ask,
    counts: &Counts<'_>,
    person: PersonId,
    see: &mut impl FnMut(Item<'p>),
) {
    let plan = eyes.plan;
    let rows = plan.log_of(person, ask.from, ask.to);
    let mut see = |heap: &Heap, entry: Option<&'p TimeEntry>| {
        let item = Item::Logged(*heap, entry);
        if takes(counts, plan, &item) {
            see(item);
        }
    };
    if ask.by.is_empty() {
        for row in rows {
            see(&Heap::of(plan, person, row), plan.time_entries.get(&row.id).map(|entry| &**entry));
        }
    } else {
        let stretch = |day: Day| [0, 1].map(|at| ask.by.get(at).and_then(|by| first_of(*by, day)));
        heaps_of(plan, (person, rows), &stretch, &mut |heap| see(heap, None));
    }
}

/// Shows everything else that counts and is seen.
pub(super) fn others<'p>(eyes: &Eyes<'p>, ask: &Ask, counts: &Counts<'_>, today: Day, see: &mut impl FnMut(Item<'p>)) {
    let plan = eyes.plan;
    let mut see = |item: Item<'p>| {
        if takes(counts, plan, &item) {
            see(item);
        }
    };
    let within = |day: Day| (ask.from..=ask.to).contains(&day);
    let leaves = || plan.tasks.values().filter(|task| !is_parent(plan, task.id));
    match ask.subject {
        Subject::Money => {
            let spent = plan.records.expenses.values().filter(|it| within(it.date));
            spent.for_each(|it| see(Item::Expense(it)));
        }
        Subject::Tasks => {
            let touches = |task: &&std::sync::Arc<Task>| {
                task.start.or(task.finish).is_some_and(|start| start <= ask.to)
                    && task.finish.or(task.start).is_some_and(|finish| finish >= ask.from)
            };
            leaves().filter(touches).for_each(|task| see(Item::Task(task)));
        }
        Subject::Completion => {
            for task in leaves() {
                if let Some(day) = done_on(plan, task).filter(|day| within(*day)) {
                    see(Item::Done(task, day));
                }
            }
        }
        Subject::Due => {
            let is_due = |task: &&std::sync::Arc<Task>| {
                !task.is_done() && task.due.is_some_and(|due| due <= ask.to && (due >= ask.from || due < today))
            };
            leaves().filter(is_due).for_each(|task| see(Item::Task(task)));
        }
        Subject::Time | Subject::Estimates => {}
    }
}
