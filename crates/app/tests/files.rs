//! Files of tasks: brought by hand and by program, handed out so that nothing in them runs, kept from whoever may not bring any.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use reqwest::{
    StatusCode,
    blocking::{Client, Response, multipart},
};
use serde_json::Value;
use support::{Database, Server, post, root};

fn task(database: &Database, reference: &str) -> String {
    database.query(&format!("SELECT id FROM task WHERE reference = '{reference}'"))
}

fn send(client: &Client, server: &Server, task: &str, files: &[(&str, &[u8])]) -> Response {
    let part = |bytes: &[u8], name: &str| multipart::Part::bytes(bytes.to_vec()).file_name(name.to_owned());
    let form = multipart::Form::new().text("back", format!("/tasks/{task}#files"));
    let form = files.iter().fold(form, |form, (name, bytes)| form.part("file", part(bytes, name)));
    client.post(server.at(&format!("/tasks/{task}/files"))).multipart(form).send().unwrap()
}

#[test]
fn files_are_brought_handed_out_and_taken_away() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let (mira, oona) = (server.signed_in("mira"), server.signed_in("oona"));
    let (relief, sensors) = (task(&database, "T03"), task(&database, "T06"));
    let names = |task: &str| {
        database.query(&format!("SELECT string_agg(name, '|' ORDER BY id) FROM attachment WHERE task_id = {task}"))
    };
    let picture = std::fs::read(root().join("demo/files/path-plan.png")).unwrap();
    let page = b"<script>alert(1)</script>".as_slice();

    let done = send(
        &mira,
        &server,
        &relief,
        &[("C:\\plans\\plan.png", &picture), ("plan.png", &picture), ("trick.svg", page)],
    );
    assert_eq!(done.url().path(), format!("/tasks/{relief}"));
    assert!(done.text().unwrap().contains("3 files added"));
    assert_eq!(names(&relief), "relief-block-4.png|plan.png|plan (2).png|trick.svg");

    // A picture is shown, and small beside its name; everything else is saved, whatever it claims to be.
    let id = |name: &str| database.query(&format!("SELECT id FROM attachment WHERE name = '{name}'"));
    let get = |path: String| mira.get(server.at(&path)).send().unwrap();
    let whole = get(format!("/files/{}", id("plan.png")));
    assert_eq!(whole.headers()["content-type"], "image/png");
    assert_eq!(whole.bytes().unwrap().as_ref(), picture);
    assert_eq!(get(format!("/files/{}/small", id("plan.png"))).headers()["content-type"], "image/jpeg");
    let trick = get(format!("/files/{}", id("trick.svg")));
    assert_eq!(trick.headers()["content-type"], "application/octet-stream");
    assert!(trick.headers()["content-disposition"].to_str().unwrap().starts_with("attachment"));
    assert!(trick.headers()["content-security-policy"].to_str().unwrap().contains("sandbox"));
    assert_eq!(get(format!("/files/{}/small", id("trick.svg"))).status(), StatusCode::NOT_FOUND);

    // What is not taken leaves nothing behind, also of what came with it.
    let refused = send(&mira, &server, &relief, &[("good.txt", b"good"), ("run.exe", b"MZ")]);
    assert_eq!(refused.status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.text().unwrap().contains("“run.exe” is of a kind that is not taken here"));
    assert_eq!(send(&mira, &server, &relief, &[]).status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(names(&relief), "relief-block-4.png|plan.png|plan (2).png|trick.svg");

    // A member brings files to tasks of their own only.
    assert_eq!(send(&oona, &server, &relief, &[("a.txt", b"a")]).status(), StatusCode::FORBIDDEN);
    assert_eq!(send(&oona, &server, &sensors, &[("a.txt", b"a")]).status(), StatusCode::OK);
    assert_eq!(names(&sensors), "a.txt");

    // Nobody who is not signed in sees one.
    let stranger = Client::builder().redirect(reqwest::redirect::Policy::none()).build().unwrap();
    assert_eq!(
        stranger.get(server.at(&format!("/files/{}", id("plan.png")))).send().unwrap().status(),
        StatusCode::SEE_OTHER
    );

    // It goes with its tag, and comes back by undo, with what is in it.
    let page = mira.get(server.at(&format!("/tasks/{relief}"))).send().unwrap().text().unwrap();
    let form = page.split(&format!("/files/{}/remove", id("trick.svg"))).nth(1).unwrap();
    let seen = form.split("name=\"seen\" value=\"").nth(1).unwrap().split('"').next().unwrap();
    let gone =
        mira.post(server.at(&format!("/files/{}/remove", id("trick.svg")))).form(&[("seen", seen)]).send().unwrap();
    assert_eq!(gone.status(), StatusCode::OK);
    assert_eq!(names(&relief), "relief-block-4.png|plan.png|plan (2).png");
    assert_eq!(post(&mira, &server, "/undo", &[]).status(), StatusCode::OK);
    assert_eq!(get(format!("/files/{}", id("trick.svg"))).status(), StatusCode::OK);
}

#[test]
fn a_receipt_is_brought_and_shown_to_those_alone_who_see_the_expense() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let [mira, oona, teo] = ["mira", "oona", "teo"].map(|who| server.signed_in(who));
    let expense = |reference: &str| database.query(&format!("SELECT id FROM expense WHERE reference = '{reference}'"));
    let (hers, other) = (expense("E06"), expense("E03"));
    let get = |client: &Client, path: &str| client.get(server.at(path)).send().unwrap();
    let bring = |client: &Client, id: &str, name: &str, bytes: &[u8]| {
        let page = get(client, &format!("/expenses/{id}")).text().unwrap();
        let seen = page.split("name=\"seen\" value=\"").nth(1).unwrap_or("\"").split('"').next().unwrap().to_owned();
        let part = multipart::Part::bytes(bytes.to_vec()).file_name(name.to_owned());
        let form = multipart::Form::new().text("seen", seen).part("camera", part);
        client.post(server.at(&format!("/expenses/{id}/receipt"))).multipart(form).send().unwrap()
    };
    let picture = std::fs::read(root().join("demo/files/path-plan.png")).unwrap();
    let shown = format!("/expenses/{hers}/receipt");

    let done = bring(&oona, &hers, "IMG_0001", &picture);
    assert_eq!((done.status(), done.url().path()), (StatusCode::OK, format!("/expenses/{hers}").as_str()));
    assert_eq!(get(&oona, &shown).bytes().unwrap().as_ref(), picture, "whatever it is called");
    assert_eq!(get(&mira, &format!("{shown}/small")).headers()["content-type"], "image/jpeg");
    // A lead does not see what others spent: neither the page, nor the receipt; and nobody brings one there.
    for path in [format!("/expenses/{hers}"), shown.clone(), format!("{shown}/small")] {
        assert_eq!(get(&teo, &path).status(), StatusCode::NOT_FOUND, "{path}");
    }
    assert_eq!(bring(&teo, &hers, "a.png", &picture).status(), StatusCode::NOT_FOUND);
    assert_eq!(bring(&oona, &other, "a.png", &picture).status(), StatusCode::NOT_FOUND);

    // Other kinds are refused, whatever they are called, and what stands stays.
    for (name, bytes) in
        [("receipt.pdf", b"<script>".as_slice()), ("receipt.png", &picture[..40]), ("receipt.jpg", b"")]
    {
        let refused = bring(&mira, &hers, name, bytes);
        assert_eq!(refused.status(), StatusCode::UNPROCESSABLE_ENTITY, "{name}");
    }
    assert_eq!(get(&oona, &shown).bytes().unwrap().as_ref(), picture);

    // A PDF takes its place and is saved, not shown; undo brings the picture back.
    assert_eq!(bring(&mira, &hers, "scan", b"%PDF-1.4\n%%EOF").status(), StatusCode::OK);
    assert!(get(&oona, &shown).headers()["content-disposition"].to_str().unwrap().starts_with("attachment"));
    assert_eq!(post(&mira, &server, "/undo", &[]).status(), StatusCode::OK);
    assert_eq!(get(&oona, &shown).headers()["content-type"], "image/png");
}

#[test]
fn a_program_brings_files_and_comments_and_followers_are_told() {
    let database = Database::with_demo();
    let token = database.run(&["token", "mira@tidewater.test", "--write"]);
    let server = Server::start(&database);
    let relief = task(&database, "T03");
    let client = Client::new();
    let at = |path: &str| server.at(&format!("/api/v1/{path}"));
    let bring = |name: &str, bytes: &[u8]| {
        let request = client.post(at(&format!("tasks/{relief}/files"))).query(&[("name", name)]);
        request.bearer_auth(token.trim()).body(bytes.to_vec()).send().unwrap()
    };
    let brought = bring("notes.txt", b"oak");
    assert_eq!(brought.status(), StatusCode::CREATED);
    let brought: Value = brought.json().unwrap();
    assert_eq!((brought["name"].as_str(), brought["bytes"].as_i64()), (Some("notes.txt"), Some(3)));
    let content = client.get(at(&format!("attachments/{}/content", brought["id"]))).bearer_auth(token.trim());
    assert_eq!(content.send().unwrap().text().unwrap(), "oak");
    let refused = bring("run.exe", b"MZ");
    assert_eq!(refused.status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(refused.headers()["content-type"], "application/problem+json");
    assert_eq!(bring("big.zip", &vec![0; 26_000_001]).status(), StatusCode::PAYLOAD_TOO_LARGE);

    let said = serde_json::json!({ "text": "Block 4 is signed, @Oona Varga." });
    let say = client.post(at(&format!("tasks/{relief}/texts"))).bearer_auth(token.trim()).json(&said).send().unwrap();
    assert_eq!(say.status(), StatusCode::CREATED);
    let texts: Value =
        client.get(at(&format!("tasks/{relief}/texts"))).bearer_auth(token.trim()).send().unwrap().json().unwrap();
    assert_eq!(texts.as_array().unwrap().last().unwrap()["by"], "mira@tidewater.test");
    // Whoever is mentioned follows the task from now on, and all who do get a letter but its writer.
    for (who, many) in [("oona", 1), ("juno", 1), ("mira", 0)] {
        let address = format!("{who}@tidewater.test");
        let letters = support::until(|| {
            let letters = server.letters(&address);
            (letters.len() >= many).then_some(letters)
        });
        assert_eq!(letters.len(), many, "{who}");
    }
}
