//! Items: the tasks on a list, each with its rank there (`rules/queue.md`, Lists).

use super::{
    About, Column, Key, ListId, Record, Room, TaskId,
    codec::{Date, Number, To},
    column::{at, may, must},
    record::{has_id, identity, stands_in},
};
use crate::{Day, Refusal};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

identity!(
    /// An item of a list.
    ItemId of Item
);

/// A task on a list.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Item {
    /// Identity inside the plan.
    pub id: ItemId,
    /// The list.
    pub list: ListId,
    /// The task.
    pub task: TaskId,
    /// Its place: the smallest comes first. An exact fraction, so that one move changes one item.
    pub rank: Decimal,
    /// The day until which it rests.
    pub parked_until: Option<Day>,
}

impl Record for Item {
    has_id!(ItemId);

    const ABOUT: About = About {
        counts: ("item of a list", "items of lists"),
        key: Key::Pair,
        key_column: "task",
        title: "task",
        room: Room::Schedule,
        says: "What stands on the lists, each with its rank there.",
        usual: &["task", "list", "rank", "parked_until"],
        facets: &["list"],
        ..About::new("item", "items", "items.csv", "items")
    };

    const COLUMNS: &'static [Column<Self>] = &[
        must("list", "List", at!(list: To)).example("workshop-next"),
        must("task", "Task", at!(task: To)),
        must("rank", "Rank", at!(rank: Number))
            .hint("The smallest comes first.")
            .bounds(0, 1_000_000_000)
            .example("1.5"),
        may("parked_until", "Parked until", at!(parked_until: Date)).hint("It rests until this day."),
    ];

    fn blank() -> Self {
        Self { id: ItemId(0), list: ListId(0), task: TaskId(0), rank: Decimal::ZERO, parked_until: None }
    }
    fn key(&self) -> String {
        format!("{}\n{}", self.list, self.task)
    }
    fn name(&self) -> String {
        String::new()
    }

    fn check(&self, _: Day) -> Result<(), Refusal> {
        if self.rank > Decimal::from(1_000_000_000) {
            return Err(Refusal::value("rank", "A rank is at most 1,000,000,000."));
        }
        Ok(())
    }

    stands_in!(records.items);
}
