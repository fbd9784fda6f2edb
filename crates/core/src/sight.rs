//! Who sees what. Most of a plan is for everybody in the workspace; rates and money are for managers, and what is private to somebody
//! is for them, for the leads of their teams and for managers.

use crate::{
    Actor, Plan, Role, Tag,
    kinds::{AboutPart, AnyRecord, Held, Kind, PersonId, Sight, TeamId},
};
use std::collections::HashSet;

/// The plan as somebody sees it. Whatever a page, a file or an answer says of a record is read through these.
#[derive(Clone, Debug)]
pub struct Eyes<'a> {
    /// The plan.
    pub plan: &'a Plan,
    role: Role,
    /// Who looks, where they are a person of the plan.
    me: Option<PersonId>,
    /// Whose private matters are seen; `None` where everybody's are.
    known: Option<HashSet<PersonId>>,
}

impl<'a> Eyes<'a> {
    /// Eyes that see everything: files that one makes on the server itself, and what the program reads for itself.
    #[must_use]
    pub const fn of_all(plan: &'a Plan) -> Self {
        Self { plan, role: Role::Administrator, me: None, known: None }
    }

    /// Eyes that see what is for everybody.
    #[must_use]
    pub fn of_none(plan: &'a Plan) -> Self {
        Self { plan, role: Role::Viewer, me: None, known: Some(HashSet::new()) }
    }

    /// Whether what is private to somebody is seen.
    #[must_use]
    pub fn knows(&self, person: PersonId) -> bool {
        self.known.as_ref().is_none_or(|known| known.contains(&person))
    }

    /// Whether something is seen that is for some eyes only and that is about somebody, or about nobody.
    #[must_use]
    pub fn sees(&self, sight: Sight, whose: Option<PersonId>) -> bool {
        match sight {
            Sight::All => true,
            Sight::Money => sight.is_for(self.role),
            Sight::OwnMoney => Sight::Money.is_for(self.role) || whose.is_some() && whose == self.me,
            Sight::Private => whose.is_none_or(|person| self.knows(person)),
        }
    }

    /// The tag of a record, for those who see all of it: by the tag others could guess what they do not see.
    #[must_use]
    pub fn tag(&self, record: &dyn AnyRecord) -> Option<Tag> {
        self.sees_whole(record).then(|| record.tag())
    }

    /// Whether all of a record is seen.
    #[must_use]
    pub fn sees_whole(&self, record: &dyn AnyRecord) -> bool {
        let kind = record.kind();
        let columns = kind.columns().into_iter().all(|spec| self.sees(spec.sight, record.whose()));
        columns && kind.parts().iter().all(|part| self.sees_part(part))
    }

    /// Tells these eyes from others that see something else in records of a kind: whoever answers for many keeps an answer by it.
    #[must_use]
    pub fn sight_of(&self, kind: Kind) -> String {
        let sights = || kind.columns().into_iter().map(|spec| spec.sight).chain([kind.about().sight]);
        let is_personal = sights().any(|sight| matches!(sight, Sight::Private | Sight::OwnMoney));
        match &self.known {
            Some(known) if is_personal => {
                let mut known: Vec<i32> = known.iter().map(|person| person.0).collect();
                known.sort_unstable();
                format!("{:?} {known:?}", self.me)
            }
            _ => String::new(),
        }
    }

    /// Whether the rows of a file that add to records are seen.
    #[must_use]
    pub fn sees_part(&self, part: &AboutPart) -> bool {
        part.is_for(self.role)
    }

    /// Every record of a kind that is seen at all.
    #[must_use]
    pub fn all(&self, kind: Kind) -> Vec<Held<'a>> {
        self.seen(kind, kind.all(self.plan))
    }

    /// One record, if it is seen at all.
    #[must_use]
    pub fn one(&self, kind: Kind, id: i32) -> Option<Held<'a>> {
        kind.one(self.plan, id).filter(|record| self.sees(kind.about().sight, record.whose()))
    }

    /// Of these records of a kind, those that are seen at all.
    #[must_use]
    pub fn seen<'b>(&self, kind: Kind, mut records: Vec<Held<'b>>) -> Vec<Held<'b>> {
        let sight = kind.about().sight;
        if sight != Sight::All {
            records.retain(|record| self.sees(sight, record.whose()));
        }
        records
    }

    /// Whether a column of a record is seen; one of the workspace's own fields always is.
    #[must_use]
    pub fn sees_column(&self, record: &dyn AnyRecord, column: &str) -> bool {
        let spec = record.kind().columns().into_iter().find(|spec| spec.name == column);
        spec.is_none_or(|spec| self.sees(spec.sight, record.whose()))
    }
}

impl Actor<'_> {
    /// What they see of a plan.
    #[must_use]
    pub fn eyes<'a>(&self, plan: &'a Plan) -> Eyes<'a> {
        Eyes {
            plan,
            role: self.role,
            me: self.person(plan),
            known: (self.role < Role::Manager).then(|| self.known(plan)),
        }
    }

    /// Who of the plan they are.
    fn person(&self, plan: &Plan) -> Option<PersonId> {
        plan.person_by_email(self.email).map(|entry| entry.person.id)
    }

    /// Whose private matters they see: their own; a lead those of the people of each team that they are in or answer for, the teams
    /// inside it included.
    fn known(&self, plan: &Plan) -> HashSet<PersonId> {
        let Some(me) = self.person(plan) else { return HashSet::new() };
        let mut known = HashSet::from([me]);
        if self.role >= Role::Lead {
            let teams = &plan.records.teams;
            let mine = |id: &TeamId| {
                teams.get(id).is_some_and(|team| team.owner == Some(me) || team.members.iter().any(|(id, _)| *id == me))
            };
            let led: HashSet<TeamId> = teams.keys().filter(|id| mine(id)).copied().collect();
            let is_led = |id: TeamId| plan.team_line(id).any(|team| led.contains(&team.id));
            let seen = teams.values().filter(|team| is_led(team.id));
            known.extend(seen.flat_map(|team| team.members.iter().map(|(id, _)| *id).chain(team.owner)));
        }
        known
    }
}
