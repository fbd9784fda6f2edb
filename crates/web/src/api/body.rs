//! Records as JSON: the columns of the files, typed.

use serde_json::{Map, Number, Value, json};
use snug_core::{
    Eyes,
    kinds::{AnyRecord, Input, Kind, OWN, Spec},
};

/// What is wrong with a body, by column.
pub type Wrong = Vec<(String, String)>;

/// The name under which the values of the workspace's own fields stand, by the names of the fields.
const FIELDS: &str = "fields";

/// The cells that a body fills, by column.
///
/// # Errors
/// What it does not know, what is missing, and what is of another type than its column.
pub fn cells(kind: Kind, body: &Map<String, Value>) -> Result<Vec<(String, String)>, Wrong> {
    let columns = kind.columns();
    let own = kind.about().own_fields.is_some();
    let unknown = body.keys().find(|name| !(columns.iter().any(|spec| spec.name == *name) || own && *name == FIELDS));
    if let Some(name) = unknown {
        return Err(vec![(name.clone(), "is no column of this kind of record".to_owned())]);
    }
    let mut cells = Vec::with_capacity(columns.len());
    for spec in columns {
        let text = match body.get(spec.name) {
            None | Some(Value::Null) if spec.must => Err("is missing".to_owned()),
            None | Some(Value::Null) => Ok(String::new()),
            Some(value) => cell(spec, value),
        };
        cells.push((spec.name.to_owned(), text.map_err(|reason| vec![(spec.name.to_owned(), reason)])?));
    }
    if let Some(fields) = body.get(FIELDS).filter(|fields| !fields.is_null()) {
        let bad = || vec![(FIELDS.to_owned(), "is an object of texts".to_owned())];
        for (name, value) in fields.as_object().ok_or_else(bad)? {
            cells.push((format!("{OWN}{name}"), value.as_str().ok_or_else(bad)?.to_owned()));
        }
    }
    match cells.iter().find(|(_, text)| text.contains(['\n', '\r'])) {
        Some((name, _)) => Err(vec![(name.clone(), "is more than one line".to_owned())]),
        None => Ok(cells),
    }
}

fn cell(spec: &Spec, value: &Value) -> Result<String, String> {
    match (spec.input, value) {
        (Input::Number | Input::Hours, Value::Number(number)) => Ok(number.to_string()),
        (Input::Number | Input::Hours, _) => Err("is a number".to_owned()),
        (Input::Whole, Value::Number(number)) if number.is_i64() => Ok(number.to_string()),
        (Input::Whole, _) => Err("is a whole number".to_owned()),
        (Input::Yes, Value::Bool(yes)) => Ok(if *yes { "yes".to_owned() } else { String::new() }),
        (Input::Yes, _) => Err("is true or false".to_owned()),
        (_, Value::String(text)) => Ok(text.clone()),
        _ => Err("is a text".to_owned()),
    }
}

/// A record as JSON, with its identity; what these eyes do not see is null.
pub fn shown(eyes: &Eyes<'_>, record: &dyn AnyRecord) -> Value {
    let mut body = Map::new();
    body.insert("id".to_owned(), json!(record.number()));
    for spec in record.kind().columns() {
        body.insert(spec.name.to_owned(), value(spec, &record.cell(eyes, spec.name)));
    }
    if let Some(of) = record.kind().about().own_fields {
        let values = eyes.plan.fields_of(of).into_iter().map(|field| (&field.name, record.cell(eyes, &field.column())));
        let values = values.filter(|(_, text)| !text.is_empty()).map(|(name, text)| (name.clone(), json!(text)));
        body.insert(FIELDS.to_owned(), Value::Object(values.collect()));
    }
    Value::Object(body)
}

fn value(spec: &Spec, cell: &str) -> Value {
    let number = |cell: &str| cell.parse::<f64>().ok().and_then(Number::from_f64).map_or(Value::Null, Value::Number);
    match spec.input {
        Input::Yes => json!(cell == "yes"),
        _ if cell.is_empty() => Value::Null,
        Input::Number | Input::Hours => number(cell),
        Input::Whole => cell.parse::<i64>().map_or(Value::Null, |whole| json!(whole)),
        _ => json!(cell),
    }
}
