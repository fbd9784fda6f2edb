//! Pictures that many rows have alike: days off, rims, usual weeks. A part of the list draws each of them once.

use std::{collections::HashMap, fmt::Display};

/// A small picture: itself, or the name under which it was drawn before.
#[derive(Clone, Debug, PartialEq)]
pub enum Alike {
    /// Its elements of SVG.
    Drawn(String),
    /// The identity of the group that has them.
    Named(String),
}

impl Alike {
    /// One path of a class.
    pub fn path(class: &str, path: &impl Display) -> Self {
        let path = path.to_string();
        Self::Drawn(if path.is_empty() { path } else { format!("<path class=\"{class}\" d=\"{path}\"/>") })
    }
}

impl Display for Alike {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Drawn(elements) => f.write_str(elements),
            Self::Named(name) => write!(f, "<use href=\"#{name}\"/>"),
        }
    }
}

/// A picture that is drawn once for several rows.
pub struct Common {
    pub name: String,
    pub elements: String,
}

/// Draws what stands several times among these pictures once. `part` tells the names of one part of the list from those of others.
pub fn share<'p>(pictures: impl Iterator<Item = &'p mut Alike>, part: usize) -> Vec<Common> {
    let mut places: HashMap<String, Vec<&'p mut Alike>> = HashMap::new();
    let mut order = Vec::new();
    for picture in pictures {
        let Alike::Drawn(elements) = &*picture else { continue };
        let elements = elements.clone();
        if !elements.is_empty() {
            let same = places.entry(elements.clone()).or_default();
            same.push(picture);
            if same.len() == 2 {
                order.push(elements);
            }
        }
    }
    let common = |(at, elements): (usize, String)| {
        let name = format!("p{part}-{at}");
        for picture in places.remove(&elements).into_iter().flatten() {
            *picture = Alike::Named(name.clone());
        }
        Common { name, elements }
    };
    order.into_iter().enumerate().map(common).collect()
}
