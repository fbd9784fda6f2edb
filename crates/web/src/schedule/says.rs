//! What a deed comes to, in sentences: at the hand before it is done, and in the message after.

use crate::{effects, words};
use serde_json::{Value, json};
use snug_core::{
    Command, Day, Plan, TaskId,
    change::{Change, Edit},
    handing::{OffDays, off_days},
    kinds::{LinkKind, Task},
    long_view::{TeamEffect, team_effects},
    network::{Consequences, Ground, consequences, figures_of, last_finishes, line},
};

/// The tasks that a hand holds by itself.
pub fn by_hand(command: &Command) -> Vec<TaskId> {
    match command {
        Command::MoveTasks { tasks, .. } => tasks.iter().map(|(task, _)| task.id).collect(),
        Command::Edit { changes } => changes
            .iter()
            .filter_map(|change| if let Change::Task(edit) = change { edit.either().map(|task| task.id) } else { None })
            .collect(),
        _ => Vec::new(),
    }
}

/// What a command comes to, in sentences: what moves with it, what is missed, and what it does to people.
pub fn says(before: &Plan, after: &Plan, changes: &[Change], by_hand: &[TaskId], today: Day) -> Vec<String> {
    /// More than this nobody reads at a hand.
    const MOST: usize = 5;
    let Consequences { others, farthest, missed } = consequences(before, after, changes, by_hand);
    let mut found = Vec::new();
    let way = if farthest < 0 { " earlier" } else { "" };
    match others {
        0 => {}
        1 => found.push(format!("1 task moves with it, by {}{way}", words::days(farthest))),
        many => found.push(format!("{many} tasks move with it, the farthest by {}{way}", words::days(farthest))),
    }
    for (milestone, late) in missed {
        let name = after.records.milestones.get(&milestone).map_or("", |milestone| milestone.name.as_str());
        found.push(format!("{name} would be {} late", words::days(late)));
    }
    found.extend(changes.iter().filter_map(|change| frees(before, after, change, today)));
    found.extend(team_effects(before, after, changes, today).iter().filter_map(|effect| of_team(after, effect)));
    found.extend(effects::says(before, after, changes, today));
    found.extend(changes.iter().flat_map(|change| off(after, change, by_hand)));
    if found.len() > MOST {
        let more = found.len() - MOST + 1;
        found.truncate(MOST - 1);
        found.push(format!("and {more} more"));
    }
    found
}

/// `Workshop: 92 h over, most in the week of 23 March`: where that becomes more or less.
fn of_team(after: &Plan, effect: &TeamEffect) -> Option<String> {
    let name = &after.records.teams.get(&effect.team)?.name;
    let (was, is) = effect.spill;
    let week = words::day(effect.worst.from, after.settings.date_order);
    match (was, is) {
        (was, is) if was == is => None,
        (was, 0) => Some(format!("{name}: no longer over, by {}", words::hours(was))),
        (was, is) => {
            let by = words::hours((is - was).abs());
            let way = if is > was { "more" } else { "less" };
            Some(format!("{name}: {} over, {by} {way}; most in the week of {week}", words::hours(is)))
        }
    }
}

/// `Oona is off on 2 of these days`: of what a hand puts somewhere else or gives to somebody.
fn off(after: &Plan, change: &Change, by_hand: &[TaskId]) -> Vec<String> {
    let Change::Task(Edit { before, after: Some(task) }) = change else { return Vec::new() };
    let is_as_before = before
        .as_ref()
        .is_some_and(|it| (it.start, it.finish, &it.assignees) == (task.start, task.finish, &task.assignees));
    if is_as_before || !by_hand.contains(&task.id) {
        return Vec::new();
    }
    let says = |it: OffDays| {
        let name = after.people.get(&it.person).map_or("", |entry| entry.person.name.as_str());
        if it.all {
            format!("{name} works on none of these days: it lands nowhere and waits in the tray")
        } else {
            let days = words::count(it.off, "of these days, which takes", "of these days, which take");
            format!("{name} is off on {days} nothing of it")
        }
    };
    off_days(after, task).into_iter().map(says).collect()
}

/// What a link that goes lets the later task do: `“Casting” could start on 12 March now`.
fn frees(before: &Plan, after: &Plan, change: &Change, today: Day) -> Option<String> {
    let Change::Link(Edit { before: Some(link), after: None }) = change else { return None };
    let title = after.tasks.get(&link.to).map(|task| task.title.as_str())?;
    let first = |plan: &Plan| {
        let leaves = snug_core::network::leaves(plan, link.to);
        let figures = figures_of(&Ground::new(plan, today), &leaves, &last_finishes(plan));
        figures.into_iter().filter_map(|it| it.earliest).map(|(start, _)| start).min()
    };
    let (was, is) = (first(before)?, first(after)?);
    let day = words::day(is, after.settings.date_order);
    (is < was).then(|| format!("“{title}” could start on {day} now"))
}

/// The title at the hand: `Milling, 18 – 31 March`.
pub fn tip(plan: &Plan, changes: &[Change], command: &Command) -> Option<String> {
    let order = plan.settings.date_order;
    let held = by_hand(command);
    let told = |change: &Change| match change {
        Change::Link(Edit { after: Some(link), .. }) => {
            let title = |id: TaskId| plan.tasks.get(&id).map_or("", |task| task.title.as_str());
            Some(format!("{}: “{}” → “{}”", means(link.kind), title(link.from), title(link.to)))
        }
        Change::Task(Edit { after: Some(task), .. }) if held.contains(&task.id) || held.len() != 1 => {
            let days = task.start.zip(task.finish)?;
            Some(format!("{}, {}", task.title, words::range(days.0, days.1, order)))
        }
        _ => None,
    };
    match held.len() {
        0 | 1 => changes.iter().find_map(told).or_else(|| Some("It stays where it is".to_owned())),
        count => Some(format!("{count} tasks")),
    }
}

/// What a type of link means, in words.
pub fn means(kind: LinkKind) -> &'static str {
    match kind {
        LinkKind::FinishStart => "finish → start",
        LinkKind::StartStart => "start → start",
        LinkKind::FinishFinish => "finish → finish",
        LinkKind::StartFinish => "start → finish",
        LinkKind::HoldsUp => "holds up",
        LinkKind::Relates => "relates to",
    }
}

/// Lines that would be written down: how deep each stands, its title, and what else it says.
pub fn written(plan: &Plan, changes: &[Change]) -> Vec<Value> {
    let after = plan.with(changes);
    let tasks = changes.iter().filter_map(|it| if let Change::Task(it) = it { it.after.as_ref() } else { None });
    let line = |task: &Task| {
        let depth = line(&after, task.id).skip(1).filter(|id| !plan.tasks.contains_key(id)).count();
        let people = task.assignees.people().filter_map(|id| plan.people.get(&id));
        let mut says: Vec<String> = task.estimate.map(words::hours).into_iter().collect();
        says.extend(people.map(|entry| entry.person.name.clone()));
        let days = task.start.zip(task.finish);
        says.extend(days.map(|(from, to)| words::range(from, to, plan.settings.date_order)));
        json!({ "depth": depth, "title": task.title, "says": says.join(" · ") })
    };
    tasks.map(line).collect()
}

/// `2 links are broken`.
pub fn broken(count: usize) -> String {
    words::count(count, "link is broken", "links are broken")
}

/// `3 days to spare`.
pub fn float(days: i32) -> String {
    format!("{} to spare", words::days(days))
}

/// `4 days later than the baseline`.
pub fn slip(days: i32) -> String {
    let much = words::days(days);
    match days {
        0 => "as in the baseline".to_owned(),
        1.. => format!("{much} later than the baseline"),
        _ => format!("{much} earlier than the baseline"),
    }
}
