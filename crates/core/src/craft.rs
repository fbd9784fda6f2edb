//! Roles and skills: free words, told apart without regard to case and the spaces around them.

use crate::{Plan, kinds::Who};
use std::collections::{BTreeMap, BTreeSet, btree_map::Entry};

/// What of a word tells it from others.
#[must_use]
pub fn folded(word: &str) -> String {
    word.trim().to_lowercase()
}

/// Whether two words say the same role or skill.
#[must_use]
pub fn is_same(one: &str, other: &str) -> bool {
    let (one, other) = (one.trim(), other.trim());
    if one.is_ascii() && other.is_ascii() { one.eq_ignore_ascii_case(other) } else { folded(one) == folded(other) }
}

/// How each role and skill of a plan is shown: of several spellings the first in text order. A plan keeps its own
/// ([`Plan::spellings`]).
#[derive(Clone, Debug, Default)]
pub struct Spellings {
    roles: BTreeMap<String, String>,
    skills: BTreeMap<String, String>,
    /// Roles that somebody has, folded; others only open seats ask for.
    held: BTreeSet<String>,
}

impl Spellings {
    /// Goes through everybody and every open seat. A seat's word is a role, and a skill too where somebody has it.
    pub(crate) fn of(plan: &Plan) -> Self {
        let mut found = Self::default();
        // Many share a word: each is folded once.
        let people = || plan.people.values().map(|entry| &entry.person);
        let roles: BTreeSet<&str> = people().map(|person| person.role.as_str()).collect();
        let skills: BTreeSet<&str> = people().flat_map(|person| &person.skills).map(String::as_str).collect();
        for role in roles {
            take(&mut found.roles, role);
        }
        for skill in skills {
            take(&mut found.skills, skill);
        }
        found.held = found.roles.keys().cloned().collect();
        for seat in plan.seats.values() {
            if let Who::Role(word) = &seat.who {
                take(&mut found.roles, word);
                if found.skills.contains_key(&folded(word)) {
                    take(&mut found.skills, word);
                }
            }
        }
        found
    }

    /// The roles that somebody has, as they are shown, in the order of their letters.
    pub fn held_roles(&self) -> impl Iterator<Item = &str> {
        self.held.iter().filter_map(|role| self.roles.get(role)).map(String::as_str)
    }

    /// The skills that somebody has, as they are shown, in the order of their letters.
    pub fn held_skills(&self) -> impl Iterator<Item = &str> {
        self.skills.values().map(String::as_str)
    }

    /// A role as it is shown.
    #[must_use]
    pub fn role(&self, word: &str) -> String {
        self.roles.get(&folded(word)).cloned().unwrap_or_else(|| word.trim().to_owned())
    }

    /// A skill as it is shown.
    #[must_use]
    pub fn skill(&self, word: &str) -> String {
        self.skills.get(&folded(word)).cloned().unwrap_or_else(|| word.trim().to_owned())
    }

    /// The skills of somebody as they are shown, each once, in the order written.
    #[must_use]
    pub fn skills(&self, words: &[String]) -> Vec<String> {
        let mut shown: Vec<String> = Vec::with_capacity(words.len());
        for word in words.iter().filter(|word| !word.trim().is_empty()) {
            let skill = self.skill(word);
            if !shown.contains(&skill) {
                shown.push(skill);
            }
        }
        shown
    }

    /// Whether somebody has a skill by this word.
    #[must_use]
    pub fn is_skill(&self, word: &str) -> bool {
        self.skills.contains_key(&folded(word))
    }
}

fn take(known: &mut BTreeMap<String, String>, word: &str) {
    let word = word.trim();
    if word.is_empty() {
        return;
    }
    match known.entry(folded(word)) {
        Entry::Vacant(entry) => drop(entry.insert(word.to_owned())),
        Entry::Occupied(mut entry) if word < entry.get().as_str() => drop(entry.insert(word.to_owned())),
        Entry::Occupied(_) => {}
    }
}
