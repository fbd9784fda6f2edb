//! The security log: who came in, who was refused, and what was done about who may. Administrators read it.

use crate::{Error, entity::security_entry, ledger::containing};
use chrono::{Duration, Utc};
use sea_orm::{
    ActiveValue::Set, Condition, DatabaseConnection, QueryOrder as _, QuerySelect as _, entity::prelude::*,
    sea_query::extension::postgres::PgExpr,
};

/// One entry.
pub type Entry = security_entry::Model;

/// Declares what is noted, each with the word of the log and what it means.
macro_rules! deeds {
    ($($deed:ident $word:literal $says:literal),* $(,)?) => {
        /// What is noted.
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        pub enum Deed {
            $(#[doc = $says] $deed,)*
        }

        impl Deed {
            /// All of them.
            pub const ALL: &'static [Self] = &[$(Self::$deed),*];

            /// As it is kept, and as people read it.
            #[must_use]
            pub fn word(self) -> &'static str {
                match self {
                    $(Self::$deed => $word,)*
                }
            }
        }
    };
}

deeds! {
    SignIn "signed in" "Somebody came in.",
    Refused "sign-in refused" "A password was wrong, or nobody has the address.",
    CodeRefused "code refused" "The password was right, the code of the second step was not.",
    TooMany "held back" "Too many attempts.",
    SignOut "signed out" "Somebody went out.",
    Founding "workspace made" "The first start.",
    Password "password changed" "A password was changed, or set anew by a mailed link.",
    TwoStepOn "two-step sign-in on" "A second step was set up.",
    TwoStepOff "two-step sign-in off" "A second step was taken away.",
    Sessions "sessions ended" "Sessions were ended by hand.",
    TokenMade "token made" "A token for programs was made.",
    TokenEnded "token ended" "A token for programs was ended.",
    Calendar "calendar address made" "The secret address of a calendar was made, or ended.",
    Invited "invited" "An invitation was mailed or withdrawn.",
    Joined "account made" "Somebody followed an invitation.",
    Role "role changed" "Somebody got another role.",
    Removed "account taken away" "An account was taken away.",
    Export "export" "Records were taken out as files.",
}

/// How long entries are kept, in days.
const KEPT_DAYS: i64 = 400;
/// How many entries are kept at most, so that a flood of attempts does not fill the disk.
const MOST_KEPT: i64 = 1_000_000;
/// The longest text of an entry, in characters: what strangers type is cut.
const LONGEST: usize = 300;

/// Notes what somebody did, from where.
///
/// # Errors
/// The database does not answer.
pub async fn note(db: &impl ConnectionTrait, deed: Deed, actor: &str, peer: &str, says: &str) -> Result<(), Error> {
    let cut = |text: &str| text.replace('\0', "").chars().take(LONGEST).collect::<String>();
    let row = security_entry::ActiveModel {
        deed: Set(deed.word().to_owned()),
        actor: Set(cut(actor)),
        peer: Set(cut(peer)),
        says: Set(cut(says)),
        ..Default::default()
    };
    security_entry::Entity::insert(row).exec_without_returning(db).await?;
    Ok(())
}

/// Which entries are asked for.
#[derive(Clone, Debug, Default)]
pub struct Filter {
    /// Only of this kind.
    pub deed: Option<String>,
    /// Only with this in the actor, the text or the address it came from.
    pub words: Option<String>,
    /// Only those before this one.
    pub before: Option<i64>,
    /// At most so many.
    pub limit: u64,
}

/// Entries, the newest first.
///
/// # Errors
/// The database does not answer.
pub async fn entries(db: &DatabaseConnection, filter: &Filter) -> Result<Vec<Entry>, Error> {
    use security_entry::Column;
    let mut query = security_entry::Entity::find();
    if let Some(deed) = &filter.deed {
        query = query.filter(Column::Deed.eq(deed));
    }
    if let Some(words) = &filter.words {
        let like = |column: Column| PgExpr::ilike(Expr::col(column), containing(words));
        let any = [Column::Actor, Column::Says, Column::Peer].map(like);
        query = query.filter(any.into_iter().fold(Condition::any(), Condition::add));
    }
    if let Some(before) = filter.before {
        query = query.filter(Column::Id.lt(before));
    }
    Ok(query.order_by_desc(Column::Id).limit(filter.limit).all(db).await?)
}

/// Forgets what is too old, or too much.
///
/// # Errors
/// The database does not answer.
pub async fn sweep(db: &DatabaseConnection) -> Result<(), Error> {
    use security_entry::Column;
    let newest = security_entry::Entity::find().order_by_desc(Column::Id).one(db).await?;
    let Some(newest) = newest else { return Ok(()) };
    let old = Condition::any()
        .add(Column::At.lt(Utc::now() - Duration::days(KEPT_DAYS)))
        .add(Column::Id.lte(newest.id - MOST_KEPT));
    security_entry::Entity::delete_many().filter(old).exec(db).await?;
    Ok(())
}
