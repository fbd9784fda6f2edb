//! The people of a problem, as everything that stands fills their days.

use super::{
    ask::Ask,
    engine::filling::{Lane, Resource, Route},
};
use crate::{
    PersonId, Plan, ProjectId, TaskId,
    demand::{PersonLoad, Window, person_load_of},
    plan::Entry,
    settings::Envelope,
};
use std::{
    collections::{BTreeSet, HashMap},
    sync::Arc,
};

/// Somebody who may be given work.
struct Member {
    resource: Resource,
    /// The project of each lane.
    lanes: Vec<ProjectId>,
}

/// Everybody who may be given work, looked up when they first are named.
pub(super) struct Crew<'p> {
    plan: &'p Plan,
    /// The same with bookings counted as tuck in counts them.
    counted: Plan,
    window: Window,
    /// Leaves that leave their places.
    leaving: BTreeSet<TaskId>,
    places: HashMap<PersonId, usize>,
    members: Vec<Member>,
    routes: Vec<Route>,
    known: HashMap<(usize, ProjectId), Option<usize>>,
}

impl<'p> Crew<'p> {
    pub fn new(plan: &'p Plan, ask: &Ask, leaving: BTreeSet<TaskId>) -> Self {
        Self {
            plan,
            counted: counted(plan),
            window: Window::new(ask.today, ask.until, ask.today),
            leaving,
            places: HashMap::new(),
            members: Vec::new(),
            routes: Vec::new(),
            known: HashMap::new(),
        }
    }

    /// Whether work fills the bookings of its project.
    pub fn fills(&self) -> bool {
        self.counted.settings.envelope == Envelope::Larger
    }

    /// How many have been named so far.
    pub fn len(&self) -> usize {
        self.members.len()
    }

    /// The place of somebody among the resources.
    pub fn resource(&mut self, person: PersonId) -> usize {
        if let Some(known) = self.places.get(&person) {
            return *known;
        }
        let member = match self.plan.people.get(&person) {
            Some(entry) => self.member(entry),
            None => Member { resource: Resource::default(), lanes: Vec::new() },
        };
        self.members.push(member);
        self.places.insert(person, self.members.len() - 1);
        self.members.len() - 1
    }

    /// Somebody's load with these of their tasks only.
    fn load(&self, entry: &Entry, tasks: Vec<TaskId>) -> PersonLoad {
        person_load_of(&self.counted, entry, tasks, &self.window)
    }

    fn member(&self, entry: &Entry) -> Member {
        let before = self.load(entry, entry.tasks.to_vec());
        let standing: Vec<TaskId> = entry.tasks.iter().copied().filter(|id| !self.leaving.contains(id)).collect();
        let base = if standing.len() == entry.tasks.len() { before.clone() } else { self.load(entry, standing) };
        let booked = self.load(entry, Vec::new());
        let person = &entry.person;
        let days = base.days.available.len();
        let free = |at: usize| base.days.limit()[at].max(before.load[at]) - base.load[at];
        let in_week = |week: usize| base.weeks.limit[week].max(before.weeks.load[week]) - base.weeks.load[week];
        // How many more of something may be on a day: up to one's own limit, or what there was before.
        let more = |most: Option<i64>, count: fn(&PersonLoad, usize) -> i64| {
            most.map(|most| {
                let left = |at: usize| most.max(count(&before, at)) - count(&base, at);
                (0..days).map(|at| i32::try_from(left(at)).unwrap_or(i32::MAX)).collect::<Vec<i32>>()
            })
        };
        let counts_lanes = person.max_projects.is_some();
        let mut lanes: Vec<ProjectId> = Vec::new();
        let mut made: Vec<Lane> = Vec::new();
        for slot in &booked.slots {
            let Some(project) = slot.project else { continue };
            let used = base.slots.iter().find(|it| it.project == slot.project);
            lanes.push(project);
            made.push(Lane {
                reserved: slot.load.iter().collect(),
                used: used.map_or_else(|| vec![0; days], |used| used.task.iter().collect()),
            });
        }
        for slot in base.slots.iter().filter(|_| counts_lanes) {
            if let Some(project) = slot.project.filter(|project| !lanes.contains(project)) {
                lanes.push(project);
                made.push(Lane { reserved: vec![0; days], used: slot.task.iter().collect() });
            }
        }
        let resource = Resource {
            given: base.days.available.iter().collect(),
            free: (0..days).map(free).collect(),
            free_in_week: (0..days / 7).map(in_week).collect(),
            more_activities: more(person.max_tasks.map(i64::from), PersonLoad::tasks_on),
            more_lanes: more(person.max_projects.map(i64::from), PersonLoad::projects_on),
            lanes: made,
        };
        Member { resource, lanes }
    }

    /// By which lanes work of a project goes on somebody's days: that of the nearest project, from its own outwards, in which they are
    /// booked that day, else its own.
    pub fn route(&mut self, resource: usize, project: ProjectId) -> Option<usize> {
        if let Some(known) = self.known.get(&(resource, project)) {
            return *known;
        }
        let line: Vec<ProjectId> = self.plan.project_line(project).map(|it| it.id).collect();
        let member = &mut self.members[resource];
        let days = member.resource.given.len();
        if member.resource.more_lanes.is_some() && !member.lanes.contains(&project) {
            member.lanes.push(project);
            member.resource.lanes.push(Lane { reserved: vec![0; days], used: vec![0; days] });
        }
        let place = |project: &ProjectId| member.lanes.iter().position(|lane| lane == project);
        let places: Vec<usize> = line.iter().filter_map(place).collect();
        let own = place(&project);
        let lanes = &member.resource.lanes;
        let on = |day: usize| places.iter().copied().find(|at| lanes[*at].reserved[day] > 0).or(own);
        let route = (!places.is_empty()).then(|| (0..days).map(on).collect());
        let place = route.map(|route| {
            self.routes.push(route);
            self.routes.len() - 1
        });
        self.known.insert((resource, project), place);
        place
    }

    /// The resources and the routes of all that was asked for.
    pub fn filled(self) -> (Vec<Resource>, Vec<Route>) {
        (self.members.into_iter().map(|member| member.resource).collect(), self.routes)
    }
}

/// A plan in which work fills bookings where the setting would count bookings alone.
pub(super) fn counted(plan: &Plan) -> Plan {
    let mut counted = plan.clone();
    if counted.settings.envelope == Envelope::Bookings {
        let settings = (*counted.settings).clone();
        counted.settings = Arc::new(crate::settings::Settings { envelope: Envelope::Larger, ..settings });
    }
    counted
}
