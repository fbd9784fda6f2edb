//! What the address of a list says: columns, sort, filter, grouping.

use crate::columns::Column;
use crate::words;
use snug_core::kinds::Kind;

/// What the address of a list says.
#[derive(Clone, Debug, Default)]
pub struct ListQuery {
    /// Words that a record must hold.
    pub q: String,
    /// The column to sort by.
    pub sort: String,
    /// From the last to the first.
    pub descending: bool,
    /// The column to group by; empty for none.
    pub group: String,
    /// The columns shown.
    pub columns: Vec<String>,
    /// Values that columns must have.
    pub facets: Vec<(String, String)>,
    /// Rows left out at the top.
    pub offset: usize,
}

impl ListQuery {
    /// Reads an address; what makes no sense is taken as not said.
    pub fn read(kind: Kind, columns: &[Column], pairs: &[(String, String)]) -> Self {
        let known = |name: &str| columns.iter().any(|column| column.name == name);
        let mut query = Self::default();
        for (name, value) in pairs.iter().filter(|(_, value)| !value.is_empty()) {
            match name.as_str() {
                "q" => query.q = value.trim().chars().take(100).collect(),
                "sort" => {
                    let column = value.strip_prefix('-').unwrap_or(value);
                    if known(column) {
                        column.clone_into(&mut query.sort);
                        query.descending = value.starts_with('-');
                    }
                }
                "group" if known(value) => query.group.clone_from(value),
                "col" if known(value) && !query.columns.contains(value) => query.columns.push(value.clone()),
                "offset" => query.offset = value.parse().unwrap_or(0),
                _ => {
                    if let Some(column) = name.strip_prefix("is.").filter(|column| known(column)) {
                        query.facets.push((column.to_owned(), value.clone()));
                    }
                }
            }
        }
        if query.columns.is_empty() {
            query.columns = kind.about().usual.iter().map(|name| (*name).to_owned()).collect();
        }
        query
    }

    fn pairs(&self, kind: Kind) -> Vec<(String, String)> {
        let mut pairs = vec![("q".to_owned(), self.q.clone())];
        if !self.sort.is_empty() {
            let mark = if self.descending { "-" } else { "" };
            pairs.push(("sort".to_owned(), format!("{mark}{}", self.sort)));
        }
        pairs.push(("group".to_owned(), self.group.clone()));
        if self.columns.iter().map(String::as_str).ne(kind.about().usual.iter().copied()) {
            pairs.extend(self.columns.iter().map(|name| ("col".to_owned(), name.clone())));
        }
        pairs.extend(self.facets.iter().map(|(name, value)| (format!("is.{name}"), value.clone())));
        pairs
    }

    /// The address of this list under a path.
    pub fn href(&self, kind: Kind, path: &str) -> String {
        let pairs = self.pairs(kind);
        words::address(path, pairs.iter().map(|(name, value)| (name.as_str(), value.as_str())))
    }

    /// The value that a column must have.
    pub fn facet(&self, column: &str) -> &str {
        self.facets.iter().find(|(name, _)| name == column).map_or("", |(_, value)| value)
    }

    /// Whether some records are left out.
    pub fn is_filtered(&self) -> bool {
        !self.q.is_empty() || !self.facets.is_empty()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::columns::{columns, listed};
    use snug_core::{Plan, Role};

    fn read(path: &str, pairs: &[(&str, &str)]) -> (Kind, Vec<Column>, ListQuery) {
        let kind = Kind::at(path).unwrap();
        let columns = columns(&Plan::empty(), kind, Role::Manager);
        let pairs: Vec<(String, String)> = pairs.iter().map(|(n, v)| ((*n).to_owned(), (*v).to_owned())).collect();
        let query = ListQuery::read(kind, &columns, &pairs);
        (kind, columns, query)
    }

    #[test]
    fn an_address_says_all_of_a_view_and_reads_back() {
        let pairs = [
            ("q", " oak "),
            ("sort", "-due"),
            ("group", "stage"),
            ("col", "title"),
            ("col", "due"),
            ("is.stage", "doing"),
        ];
        let (kind, columns, query) = read("tasks", &pairs);
        assert_eq!((query.q.as_str(), query.sort.as_str(), query.descending), ("oak", "due", true));
        assert_eq!(query.columns, ["title", "due"]);
        let href = query.href(kind, "/tasks");
        assert_eq!(href, "/tasks?q=oak&sort=-due&group=stage&col=title&col=due&is.stage=doing");
        let again: Vec<(String, String)> = serde_urlencoded::from_str(href.split_once('?').unwrap().1).unwrap();
        assert_eq!(ListQuery::read(kind, &columns, &again).href(kind, "/tasks"), href);
    }

    #[test]
    fn what_makes_no_sense_is_taken_as_not_said() {
        let (kind, _, query) = read(
            "people",
            &[("sort", "colour"), ("group", ""), ("col", "colour"), ("is.colour", "x"), ("offset", "-4")],
        );
        assert_eq!(query.href(kind, "/people"), "/people");
        assert_eq!(query.columns, kind.about().usual);
        assert!(!query.is_filtered());
    }

    #[test]
    fn the_usual_columns_and_facets_of_every_kind_are_columns_of_it() {
        for kind in listed() {
            let about = kind.about();
            let columns = columns(&Plan::empty(), kind, Role::Manager);
            let names: Vec<&str> = columns.iter().map(|column| column.name.as_str()).collect();
            let mut told = about.usual.iter().chain(about.facets).chain([&about.title]);
            assert!(told.all(|name| names.contains(name)), "{}", about.path);
            assert_eq!(Kind::at(about.path), Some(kind));
        }
    }
}
