//! Databases and servers for tests, each of its own, gone when the test ends.

#![allow(dead_code, clippy::unwrap_used)] // each test file uses a part of it

pub mod counter;

use reqwest::blocking::{Client, Response};
use std::{
    io::{BufRead, BufReader},
    path::{Path, PathBuf},
    process::{Child, Command, Stdio},
    sync::{
        Mutex,
        atomic::{AtomicU32, Ordering},
    },
    time::Duration,
};

/// The day on which the demo lies in tests.
pub const TODAY: &str = "2026-03-11";

/// Everybody's password in the demo.
pub const PASSWORD: &str = "tidewater-2026";

pub fn root() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// A database of its own on the cluster that `make test` starts.
pub struct Database {
    pub url: String,
    server: String,
    name: String,
}

impl Database {
    pub fn new() -> Self {
        Self::made("")
    }

    fn made(how: &str) -> Self {
        let server = std::env::var("TEST_DATABASE_URL").expect("run the tests by `make test`, which starts PostgreSQL");
        Self::made_on(&server, how)
    }

    /// One on another cluster.
    pub fn on(server: &str) -> Self {
        Self::made_on(server, "")
    }

    fn made_on(server: &str, how: &str) -> Self {
        static NEXT: AtomicU32 = AtomicU32::new(0);
        // The HTTP client of the tests speaks TLS like that of the server, and asks for the same library.
        let _ = rustls::crypto::ring::default_provider().install_default();
        let name = format!("test_{}_{}", std::process::id(), NEXT.fetch_add(1, Ordering::Relaxed));
        psql(server, &format!("CREATE DATABASE {name}{how}"));
        let (base, _) = server.rsplit_once('/').unwrap();
        Self { url: format!("{base}/{name}"), server: server.to_owned(), name }
    }

    /// With the demo in it.
    pub fn with_demo() -> Self {
        let database = Self::new();
        database.run(&["demo", root().join("demo").to_str().unwrap(), "--today", TODAY]);
        database
    }

    /// A copy of this one, which nobody may be using.
    pub fn copy(&self) -> Self {
        Self::made(&format!(" TEMPLATE {}", self.name))
    }

    /// Runs the program on this database; returns what it printed.
    pub fn run(&self, args: &[&str]) -> String {
        let done = self.try_run(args);
        assert!(done.0, "{args:?}: {}", done.1);
        done.1
    }

    /// Runs the program; returns whether it succeeded, and all it printed.
    pub fn try_run(&self, args: &[&str]) -> (bool, String) {
        let output = program().args(args).env("DATABASE_URL", &self.url).output().unwrap();
        let text = [output.stdout, output.stderr].concat();
        (output.status.success(), String::from_utf8(text).unwrap())
    }

    pub fn query(&self, sql: &str) -> String {
        psql(&self.url, sql)
    }
}

impl Drop for Database {
    fn drop(&mut self) {
        psql(&self.server, &format!("DROP DATABASE {} WITH (FORCE)", self.name));
    }
}

/// Sends a form as a script of a page does.
pub fn post(client: &Client, server: &Server, path: &str, form: &[(&str, &str)]) -> Response {
    client.post(server.at(path)).header("x-requested-with", "fetch").form(form).send().unwrap()
}

/// The text that an attribute or a cell of a page stands for.
pub fn unescaped(html: &str) -> String {
    html.replace("&#34;", "\"")
        .replace("&quot;", "\"")
        .replace("&#39;", "'")
        .replace("&#38;", "&")
        .replace("&amp;", "&")
}

fn psql(url: &str, sql: &str) -> String {
    let output = Command::new("psql").args([url, "-qtAX", "-v", "ON_ERROR_STOP=1", "-c", sql]).output().unwrap();
    assert!(output.status.success(), "{sql}: {}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap().trim().to_owned()
}

fn program() -> Command {
    let mut program = Command::new(env!("CARGO_BIN_EXE_snug-roster"));
    // Files lie under the sums of their bytes, so that all tests can share one folder.
    program.env("FILES", std::env::temp_dir().join("snug-files-of-tests"));
    program
}

/// A server on a free port.
pub struct Server {
    pub url: String,
    said: Mutex<BufReader<std::process::ChildStdout>>,
    mail: PathBuf,
    child: Child,
}

impl Server {
    pub fn start(database: &Database) -> Self {
        Self::start_at(database, &database.url)
    }

    /// A server that reaches its database at another address.
    pub fn start_at(database: &Database, url: &str) -> Self {
        Self::started(&Self::letters_of(database), url, TODAY, &[])
    }

    fn letters_of(database: &Database) -> PathBuf {
        std::env::temp_dir().join(format!("snug-mail-{}", database.name))
    }

    /// A server whose letters go to another folder.
    pub fn start_with_mail(database: &Database, mail: &Path) -> Self {
        Self::started(mail, &database.url, TODAY, &[])
    }

    /// A server with further settings.
    pub fn start_with(database: &Database, more: &[&str]) -> Self {
        Self::started(&Self::letters_of(database), &database.url, TODAY, more)
    }

    /// A server on another day.
    pub fn start_on(database: &Database, today: &str) -> Self {
        Self::started(&Self::letters_of(database), &database.url, today, &[])
    }

    /// What a server logs of everything that it can, while something is done.
    pub fn logged(database: &Database, deed: impl Fn(&Self)) -> String {
        use std::io::Read as _;
        let mut program = program();
        program.env("RUST_LOG", "debug").stderr(Stdio::piped());
        let mut server = Self::launched(program, &Self::letters_of(database), &database.url, TODAY, &[]);
        let mut log = server.child.stderr.take().unwrap();
        let reading = std::thread::spawn(move || {
            let mut text = String::new();
            log.read_to_string(&mut text).unwrap();
            text
        });
        deed(&server);
        server.ask_to_stop();
        server.ended();
        reading.join().unwrap()
    }

    fn started(mail: &Path, url: &str, today: &str, more: &[&str]) -> Self {
        let mut program = program();
        program.env("RUST_LOG", "warn");
        Self::launched(program, mail, url, today, more)
    }

    fn launched(mut program: Command, mail: &Path, url: &str, today: &str, more: &[&str]) -> Self {
        let mut child = program
            .args(["serve", "--port", "0", "--demo", "--today", today, "--mail"])
            .arg(mail)
            .args(more)
            .env("DATABASE_URL", url)
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let mut line = String::new();
        let mut said = BufReader::new(child.stdout.take().unwrap());
        said.read_line(&mut line).unwrap();
        let url = line.rsplit_once(' ').expect("the server prints its address").1.trim().to_owned();
        Self { url, said: said.into(), mail: mail.to_owned(), child }
    }

    /// The next line that the server prints after its address.
    pub fn next_line(&self) -> String {
        let mut line = String::new();
        self.said.lock().unwrap().read_line(&mut line).unwrap();
        line.trim().to_owned()
    }

    /// The process.
    pub fn process(&self) -> u32 {
        self.child.id()
    }

    /// A browser in which somebody of the demo is signed in; it follows redirects.
    pub fn signed_in(&self, who: &str) -> Client {
        // A connection that idles is given up before the server does so: one that is closed as it is used again fails.
        let idle = std::time::Duration::from_secs(3);
        let client = Client::builder().cookie_store(true).pool_idle_timeout(idle).build().unwrap();
        let email = format!("{who}@tidewater.test");
        let form = [("email", email.as_str()), ("password", PASSWORD)];
        let answer = client.post(format!("{}/sign-in", self.url)).form(&form).send().unwrap();
        assert!(answer.url().path() == "/fit", "{}", answer.url());
        client
    }

    /// An address of this server.
    pub fn at(&self, path: &str) -> String {
        format!("{}{path}", self.url)
    }

    /// The letters that were sent to an address, as they lie in the folder.
    pub fn letters(&self, to: &str) -> Vec<String> {
        let entries = std::fs::read_dir(&self.mail).into_iter().flatten().flatten();
        let letters = entries.filter_map(|entry| std::fs::read_to_string(entry.path()).ok());
        // Long lines are folded with “=” at their end.
        letters
            .map(|letter| letter.replace("=\r\n", "").replace("=3D", "="))
            .filter(|letter| letter.contains(to))
            .collect()
    }

    /// The most memory that the server has held so far, in MB.
    pub fn peak_memory(&self) -> u64 {
        let status = std::fs::read_to_string(format!("/proc/{}/status", self.child.id())).unwrap();
        let peak = status.lines().find_map(|line| line.strip_prefix("VmHWM:")).unwrap();
        peak.trim().trim_end_matches(" kB").parse::<u64>().unwrap() / 1_024
    }

    /// SIGKILL: no chance to finish anything.
    pub fn kill(&self) {
        signal("KILL", &self.child.id().to_string());
    }

    /// SIGTERM, as a service manager sends it.
    pub fn ask_to_stop(&self) {
        signal("TERM", &self.child.id().to_string());
    }

    /// Whether it came to its end by itself, once it has.
    pub fn ended(&mut self) -> bool {
        self.child.wait().unwrap().success()
    }

    /// Where its letters lie.
    pub fn mail(&self) -> &Path {
        &self.mail
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
        let _ = std::fs::remove_dir_all(&self.mail);
    }
}

/// Sends a signal to a process.
pub fn signal(name: &str, process: &str) {
    let status = Command::new("kill").args([&format!("-{name}"), process]).status().unwrap();
    assert!(status.success(), "{name} {process}");
}

/// What a statement holds, such as a lock, in a transaction of its own until it is dropped.
pub struct Held(Child);

impl Held {
    pub fn on(database: &Database, sql: &str) -> Self {
        use std::io::Write as _;
        let mut child = Command::new("psql")
            .args([&database.url, "-qtAX"])
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        writeln!(child.stdin.as_mut().unwrap(), "BEGIN; {sql}; SELECT 'held';").unwrap();
        let said = BufReader::new(child.stdout.take().unwrap()).lines().map_while(Result::ok);
        assert!(said.into_iter().any(|line| line == "held"));
        Self(child)
    }
}

impl Drop for Held {
    fn drop(&mut self) {
        drop(self.0.stdin.take());
        let _ = self.0.wait();
    }
}

/// An open stream of news.
pub struct News(BufReader<Response>);

impl News {
    pub fn of(client: &Client, server: &Server) -> Self {
        let stream = client.get(server.at("/events")).timeout(Duration::from_mins(1)).send().unwrap();
        Self(BufReader::new(stream))
    }

    /// The next piece of this kind: what it says.
    pub fn next(&mut self, kind: &str) -> String {
        let mut event = String::new();
        loop {
            let mut line = String::new();
            assert!(self.0.read_line(&mut line).unwrap() > 0, "the stream ended before it told of a {kind}");
            if let Some(name) = line.strip_prefix("event: ") {
                name.trim_end().clone_into(&mut event);
            } else if let Some(data) = line.strip_prefix("data: ")
                && event == kind
            {
                return data.trim_end().to_owned();
            }
        }
    }

    /// Whether the server ends it, before anybody loses patience.
    pub fn ends(&mut self) -> bool {
        let mut line = String::new();
        loop {
            line.clear();
            match self.0.read_line(&mut line) {
                Ok(0) => return true,
                Ok(_) => {}
                Err(_) => return false,
            }
        }
    }
}

/// What there is to see once the server has come to it.
pub fn until<T>(look: impl Fn() -> Option<T>) -> T {
    let begun = std::time::Instant::now();
    loop {
        if let Some(found) = look() {
            return found;
        }
        assert!(begun.elapsed().as_secs() < 60, "it did not come about");
        std::thread::sleep(std::time::Duration::from_millis(10));
    }
}
