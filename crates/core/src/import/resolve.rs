//! From the rows of files to changes: each row is refused with its place, or becomes a record that is held against what stands.

use super::{
    Dataset, Line, Preview, Problem, Tally,
    diff::diff,
    records::{self, Keys, Wrong, lawful},
};
use crate::{
    FieldId, Plan, ProjectId, TaskId,
    change::{Change, Edit},
    rules,
    work::{Project, Who},
};
use std::{
    collections::{BTreeMap, HashMap},
    hash::Hash,
};

pub(super) struct Work<'a> {
    pub(super) plan: &'a Plan,
    pub(super) keys: Keys<'a>,
    pub(super) out: Preview,
}

pub(super) fn resolve(plan: &Plan, data: &Dataset) -> Preview {
    let mut work = Work { plan, keys: Keys::of(plan), out: Preview::default() };
    work.keys.hand_out(data);
    work.fields(data);
    work.people(data);
    work.teams(data);
    work.projects(data);
    work.plain_files(data);
    work.refuse_overload(data);
    work.out
}

impl<'a> Work<'a> {
    pub(super) fn tally(&mut self, file: &str) -> &mut Tally {
        self.out.files.entry(file.to_owned()).or_default()
    }

    pub(super) fn refuse(&mut self, file: &str, line: u64, (column, reason): Wrong) {
        self.tally(file).refused += 1;
        self.out.problems.push(Problem { file: file.to_owned(), line, column: column.to_owned(), reason });
    }

    pub(super) fn put<T: PartialEq>(&mut self, before: Option<T>, after: T, change: fn(Edit<T>) -> Change) {
        if before.as_ref() != Some(&after) {
            self.out.changes.push(change(Edit { before, after: Some(after) }));
        }
    }

    /// Refuses the second row with the same key.
    pub(super) fn only_once<K: Eq + Hash>(
        &mut self,
        seen: &mut HashMap<K, u64>,
        key: K,
        file: &str,
        line: u64,
        column: &'static str,
    ) -> bool {
        if let Some(first) = seen.get(&key) {
            let reason = format!("stands on line {first} already");
            self.refuse(file, line, (column, reason));
            return false;
        }
        seen.insert(key, line);
        true
    }

    /// The workspace's own fields come first: rows of the other files have values of them.
    fn fields(&mut self, data: &Dataset) {
        let mut seen = HashMap::new();
        for Line { line, row } in &data.fields {
            let key = format!("{} {}", row.of, row.name);
            if !self.only_once(&mut seen, key.clone(), "fields.csv", *line, "name") {
                continue;
            }
            let before = self.plan.find("field", &key).and_then(|id| self.plan.fields.get(&FieldId(id)));
            let before = before.map(|field| (**field).clone());
            let mut field = records::field(row);
            field.id = FieldId(before.as_ref().map_or_else(|| self.keys.take_id(), |field| field.id.0));
            if let Err(refusal) = field.check() {
                self.refuse("fields.csv", *line, (refusal.field, refusal.message));
                continue;
            }
            count(self.tally("fields.csv"), before.as_ref(), &field);
            self.keys.plan.apply(&Change::Field(Edit::new(field.clone())));
            self.put(before, field, Change::Field);
        }
    }

    fn projects(&mut self, data: &Dataset) {
        let mut touched: BTreeMap<ProjectId, Project> = BTreeMap::new();
        let mut seen = HashMap::new();
        for Line { line, row } in &data.projects {
            if !self.only_once(&mut seen, row.code.clone(), "projects.csv", *line, "code") {
                continue;
            }
            let project = records::project(&self.keys, row)
                .and_then(|project| lawful(&self.keys, &Change::Project(Edit::new(project.clone()))).map(|()| project));
            match project {
                Ok(project) => {
                    let before = self.plan.projects.get(&project.id).map(|project| &**project);
                    count(self.out.files.entry("projects.csv".to_owned()).or_default(), before, &project);
                    touched.insert(project.id, project);
                }
                Err(wrong) => self.refuse("projects.csv", *line, wrong),
            }
        }
        let all =
            self.plan.projects.values().map(|project| &**project).filter(|project| !touched.contains_key(&project.id));
        if let Some((id, how)) = rules::nesting(all.chain(touched.values()).map(|project| (project.id, project.parent)))
        {
            let line = touched.get(&id).map_or(0, |project| line_of(&data.projects, |row| row.code == project.code));
            self.refuse("projects.csv", line, ("parent", nested(how)));
        }
        for project in touched.into_values() {
            let before = self.plan.projects.get(&project.id).map(|project| (**project).clone());
            self.put(before, project, Change::Project);
        }
    }

    /// The files whose rows stand for one record each.
    fn plain_files(&mut self, data: &Dataset) {
        let plan = self.plan;
        let standing = plan.calendars.values().flat_map(|calendar| calendar.holidays.clone());
        self.file("holidays.csv", &data.holidays, standing, records::holiday, None);
        let standing = plan.people.values().flat_map(|entry| entry.absences.iter().cloned());
        self.file("absences.csv", &data.absences, standing, records::absence, Some(|row| &row.reference));
        // What remains of tasks is said beside the log of the same files, so that one is read first; it stands after the tasks.
        let first = self.out.changes.len();
        let standing = plan.time_entries.values().map(|entry| (**entry).clone());
        self.file("time.csv", &data.time, standing, records::time_entry, Some(|row| &row.reference));
        let log = self.out.changes.split_off(first);
        if data.tasks.iter().any(|line| line.row.remaining.is_some()) {
            self.keys.logs = Some(self.logs(data, &log));
        }
        let standing = plan.tasks.values().map(|task| (**task).clone());
        self.file("tasks.csv", &data.tasks, standing, records::task, Some(|row| &row.reference));
        self.refuse_task_nesting(first, data);
        let first = self.out.changes.len();
        let standing = plan.links.values().map(|link| (**link).clone());
        self.file("links.csv", &data.links, standing, records::link, None);
        self.refuse_link_cycles(first);
        self.file("bookings.csv", &data.bookings, plan.bookings(), records::booking, Some(|row| &row.reference));
        let first = self.out.changes.len();
        self.out.changes.extend(log);
        self.refuse_overfull_days(first, data);
        let standing = plan.milestones.values().map(|milestone| (**milestone).clone());
        self.file("milestones.csv", &data.milestones, standing, records::milestone, Some(|row| &row.reference));
    }

    fn file<R, T: super::diff::Filed>(
        &mut self,
        name: &str,
        lines: &[Line<R>],
        standing: impl Iterator<Item = T>,
        record: impl Fn(&Keys<'a>, &R) -> Result<T, Wrong>,
        reference: Option<fn(&R) -> &String>,
    ) {
        if lines.is_empty() {
            return;
        }
        let mut seen = HashMap::new();
        let mut records = Vec::with_capacity(lines.len());
        for Line { line, row } in lines {
            if let Some(key) = reference.map(|of| of(row)).filter(|key| !key.is_empty())
                && !self.only_once(&mut seen, key.clone(), name, *line, "ref")
            {
                continue;
            }
            let read = record(&self.keys, row)
                .and_then(|record| lawful(&self.keys, &T::change(Edit::new(record.clone()))).map(|()| record));
            match read {
                Ok(record) => records.push(record),
                Err(wrong) => self.refuse(name, *line, wrong),
            }
        }
        let tally = self.out.files.entry(name.to_owned()).or_default();
        let keys = &mut self.keys;
        diff(standing, records, tally, &mut self.out.changes, || keys.take_id());
    }

    /// What is logged on every task and inside it, once these changes of the log are made and these tasks stand where they say.
    fn logs(&self, data: &Dataset, log: &[Change]) -> HashMap<TaskId, i64> {
        let mut own: HashMap<TaskId, i64> = HashMap::new();
        for (task, log) in &self.plan.logged {
            own.insert(*task, log.iter().map(|(_, minutes)| minutes).sum());
        }
        for change in log {
            let Change::TimeEntry(edit) = change else { continue };
            for (entry, sign) in [(&edit.before, -1), (&edit.after, 1)] {
                if let Some((task, entry)) = entry.as_ref().and_then(|entry| Some((entry.task?, entry))) {
                    *own.entry(task).or_default() += sign * i64::from(entry.minutes);
                }
            }
        }
        let mut parents: HashMap<TaskId, TaskId> = HashMap::new();
        for task in self.plan.tasks.values() {
            parents.extend(task.parent.map(|parent| (task.id, parent)));
        }
        for Line { row, .. } in data.tasks.iter().filter(|line| !line.row.reference.is_empty()) {
            let Some(id) = self.keys.get("task", &row.reference).map(TaskId) else { continue };
            parents.remove(&id);
            parents.extend(self.keys.get("task", &row.parent).map(|parent| (id, TaskId(parent))));
        }
        let mut sums = HashMap::new();
        for (task, minutes) in own.into_iter().filter(|(_, minutes)| *minutes != 0) {
            // Rows that stand in a circle, or too deep, are refused afterwards.
            let line = std::iter::successors(Some(task), |id| parents.get(id).copied());
            line.take(rules::MOST_LEVELS + 1).for_each(|id| *sums.entry(id).or_insert(0) += minutes);
        }
        sums
    }

    fn refuse_task_nesting(&mut self, first: usize, data: &Dataset) {
        let mut parents: HashMap<TaskId, Option<TaskId>> =
            self.plan.tasks.values().map(|task| (task.id, task.parent)).collect();
        for change in &self.out.changes[first..] {
            if let Change::Task(edit) = change
                && let Some(task) = &edit.after
            {
                parents.insert(task.id, task.parent);
            }
        }
        if let Some((id, how)) = rules::nesting(parents.into_iter()) {
            let line = line_of(&data.tasks, |row| {
                !row.reference.is_empty() && self.keys.get("task", &row.reference) == Some(id.0)
            });
            self.refuse("tasks.csv", line, ("parent", nested(how)));
        }
    }

    /// What would be more than one row can hold.
    fn refuse_overload(&mut self, data: &Dataset) {
        let Some((who, minutes)) = rules::overloaded(self.plan, &self.out.changes) else { return };
        let is_of = |email: &str, team: &str, role: &str| match &who {
            Who::Person(id) => self.keys.get("person", email) == Some(id.0),
            Who::Team(id) => self.keys.get("team", team) == Some(id.0),
            Who::Role(word) => role == word,
        };
        let line = line_of(&data.bookings, |row| is_of(&row.email, &row.team, &row.role));
        let (file, column) = if line > 0 { ("bookings.csv", "amount") } else { ("tasks.csv", "estimate_h") };
        self.refuse(file, line, (column, rules::too_much(minutes)));
    }

    fn refuse_link_cycles(&mut self, first: usize) {
        if self.out.changes.len() == first {
            return;
        }
        if let Some(names) = rules::link_cycle(&self.plan.with(&self.out.changes)) {
            let reason = format!("these links close a circle: {}", names.join(" → "));
            self.refuse("links.csv", 0, ("to", reason));
        }
    }

    fn refuse_overfull_days(&mut self, first: usize, data: &Dataset) {
        let logged = &self.out.changes[first..];
        if logged.is_empty() {
            return;
        }
        // People who come with the same files have nothing logged before, so the entries alone will do.
        if let Some((person, date, minutes)) = rules::overfull_day(&self.plan.with(logged), logged) {
            let line =
                line_of(&data.time, |row| row.date == date && self.keys.get("person", &row.email) == Some(person.0));
            let reason = format!("{date} would have {}:{:02} hours; a day has 24", minutes / 60, minutes % 60);
            self.refuse("time.csv", line, ("hours", reason));
        }
    }
}

/// Why something cannot stand where a row says.
pub(super) fn nested(how: rules::Nesting) -> String {
    match how {
        rules::Nesting::Circle => "is inside itself".to_owned(),
        rules::Nesting::TooDeep => format!("nests more than {} levels deep", rules::most_levels()),
    }
}

pub(super) fn count<T: PartialEq>(tally: &mut Tally, before: Option<&T>, after: &T) {
    match before {
        None => tally.new += 1,
        Some(before) if before == after => tally.same += 1,
        Some(_) => tally.changed += 1,
    }
}

pub(super) fn line_of<T>(lines: &[Line<T>], is: impl Fn(&T) -> bool) -> u64 {
    lines.iter().find(|line| is(&line.row)).map_or(0, |line| line.line)
}
