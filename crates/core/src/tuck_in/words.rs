//! Reasons in words: what a planner would say, with everything about one person together.

use super::{
    help::Help,
    reasons::{Obstacle, Why},
};
use crate::{Day, PersonId, Plan, TaskId, network::Dates};

/// How days and minutes are written.
pub struct Words<'a> {
    /// A day.
    pub day: &'a dyn Fn(Day) -> String,
    /// Minutes as hours, with their unit.
    pub hours: &'a dyn Fn(i64) -> String,
}

/// Days off of no more days than this are a weekend; of many such only the number is said.
const SHORT: i32 = 2;

/// So many weekends are told one by one.
const TOLD: usize = 2;

/// The least and the most room of somebody over days on which that is all that hinders.
struct Room {
    least: i64,
    most: i64,
    is_limit: bool,
    days: Dates,
}

/// What is said of one person: each part with its first day.
#[derive(Default)]
struct Said {
    parts: Vec<(Day, String)>,
    room: Option<Room>,
    weekends: Vec<Dates>,
}

impl Words<'_> {
    /// Obstacles in words, in the order in which they come: links and days first, then person by person.
    #[must_use]
    pub fn of(&self, plan: &Plan, why: &[Obstacle]) -> String {
        let mut said: Vec<String> = why.iter().filter_map(|it| self.of_work(plan, it)).collect();
        let mut people: Vec<Vec<PersonId>> = Vec::new();
        for obstacle in why {
            let about = about(obstacle);
            if !about.is_empty() && !people.contains(&about) {
                people.push(about);
            }
        }
        for about in people {
            let name = match about.as_slice() {
                [one] => plan.people.get(one).map_or_else(String::new, |it| it.person.name.clone()),
                _ => "everyone".to_owned(),
            };
            let parts = self.of_people(why.iter().filter(|it| self::about(it) == about));
            said.push(format!("{name} {}", parts.join(", ")));
        }
        said.join("; ")
    }

    /// `If Dov Anker did it, it would end on 24 March`: what would help, in words.
    #[must_use]
    pub fn help(&self, plan: &Plan, help: &Help) -> String {
        let name = |id: &PersonId| plan.people.get(id).map_or_else(String::new, |it| it.person.name.clone());
        let day = self.day;
        match help {
            Help::Person(id, ends) => format!("If {} did it, it would end on {}", name(id), day(*ends)),
            Help::Link(_, from, ends) => {
                let title = plan.tasks.get(from).map_or_else(String::new, |task| task.title.clone());
                format!("Without the link from “{title}” it would end on {}", day(*ends))
            }
            Help::DaysOff(id, off, ends) => {
                format!("If {} were not off {}, it would end on {}", name(id), self.stretch(*off), day(*ends))
            }
            Help::Later(ends) => format!("If it might end later, it would end on {}", day(*ends)),
        }
    }

    fn stretch(&self, (from, to): Dates) -> String {
        if from == to {
            format!("on {}", (self.day)(from))
        } else {
            format!("from {} to {}", (self.day)(from), (self.day)(to))
        }
    }

    /// What is said of one person, or of everybody.
    fn of_people<'o>(&self, obstacles: impl Iterator<Item = &'o Obstacle>) -> Vec<String> {
        let mut said = Said::default();
        for obstacle in obstacles {
            match obstacle {
                Obstacle::DaysOff(_, from, to) if to.since(*from) < SHORT => said.weekends.push((*from, *to)),
                Obstacle::DaysOff(_, from, to) => {
                    said.parts.push((*from, format!("is off {}", self.stretch((*from, *to)))));
                }
                Obstacle::Person(_, why, from, to) => self.add(&mut said, *why, (*from, *to)),
                _ => {}
            }
        }
        self.close(&mut said);
        if said.weekends.len() <= TOLD {
            let off = said.weekends.iter().map(|days| (days.0, format!("is off {}", self.stretch(*days))));
            said.parts.extend(off);
        }
        said.parts.sort_by_key(|(day, _)| *day);
        let mut parts: Vec<String> = said.parts.into_iter().map(|(_, text)| text).collect();
        if said.weekends.len() > TOLD {
            parts.push(format!("is off on {} weekends and short breaks", said.weekends.len()));
        }
        parts
    }

    fn add(&self, said: &mut Said, why: Why, days: Dates) {
        let (room, is_limit) = match why {
            Why::Full | Why::Week(0) => (0, false),
            Why::Room(room) | Why::Week(room) => (room, false),
            Why::Limit(room) => (room, true),
            Why::Tasks(most) => return self.at_a_time(said, "tasks", most, days),
            Why::Projects(most) => return self.at_a_time(said, "projects", most, days),
        };
        match &mut said.room {
            Some(known) => {
                known.least = known.least.min(room);
                known.most = known.most.max(room);
                known.is_limit &= is_limit;
                known.days.1 = days.1;
            }
            None => said.room = Some(Room { least: room, most: room, is_limit, days }),
        }
    }

    fn at_a_time(&self, said: &mut Said, what: &str, most: i32, days: Dates) {
        self.close(said);
        said.parts.push((days.0, format!("is on {most} {what} at a time, the most allowed, {}", self.stretch(days))));
    }

    /// Says what room there was on the days so far.
    fn close(&self, said: &mut Said) {
        let Some(room) = said.room.take() else { return };
        let when = self.stretch(room.days);
        let (least, most) = ((self.hours)(room.least), (self.hours)(room.most));
        let text = match room {
            Room { most: 0, .. } => format!("is full {when}"),
            Room { is_limit: true, .. } => format!("has {most} a day at most {when}"),
            Room { least: few, most: many, .. } if few == many => format!("has {most} a day left {when}"),
            _ => format!("has {least} to {most} a day left {when}"),
        };
        said.parts.push((room.days.0, text));
    }

    /// What is not about somebody's days.
    fn of_work(&self, plan: &Plan, obstacle: &Obstacle) -> Option<String> {
        let title = |id: &TaskId| plan.tasks.get(id).map_or_else(String::new, |task| format!("“{}”", task.title));
        let day = self.day;
        Some(match obstacle {
            Obstacle::Link(_, from, first) => format!("after {} (link), so from {} on", title(from), day(*first)),
            Obstacle::NotBefore(first) => format!("not before {}", day(*first)),
            Obstacle::By(by) => format!("it is to be over by {}", day(*by)),
            Obstacle::LastOfAll(last) => format!("all others are over on {}", day(*last)),
            Obstacle::Before(_, to) => format!("before {} (link)", title(to)),
            Obstacle::Waits(_, from) => format!("after {} (link), which has no dates", title(from)),
            Obstacle::Nobody => "nobody who may be chosen has the role or skill that it needs".to_owned(),
            Obstacle::Unnamed => "nobody is named, and people are to stay as they are".to_owned(),
            Obstacle::Unsaid => "nobody is named, and no team, role or skill says who could".to_owned(),
            Obstacle::NotAfter(last) => format!("it does not fit up to {}, after which it must not end", day(*last)),
            Obstacle::NoRoom(last) => format!("it does not fit up to {}, the last day that was looked at", day(*last)),
            Obstacle::Sizeless => "nobody said how much work it is".to_owned(),
            Obstacle::DaysOff(..) | Obstacle::Person(..) => return None,
        })
    }
}

/// Whose days an obstacle is about; nobody's where it is about work. Days off of nobody in particular are everybody's.
fn about(obstacle: &Obstacle) -> Vec<PersonId> {
    match obstacle {
        Obstacle::Person(id, ..) => vec![*id],
        Obstacle::DaysOff(people, ..) => people.clone(),
        _ => Vec::new(),
    }
}
