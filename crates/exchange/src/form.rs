//! The ways in which a table is written.

use crate::table::{aligned, text};
use serde_json::{Map, Value, json};

/// How a table is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Form {
    /// Columns to read.
    Columns,
    /// CSV with a header row.
    Csv,
    /// A list of objects.
    Json,
}

/// A table in a form. The first `keys` columns hold names, which stay texts whatever they look like; of the others whole numbers are
/// numbers in JSON, and what is empty is nothing.
pub(crate) fn written<const N: usize>(header: [&str; N], keys: usize, rows: Vec<[String; N]>, form: Form) -> String {
    match form {
        Form::Csv => text(header, rows),
        Form::Columns => aligned(header, &rows),
        Form::Json => {
            let value = |cell: &String| match cell.parse::<i64>() {
                _ if cell.is_empty() => Value::Null,
                Ok(number) => json!(number),
                Err(_) => json!(cell),
            };
            let cell = |(at, (name, cell)): (usize, (&&str, &String))| {
                ((*name).to_owned(), if at < keys { json!(cell) } else { value(cell) })
            };
            let object =
                |row: &[String; N]| -> Map<String, Value> { header.iter().zip(row).enumerate().map(cell).collect() };
            let rows = rows.iter().map(|row| Value::Object(object(row))).collect();
            format!("{:#}\n", Value::Array(rows))
        }
    }
}
