//! What the description of the API says of the records: made from what the core says of their columns.

use serde_json::{Map, Value, json};
use snug_core::{
    capital,
    kinds::{About, Input, Kind, Spec},
};

/// The kinds that programs can read and write.
pub fn open_kinds() -> impl Iterator<Item = Kind> {
    Kind::ALL.iter().copied().filter(|kind| !kind.about().path.is_empty())
}

/// Adds every kind of record to a description.
pub fn add_records(doc: &mut Value) {
    for kind in open_kinds() {
        let about = kind.about();
        let name = schema_name(about);
        doc["components"]["schemas"][format!("{name}Body")] = body(kind, false);
        doc["components"]["schemas"][format!("{name}Record")] = body(kind, true);
        doc["components"]["schemas"][format!("{name}Page")] = page(&name);
        let path = format!("/api/v1/{}", about.path);
        doc["paths"][&path] = of_all(about, &name);
        doc["paths"][format!("{path}/{{id}}")] = of_one(about, &name);
        if let Some(tags) = doc["tags"].as_array_mut() {
            tags.push(json!({ "name": about.path, "description": description(about) }));
        }
    }
}

fn description(about: &About) -> String {
    if about.says.is_empty() { about.list_title() } else { about.says.to_owned() }
}

/// `TimeEntry`, from “time entry”.
fn schema_name(about: &About) -> String {
    about.words.0.split_whitespace().map(capital).collect()
}

fn body(kind: Kind, is_record: bool) -> Value {
    let mut properties = Map::new();
    let mut required: Vec<&str> = Vec::new();
    if is_record {
        properties
            .insert("id".to_owned(), json!({ "type": "integer", "format": "int32", "description": "Never changes." }));
        required.push("id");
    }
    for spec in kind.columns() {
        properties.insert(spec.name.to_owned(), property(spec, is_record));
        if spec.must {
            required.push(spec.name);
        }
    }
    if kind.about().own_fields.is_some() {
        let says = "Values of the workspace's own fields, by the field's name.";
        let of_text = json!({ "type": "string" });
        properties.insert(
            "fields".to_owned(),
            json!({ "type": "object", "description": says, "additionalProperties": of_text }),
        );
    }
    let says = description(kind.about());
    json!({ "type": "object", "description": says, "properties": properties, "required": required, "additionalProperties": false })
}

fn property(spec: &Spec, is_record: bool) -> Value {
    let (kind, pattern) = match spec.input {
        Input::Number | Input::Hours => ("number", None),
        Input::Whole => ("integer", None),
        Input::Yes => ("boolean", None),
        Input::Date => ("string", Some(r"^\d{4}-\d{2}-\d{2}$".to_owned())),
        // The stages of a task are open: a workspace has others of its own.
        Input::Choice(list) if spec.name != "stage" => ("string", Some(format!("^({})$", list().join("|")))),
        _ => ("string", None),
    };
    let mut property = json!({ "type": if spec.must { json!(kind) } else { json!([kind, "null"]) } });
    let says = match (spec.hint, spec.input) {
        ("", Input::One(_)) => format!("{}, by its key.", spec.label),
        ("", _) => format!("{}.", spec.label),
        (hint, _) => hint.to_owned(),
    };
    property["description"] = json!(says);
    if let Some((least, most)) = spec.bounds {
        (property["minimum"], property["maximum"]) = (json!(least), json!(most));
    }
    if !spec.example.is_empty() {
        let number = spec.example.parse::<f64>().ok().filter(|_| kind == "number");
        property["example"] = number.map_or_else(|| json!(spec.example), |number| json!(number));
    }
    if let Some(pattern) = pattern.filter(|_| !is_record) {
        property["pattern"] = json!(pattern);
    }
    if spec.must && kind == "string" && !is_record {
        property["minLength"] = json!(1);
    }
    property
}

fn page(name: &str) -> Value {
    json!({
        "type": "object",
        "description": "A page of them",
        "required": ["items"],
        "properties": {
            "items": { "type": "array", "description": "The records, by identity.", "items": schema(name, "Record") },
            "next": {
                "type": ["integer", "null"],
                "format": "int32",
                "description": "What to send as `after` for the next page; nothing on the last one.",
            },
        },
    })
}

fn schema(name: &str, what: &str) -> Value {
    json!({ "$ref": format!("#/components/schemas/{name}{what}") })
}

fn answer(says: &str, schema: &Value) -> Value {
    json!({ "description": says, "content": { "application/json": { "schema": schema } } })
}

fn problem(says: &str) -> Value {
    let schema = json!({ "$ref": "#/components/schemas/Problem" });
    json!({ "description": says, "content": { "application/problem+json": { "schema": schema } } })
}

/// What refusals there are, by status.
fn refusals(of: &[u16]) -> Map<String, Value> {
    let says = |status: u16| match status {
        400 => "What is asked cannot be read",
        401 => "No token, or one that is unknown",
        403 => "The token or the account may not",
        404 => "There is no such record",
        409 => "The plan does not allow it as it stands",
        412 => "Another version stands",
        413 => "The body is too large",
        415 => "The body is not JSON",
        _ => "A value cannot be",
    };
    of.iter().map(|status| (status.to_string(), problem(says(*status)))).collect()
}

/// One thing that can be done: its name, a sentence, what it takes besides a body, its answer, and the refusals there are.
struct Deed<'a> {
    name: &'a str,
    says: String,
    parameters: Vec<Value>,
    done: (u16, Value),
    refused: &'a [u16],
}

impl Deed<'_> {
    fn operation(self, about: &About) -> Value {
        let mut responses = refusals(self.refused);
        responses.insert(self.done.0.to_string(), self.done.1);
        json!({
            "tags": [about.path],
            "summary": self.says,
            "operationId": format!("{}_{}", self.name, about.path.replace('-', "_")),
            "parameters": self.parameters,
            "responses": responses,
        })
    }

    fn with_body(self, about: &About, schema: &Value) -> Value {
        let mut operation = self.operation(about);
        let content = json!({ "application/json": { "schema": schema } });
        operation["requestBody"] = json!({ "required": true, "content": content });
        operation
    }
}

fn parameter(name: &str, place: &str, schema: &Value) -> Value {
    json!({ "name": name, "in": place, "required": place == "path", "schema": schema })
}

fn of_all(about: &About, name: &str) -> Value {
    let most = "At most so many; 100 when left out.";
    let after = "Only those after this one: the `next` of the page before.";
    let asked = vec![
        parameter("limit", "query", &json!({ "type": "integer", "minimum": 1, "maximum": 500, "description": most })),
        parameter(
            "after",
            "query",
            &json!({ "type": "integer", "format": "int32", "minimum": 0, "description": after }),
        ),
    ];
    let key = json!({ "type": "string", "minLength": 1, "maxLength": 200 });
    let list = Deed {
        name: "list",
        says: format!("A page of {}, by identity.", about.words.1),
        parameters: asked,
        done: (200, answer("A page of them", &schema(name, "Page"))),
        refused: &[400, 401, 422],
    };
    let create = Deed {
        name: "create",
        says: format!(
            "Makes one {}. With an Idempotency-Key the same request made twice within a day is done once.",
            about.words.0
        ),
        parameters: vec![parameter("Idempotency-Key", "header", &key)],
        done: (201, answer("Made", &schema(name, "Record"))),
        refused: &[400, 401, 403, 409, 413, 415, 422],
    };
    json!({ "get": list.operation(about), "post": create.with_body(about, &schema(name, "Body")) })
}

fn of_one(about: &About, name: &str) -> Value {
    let id = parameter("id", "path", &json!({ "type": "integer", "format": "int32" }));
    let seen = vec![id.clone(), parameter("If-Match", "header", &json!({ "type": "string" }))];
    let word = about.words.0;
    let one = Deed {
        name: "one",
        says: format!("One {word}."),
        parameters: vec![id],
        done: (200, answer("The record; its ETag names this version", &schema(name, "Record"))),
        refused: &[401, 404],
    };
    let change = Deed {
        name: "change",
        says: format!("Puts another {word} in its place. With If-Match it is refused where another version stands."),
        parameters: seen.clone(),
        done: (200, answer("Changed", &schema(name, "Record"))),
        refused: &[401, 403, 404, 409, 412, 413, 415, 422],
    };
    let remove = Deed {
        name: "remove",
        says: format!("Removes one {word}."),
        parameters: seen,
        done: (204, json!({ "description": "Removed" })),
        refused: &[401, 403, 404, 409, 412],
    };
    json!({
        "get": one.operation(about),
        "put": change.with_body(about, &schema(name, "Body")),
        "delete": remove.operation(about),
    })
}
