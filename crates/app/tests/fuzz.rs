//! Whatever a program or a file says, it is answered: nothing fails inside, nothing is done by half. `make fuzz` asks much more often.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use rand::{Rng as _, SeedableRng as _, rngs::StdRng, seq::IndexedRandom as _};
use reqwest::{
    Method,
    blocking::{Client, multipart},
};
use serde_json::{Map, Value, json};
use std::io::Write as _;
use support::{Database, Server, root};

/// How often, as the environment says.
fn times(name: &str, usual: usize) -> usize {
    std::env::var(name).ok().and_then(|text| text.parse().ok()).unwrap_or(usual)
}

/// Texts that something could stumble over.
const ODD: [&str; 22] = [
    "",
    " ",
    "0",
    "-1",
    "1e308",
    "NaN",
    "99999999999999999999999999",
    "0.0000000000000000000000001",
    "9999-12-31",
    "0000-00-00",
    "2026-02-30",
    "-262144-01-01",
    "\u{0}",
    "a\nb",
    "=1+1",
    "';--",
    "%00",
    "\u{202e}x\u{feff}",
    "🦀🦀🦀",
    "mira@tidewater.test; teo@tidewater.test",
    "24:00",
    "8 8 8 8 8 0 0 | 8",
];

fn odd_value(rng: &mut StdRng) -> Value {
    match rng.random_range(0..9) {
        0 => Value::Null,
        1 => json!(rng.random::<bool>()),
        2 => json!(rng.random::<i64>()),
        3 => json!(rng.random_range(-1e20..1e20)),
        4 => json!([1, "a", null]),
        5 => json!({ "a": { "b": [] } }),
        6 => json!("x".repeat(rng.random_range(0..4_000))),
        _ => json!(*ODD.choose(rng).unwrap()),
    }
}

/// What the rules keep to: the plan in memory is the plan that is written, and every revision has its entry.
fn is_whole(database: &Database, server: &Server) {
    let export = |server: &Server| {
        let token = server.signed_in("ada").get(server.at("/setup/export.zip")).send().unwrap();
        assert!(token.status().is_success());
        token.bytes().unwrap()
    };
    assert!(export(server) == export(&Server::start(database)), "the plan in memory is not the one that was written");
    assert_eq!(
        database.query("SELECT revision FROM workspace"),
        database.query("SELECT count(*) FROM ledger WHERE draft = 0 AND revision > 0")
    );
    let said = database.query("SELECT sum(changes) FROM ledger WHERE draft = 0");
    assert_eq!(
        said,
        database.query("SELECT count(*) FROM ledger_change WHERE draft = 0"),
        "an entry without some of its changes"
    );
}

#[test]
fn no_call_of_a_program_fails_inside() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let token = database.run(&["token", "ada@tidewater.test", "--write"]).trim().to_owned();
    let client = Client::new();
    let doc: Value = client.get(server.at("/api/v1/openapi.json")).send().unwrap().json().unwrap();
    let paths: Vec<String> = doc["paths"].as_object().unwrap().keys().cloned().collect();
    let kinds: Vec<&str> = paths.iter().filter_map(|path| path.strip_suffix("/{id}")).collect();
    let ask = |method: Method, path: &str, body: Option<&[u8]>, key: Option<String>| {
        let mut request = client.request(method, server.at(path)).bearer_auth(&token);
        if let Some(body) = body {
            request = request.header("content-type", "application/json").body(body.to_vec());
        }
        if let Some(key) = key {
            request = request.header("idempotency-key", key);
        }
        request.send().unwrap()
    };
    // Records that there are, to be bent out of shape.
    let page = |kind: &&str| -> Vec<Value> {
        let page: Value = ask(Method::GET, &format!("{kind}?limit=500"), None, None).json().unwrap_or_default();
        page["items"].as_array().cloned().unwrap_or_default()
    };
    let records: Vec<Vec<Value>> = kinds.iter().map(page).collect();
    let mut rng = StdRng::seed_from_u64(7);
    let mut told = [0_usize; 6];
    let calls = times("SNUG_FUZZ_CALLS", 1_500);
    for nth in 0..calls {
        let at = rng.random_range(0..kinds.len());
        let sample = records[at].choose(&mut rng).cloned().unwrap_or_else(|| json!({}));
        let mut body: Map<String, Value> = sample.as_object().cloned().unwrap_or_default();
        let id = body.remove("id").unwrap_or(json!(1));
        for _ in 0..rng.random_range(0..2) {
            let names: Vec<String> = body.keys().cloned().collect();
            let name = names.choose(&mut rng).cloned().unwrap_or_else(|| "title".to_owned());
            body.insert(name, odd_value(&mut rng));
        }
        let mut text = serde_json::to_vec(&body).unwrap();
        if rng.random_ratio(1, 12) && !text.is_empty() {
            let place = rng.random_range(0..text.len());
            text[place] = rng.random();
        }
        let odd = |rng: &mut StdRng| -> String { percent_encoded(ODD.choose(rng).unwrap()) };
        let (method, path) = match rng.random_range(0..8) {
            0 | 1 => (Method::POST, kinds[at].to_owned()),
            2 | 3 => (Method::PUT, format!("{}/{id}", kinds[at])),
            4 if rng.random_ratio(1, 4) => (Method::DELETE, format!("{}/{id}", kinds[at])),
            4 | 5 => (Method::GET, format!("{}?limit={}&after={}", kinds[at], odd(&mut rng), odd(&mut rng))),
            6 => {
                let path = paths.choose(&mut rng).unwrap().replace("{id}", &odd(&mut rng));
                let (from, by) = (odd(&mut rng), odd(&mut rng));
                (Method::GET, format!("{path}?from={from}&to=2026-04-01&by={by}&group=team&actor={}", odd(&mut rng)))
            }
            _ => {
                let path = paths.choose(&mut rng).unwrap();
                (Method::POST, path.replace("{id}", &id.to_string()).replace("{revision}", &odd(&mut rng)))
            }
        };
        let key = rng.random_ratio(1, 5).then(|| format!("key {}", rng.random_range(0..40)));
        let sent = (method != Method::GET).then_some(text.as_slice());
        let status = ask(method.clone(), &path, sent, key).status().as_u16();
        told[usize::from(status / 100)] += 1;
        assert!(status < 500, "call {nth}: {method} {path} {}: {status}", String::from_utf8_lossy(&text));
    }
    println!("{calls} calls: {} done, {} refused", told[2], told[4]);
    assert!(told[2] > 0 && told[4] > 0);
    is_whole(&database, &server);
}

fn percent_encoded(text: &str) -> String {
    percent_encoding::percent_encode(text.as_bytes(), percent_encoding::NON_ALPHANUMERIC).to_string()
}

/// Bytes bent out of shape in a few places.
fn bent(rng: &mut StdRng, mut bytes: Vec<u8>) -> Vec<u8> {
    for _ in 0..rng.random_range(0..4) {
        let at = rng.random_range(0..=bytes.len());
        match rng.random_range(0..6) {
            0 if at < bytes.len() => bytes[at] = rng.random(),
            1 => bytes.truncate(at),
            2 => {
                let odd = ODD.choose(rng).unwrap().as_bytes().to_vec();
                bytes.splice(at..at, odd);
            }
            3 => {
                let upto = (at + rng.random_range(0..200)).min(bytes.len());
                let part = bytes[at..upto].to_vec();
                bytes.splice(at..at, part);
            }
            4 => {
                let upto = (at + rng.random_range(0..40)).min(bytes.len());
                bytes.drain(at..upto);
            }
            _ => {
                // A cell in place of another one.
                let from =
                    bytes[..at].iter().rposition(|byte| matches!(byte, b',' | b'\n' | b':')).map_or(0, |it| it + 1);
                let upto = bytes[at..]
                    .iter()
                    .position(|byte| matches!(byte, b',' | b'\n' | b';'))
                    .map_or(bytes.len(), |it| at + it);
                bytes.splice(from..upto, ODD.choose(rng).unwrap().bytes());
            }
        }
    }
    bytes
}

fn calendar(rng: &mut StdRng) -> Vec<u8> {
    let rule = ["FREQ=WEEKLY;COUNT=5", "FREQ=DAILY;UNTIL=20260501", "FREQ=MONTHLY;BYDAY=-1SU", "FREQ=HOURLY"]
        .choose(rng)
        .unwrap();
    let zone = ["Europe/Berlin", "W. Europe Standard Time", "Own"].choose(rng).unwrap();
    format!(
        "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VTIMEZONE\r\nTZID:Own\r\nBEGIN:STANDARD\r\nDTSTART:16010101T030000\r\n\
         TZOFFSETFROM:+0200\r\nTZOFFSETTO:+0100\r\nRRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=10\r\nEND:STANDARD\r\nEND:VTIMEZONE\r\n\
         BEGIN:VEVENT\r\nUID:a\r\nSUMMARY:Round\r\nDTSTART;TZID={zone}:20260323T093000\r\nDURATION:PT1H\r\nRRULE:{rule}\r\n\
         EXDATE:20260330T073000Z\r\nRDATE:20260401T080000Z\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
    )
    .into_bytes()
}

#[test]
fn no_file_fails_inside_or_is_taken_by_half() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let mira = server.signed_in("mira");
    let folder = root().join("demo");
    let files: Vec<(String, Vec<u8>)> = std::fs::read_dir(folder)
        .unwrap()
        .flatten()
        .filter(|entry| entry.path().extension().is_some_and(|end| end == "csv"))
        .map(|entry| (entry.file_name().to_string_lossy().into_owned(), std::fs::read(entry.path()).unwrap()))
        .collect();
    let mut rng = StdRng::seed_from_u64(11);
    let (mut taken, mut refused) = (0, 0);
    let count = times("SNUG_FUZZ_FILES", 300);
    for nth in 0..count {
        let (name, bytes) = files.choose(&mut rng).unwrap().clone();
        let (to, name, bytes) = match rng.random_range(0..4) {
            0 => ("/setup/calendars/file", "a.ics".to_owned(), calendar(&mut rng)),
            1 => {
                let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
                zip.start_file(name.as_str(), zip::write::SimpleFileOptions::default()).unwrap();
                zip.write_all(&bent(&mut rng, bytes)).unwrap();
                ("/setup/import", "all.zip".to_owned(), zip.finish().unwrap().into_inner())
            }
            _ => ("/setup/import", name, bytes),
        };
        let bytes = bent(&mut rng, bytes);
        let part = multipart::Part::bytes(bytes.clone()).file_name(name.clone());
        let mut form = multipart::Form::new().part("files", part);
        if to.ends_with("file") {
            let purpose = *["holidays", "time off", "meetings"].choose(&mut rng).unwrap();
            form = form.text("purpose", purpose).text("calendar", "harbour").text("person", "mira@tidewater.test");
        }
        let shown = mira.post(server.at(to)).multipart(form).send().unwrap();
        let (status, path) = (shown.status().as_u16(), shown.url().path().to_owned());
        let text = shown.text().unwrap();
        assert!(status < 500, "file {nth}, {name}: {status} {text}\n{}", String::from_utf8_lossy(&bytes));
        let offered = text.contains(&format!("action=\"{path}\""));
        if !offered {
            refused += 1;
            continue;
        }
        taken += 1;
        let done = mira.post(server.at(&path)).send().unwrap();
        assert!(!done.status().is_server_error(), "file {nth}, {name}:\n{}", String::from_utf8_lossy(&bytes));
        assert!(!done.text().unwrap().contains("did not come to its end"), "file {nth}, {name}");
    }
    println!("{count} files: {taken} taken over, {refused} refused");
    assert!(taken > 0 && refused > 0);
    is_whole(&database, &server);
}
