//! Lists: what one or several teams are to do next, in the order of its rank (`rules/queue.md`, Lists).

use super::{
    About, Access, Column, Input, Key, Record, Room, TeamId,
    codec::{Line, ToSeveral},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{
    Day, Refusal,
    rules::{line, named},
};
use serde::{Deserialize, Serialize};

identity!(
    /// A list.
    ListId of List
);

/// What one or several teams are to do next.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct List {
    /// Identity inside the plan.
    pub id: ListId,
    /// The key in files, unique.
    pub code: String,
    /// The name shown.
    pub name: String,
    /// What it is for, in a sentence.
    pub purpose: String,
    /// Whose list it is; never empty.
    pub teams: Vec<TeamId>,
    /// Whether its ideas stand behind the line: after all others, in no period.
    pub ideas_behind: bool,
}

/// The word for ideas that stand behind the line.
const BEHIND: &str = "behind";

impl Record for List {
    has_id!(ListId);

    const ABOUT: About = About {
        key: Key::Named,
        key_column: "code",
        room: Room::Schedule,
        says: "Ranked lists of what comes next, of one team or several.",
        usual: &["name", "code", "purpose", "teams", "ideas"],
        found_by: &["code", "purpose"],
        beside: "teams",
        ..About::new("list", "lists", "lists.csv", "lists")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("code", "Code", at!(code: Line)).hint("Short, unique; the key in files.").example("workshop-next"),
        must("name", "Name", at!(name: Line)).example("Workshop, next"),
        may("purpose", "Purpose", at!(purpose: Line)).hint("What it is for, in a sentence."),
        must("teams", "Teams", at!(teams: ToSeveral))
            .hint("Codes with ; between; somebody in several of them counts once.")
            .example("workshop"),
        may(
            "ideas",
            "Ideas",
            Access::by_hand(
                Input::Choice(|| vec!["", BEHIND]),
                |it: &mut Self, text, _| {
                    it.ideas_behind = text == BEHIND;
                    if it.ideas_behind { Ok(()) } else { Err(format!("“{text}” is neither {BEHIND} nor nothing")) }
                },
                |it: &Self, _| if it.ideas_behind { BEHIND.to_owned() } else { String::new() },
            ),
        )
        .hint("Behind: ideas come after all others and in no period."),
    ];

    fn blank() -> Self {
        let text = String::new;
        Self { id: ListId(0), code: text(), name: text(), purpose: text(), teams: Vec::new(), ideas_behind: false }
    }
    fn key(&self) -> String {
        self.code.clone()
    }
    fn name(&self) -> String {
        self.name.clone()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        named("code", &self.code, "Give a short code; files use it.")?;
        named("name", &self.name, "Give the list a name.")?;
        line("purpose", &self.purpose)?;
        let mut teams = self.teams.clone();
        teams.sort_unstable();
        if teams.is_empty() || teams.windows(2).any(|pair| pair[0] == pair[1]) {
            return Err(Refusal::value("teams", "Name at least one team, each once."));
        }
        Ok(())
    }

    stands_in!(records.lists);
}
