//! Reports: kept, mailed on their weekday once, with the workbook, and only what each may see.
#![allow(clippy::unwrap_used)] // a test may fail where it stands

mod support;

use calamine::{Data, Reader as _, Xlsx, open_workbook_from_rs};
use reqwest::{StatusCode, blocking::Client};
use std::io::Cursor;
use support::{Database, Server, post, until};

const SUBJECTS: [&str; 6] = ["time", "tasks", "estimates", "completion", "due", "money"];

fn heads(bytes: &[u8]) -> Vec<String> {
    let mut book: Xlsx<_> = open_workbook_from_rs(Cursor::new(bytes)).unwrap();
    let cells = book.worksheet_range("Report").unwrap();
    (0..12).filter_map(|at| cells.get_value((3, at))).map(Data::to_string).filter(|head| !head.is_empty()).collect()
}

#[test]
fn a_kept_report_is_mailed_on_its_weekday_once_with_what_its_keeper_sees() {
    let database = Database::with_demo();
    let keep = |client: &Client, server: &Server, name: &str, weekday: &str| {
        let address = "/hours/reports?of=time&range=last+week&by=project";
        let form = [("name", name), ("address", address), ("weekday", weekday)];
        assert_eq!(post(client, server, "/looks/reports", &form).status(), StatusCode::OK);
    };
    let first = Server::start_on(&database, "2026-03-10");
    let (mira, oona) = (first.signed_in("mira"), first.signed_in("oona"));
    // The 11th is a Wednesday.
    keep(&mira, &first, "Hours of the week", "3");
    keep(&mira, &first, "On Thursdays", "4");
    keep(&oona, &first, "Mine", "3");
    drop(first);
    let letters = |server: &Server, who: &str| -> Vec<String> {
        let all = server.letters(&format!("{who}@tidewater.test"));
        all.into_iter().filter(|letter| letter.contains("report.xlsx")).collect()
    };
    let wednesday = Server::start_on(&database, "2026-03-11");
    let [to_mira, to_oona] = ["mira", "oona"].map(|who| until(|| letters(&wednesday, who).into_iter().next()));
    assert!(to_mira.contains("Hours of the week") && to_mira.contains("Moon Garden"), "{to_mira}");
    assert!(to_mira.contains("Billed") && !to_oona.contains("Billed"), "money is for those who see it");
    assert!(!to_oona.contains("Beetle Hall"), "what others logged is not told");
    drop(wednesday);
    // The same day no server mails them again, but what was not mailed yet; on another day what is of that day.
    database.query(
        "INSERT INTO saved_look (account_id, room, name, address, shared, mail_weekday) \
         SELECT account_id, room, 'Kept later', address, false, 3 FROM saved_look WHERE name = 'Hours of the week'",
    );
    for (day, name) in [("2026-03-11", "Kept later"), ("2026-03-12", "On Thursdays")] {
        let server = Server::start_on(&database, day);
        let found = until(|| Some(letters(&server, "mira")).filter(|letters| !letters.is_empty()));
        assert!(found.len() == 1 && found[0].contains(name), "{found:?}");
        assert!(letters(&server, "oona").is_empty());
    }
}

#[test]
fn every_report_is_a_page_a_file_and_a_workbook() {
    let database = Database::with_demo();
    let server = Server::start(&database);
    let (mira, teo) = (server.signed_in("mira"), server.signed_in("teo"));
    let get = |client: &Client, path: &str| client.get(server.at(path)).send().unwrap();
    for subject in SUBJECTS {
        let query = format!("of={subject}&range=this+year");
        let page = get(&mira, &format!("/hours/reports?{query}")).text().unwrap();
        assert!(page.contains("<tfoot>"), "{subject} has rows and sums in the demo");
        let csv = get(&mira, &format!("/hours/reports.csv?{query}"));
        assert_eq!(csv.headers()["content-type"], "text/csv; charset=utf-8");
        assert!(csv.text().unwrap().lines().count() > 1, "{subject}");
        assert!(heads(&get(&mira, &format!("/hours/reports.xlsx?{query}")).bytes().unwrap()).len() > 3, "{subject}");
    }
    // A lead gets no money in any form, and is told so where it is asked for.
    for path in ["/hours/reports", "/hours/reports.csv", "/hours/reports.xlsx"] {
        assert_eq!(get(&teo, &format!("{path}?of=money")).status(), StatusCode::FORBIDDEN, "{path}");
    }
    let of_lead = heads(&get(&teo, "/hours/reports.xlsx?of=time&by=project&range=this+year").bytes().unwrap());
    assert_eq!(of_lead, ["Project", "Entries", "Hours", "Billable"]);
    // Columns are those that are asked for; what cannot be is told.
    let csv = get(&mira, "/hours/reports.csv?of=time&by=project&range=this+year&col=hours&col=project");
    assert_eq!(csv.text().unwrap().lines().next(), Some("project,hours"));
    let wrong = get(&mira, "/hours/reports?range=days&from=2026-03-05&to=2026-03-01").text().unwrap();
    assert!(wrong.contains("The last day lies before the first"));
}
