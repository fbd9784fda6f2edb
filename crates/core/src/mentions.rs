//! Who is mentioned in a text: `@Mira Castellan`, or `@mira@tidewater.test` where several are called alike.

use crate::{Plan, kinds::PersonId};
use std::{collections::HashMap, ops::Range};

/// The most people that one text mentions; what comes after is plain text.
const MOST: usize = 50;

/// The most words of a name that are looked for.
const MOST_WORDS: usize = 6;

/// Somebody who is mentioned.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Mention {
    /// Where in the text, in bytes, the sign included.
    pub at: Range<usize>,
    /// Who.
    pub person: PersonId,
}

/// Everybody who is mentioned, in order. The longest name that fits counts; a name that several have means nobody.
#[must_use]
pub fn mentions(plan: &Plan, text: &str) -> Vec<Mention> {
    let mut found: Vec<Mention> = Vec::new();
    if !text.contains('@') {
        return found;
    }
    let mut names: HashMap<String, Option<PersonId>> = HashMap::new();
    for (id, entry) in &plan.people {
        names.entry(entry.person.name.to_lowercase()).and_modify(|known| *known = None).or_insert(Some(*id));
    }
    for (at, _) in text.match_indices('@') {
        let begins = text[..at].chars().next_back().is_none_or(|before| !is_of_word(before));
        let free = found.last().is_none_or(|last| last.at.end <= at);
        if begins
            && free
            && let Some((length, person)) = named(plan, &names, &text[at + 1..])
        {
            found.push(Mention { at: at..at + 1 + length, person });
            if found.len() == MOST {
                break;
            }
        }
    }
    found
}

fn is_of_word(letter: char) -> bool {
    letter.is_alphanumeric() || letter == '_'
}

/// Who a text begins with, and the bytes of their address or name.
fn named(plan: &Plan, names: &HashMap<String, Option<PersonId>>, text: &str) -> Option<(usize, PersonId)> {
    let address = text.find(|c: char| c.is_whitespace() || matches!(c, ',' | ';' | ':' | '(' | ')' | '!' | '?'));
    let address = text[..address.unwrap_or(text.len())].trim_end_matches('.');
    if let Some(entry) = plan.person_by_email(address) {
        return Some((address.len(), entry.person.id));
    }
    let line = text.split(['\n', '\r']).next().unwrap_or_default();
    // A name ends where a word ends.
    let ends = line.char_indices().filter(|(at, letter)| {
        is_of_word(*letter) && line[at + letter.len_utf8()..].chars().next().is_none_or(|next| !is_of_word(next))
    });
    let ends: Vec<usize> = ends.map(|(at, letter)| at + letter.len_utf8()).take(MOST_WORDS).collect();
    ends.into_iter().rev().find_map(|end| Some((end, (*names.get(&line[..end].to_lowercase())?)?)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        change::{Change, Edit},
        kinds::{Person, Record as _},
    };

    fn plan() -> Plan {
        let people = [
            (1, "Mira Castellan", "mira"),
            (2, "Mira", "m2"),
            (3, "Jo Ann Lee", "jo"),
            (4, "Bo", "bo"),
            (5, "bo", "bo2"),
        ];
        let person = |(id, name, email): (i32, &str, &str)| {
            let (name, email) = (name.to_owned(), format!("{email}@x.test"));
            Change::Person(Edit::new(Person { id: PersonId(id), name, email, ..Person::blank() }))
        };
        Plan::empty().with(&people.map(person))
    }

    #[test]
    fn the_longest_name_counts_and_one_that_two_have_means_nobody() {
        let plan = plan();
        let of = |text: &str| {
            let found = mentions(&plan, text);
            found.into_iter().map(|it| (it.person.0, text[it.at].to_owned())).collect::<Vec<_>>()
        };
        assert_eq!(of("Ask @Mira Castellan, or @mira."), [(1, "@Mira Castellan".into()), (2, "@mira".into())]);
        assert_eq!(
            of("@jo ann lee's bench, (@bo@x.test) and @Bo"),
            [(3, "@jo ann lee".into()), (4, "@bo@x.test".into())]
        );
        assert_eq!(of("mail mira@x.test, @Miracle, @@Mira\n@ Mira @Jo Ann"), [(2, "@Mira".into())]);
        assert_eq!(of(&"@Mira ".repeat(80)).len(), 50);
    }
}
