//! Teams with their members.

use super::{
    About, Column, Input, Key, Keys, Part, PersonId, Put, Record, Room, Spec,
    codec::{Codec as _, Hours, Line, MayTo, To, Yes},
    column::{at, may, must, spec},
    record::{each_in_columns, has_id, identity, stands_in},
};
use crate::{
    Day, Refusal, Role, cell,
    kinds::{Kind, Wrong},
    rules::named,
};
use serde::{Deserialize, Serialize};

identity!(
    /// A team.
    TeamId of Team
);

/// A team with its members and the share of their time they give to it.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Team {
    /// Identity inside the plan.
    pub id: TeamId,
    /// The key in files, unique.
    pub code: String,
    /// The name shown.
    pub name: String,
    /// The team it is a part of.
    pub parent: Option<TeamId>,
    /// Who answers for it.
    pub owner: Option<PersonId>,
    /// Minutes a week, typed; replaces the sum of the members' shares.
    pub week_capacity: Option<i32>,
    /// Whether a part of its capacity is kept for walk-ins.
    #[serde(default)]
    pub walk_in_reserve: bool,
    /// Members in the order written, each with a share of their time in hundredths of a percent, 1..=10 000.
    pub members: Vec<(PersonId, i32)>,
}

/// Who is in a team, a row each.
const MEMBERS: Part<Team> = Part {
    name: "members",
    file: "members.csv",
    title: "Members",
    says: "Each with the share of their time that they give to this team; empty is all of it.",
    columns: &[
        Spec { must: true, ..spec("team", "Team", Input::One(Kind::Team)) },
        Spec { must: true, ..spec("email", "Who", Input::One(Kind::Person)) },
        spec("share_percent", "Share, %", Input::Number),
    ],
    twice: "Somebody is named twice.",
    rows: |team, plan| {
        team.members.iter().map(|(id, share)| vec![To.write(id, plan), cell::percent_text(*share)]).collect()
    },
    put: put_member,
    keep: |team, standing| team.members.clone_from(&standing.members),
};

fn put_member(team: &mut Team, row: &[&str], keys: &Keys) -> Result<Put, Wrong> {
    let [email, share] = row else { return Err(("", "has another number of columns".to_owned())) };
    let person: PersonId = To.read(email, keys).map_err(|reason| ("email", reason))?;
    let share = match *share {
        "" => 10_000,
        text => cell::number(text)
            .and_then(|percent| {
                let share = cell::scaled(percent, 100, 10_000).filter(|share: &i32| *share > 0);
                share.ok_or_else(|| format!("“{text}” is no share; it lies between 0 and 100 percent"))
            })
            .map_err(|reason| ("share_percent", reason))?,
    };
    let standing = team.members.iter_mut().find(|(id, _)| *id == person);
    let put = Put::over(standing.as_ref().map(|(_, share)| share), &share);
    match standing {
        Some((_, known)) => *known = share,
        None => team.members.push((person, share)),
    }
    Ok(put)
}

impl Record for Team {
    has_id!(TeamId);

    const ABOUT: About = About {
        least: Role::Manager,
        key: Key::Named,
        key_column: "code",
        room: Room::Setup,
        says: "Teams, one inside another; somebody may give a share of their time to each of several.",
        usual: &["name", "code", "parent", "owner", "week_capacity_h"],
        facets: &["parent"],
        found_by: &["code"],
        ..About::new("team", "teams", "teams.csv", "teams")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("code", "Code", at!(code: Line)).hint("Short, unique; the key in files.").example("install"),
        must("name", "Name", at!(name: Line)).example("Install"),
        may("parent", "Inside", at!(parent: MayTo)).hint("The team it is a part of."),
        may("owner", "Owner", at!(owner: MayTo)).hint("Who answers for it."),
        may("week_capacity_h", "Capacity a week", at!(week_capacity: Hours))
            .hint("Typed, it replaces the sum of the members’ shares.")
            .bounds(0, 1_000_000),
        may("walk_in_reserve", "Reserve for walk-ins", at!(walk_in_reserve: Yes))
            .hint("Keep of its capacity what unplanned work took in its last three sprints."),
    ];

    const PARTS: &'static [Part<Self>] = &[MEMBERS];

    fn blank() -> Self {
        let (code, name) = (String::new(), String::new());
        Self {
            id: TeamId(0),
            code,
            name,
            parent: None,
            owner: None,
            week_capacity: None,
            walk_in_reserve: false,
            members: Vec::new(),
        }
    }
    fn key(&self) -> String {
        self.code.clone()
    }
    fn name(&self) -> String {
        self.name.clone()
    }
    fn parent(&self) -> Option<TeamId> {
        self.parent
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("code", &self.code, "Give a short code; files use it.")?;
        named("name", &self.name, "Give the team a name.")?;
        if self.week_capacity.is_some_and(|minutes| !(0..=60_000_000).contains(&minutes)) {
            return Err(Refusal::value("week_capacity_h", "Write a number of hours a week."));
        }
        let mut members: Vec<PersonId> = self.members.iter().map(|(id, _)| *id).collect();
        members.sort_unstable();
        if members.windows(2).any(|pair| pair[0] == pair[1]) {
            return Err(Refusal::value("members", "Somebody is named twice."));
        }
        if self.members.iter().any(|(_, share)| !(1..=10_000).contains(share)) {
            return Err(Refusal::value("members", "A share lies between 0 and 100 percent."));
        }
        Ok(())
    }

    fn each_named(&self, see: &mut dyn FnMut(&'static str, Kind, i32)) {
        each_in_columns(self, see);
        self.members.iter().for_each(|(id, _)| see("members", Kind::Person, id.0));
    }

    stands_in!(records.teams);
}
