//! Values that are read and written whole, as typed JSON.

use sea_orm::FromJsonQueryResult;
use serde::{Deserialize, Serialize};
use snug_core::{
    FieldId, MilestoneId, PersonId, TaskId, TeamId,
    change::Change,
    kinds::{DatedPattern, DatedRate, TrailDay},
};

macro_rules! json {
    ($($name:ident($inner:ty)),* $(,)?) => {$(
        #[derive(Clone, Debug, PartialEq, Serialize, Deserialize, FromJsonQueryResult)]
        #[serde(transparent)]
        pub struct $name(pub $inner);
    )*};
}

json!(
    Settings(snug_core::settings::Settings),
    Patterns(Vec<DatedPattern>),
    Rates(Vec<DatedRate>),
    Words(Vec<String>),
    FieldPairs(Vec<(FieldId, String)>),
    Teams(Vec<TeamId>),
    TeamShares(Vec<(TeamId, Option<i32>)>),
    Milestones(Vec<MilestoneId>),
    People(Vec<PersonId>),
    Tasks(Vec<TaskId>),
    TrailDays(Vec<TrailDay>),
    Recorded(Change),
);
