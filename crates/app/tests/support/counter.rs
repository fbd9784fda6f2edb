//! A wire between a server and its database that counts the statements that go over it.

use std::{
    io::{Read as _, Write as _},
    net::{TcpListener, TcpStream},
    sync::{
        Arc,
        atomic::{AtomicUsize, Ordering},
    },
    thread,
};

/// The version of the protocol, 3.0, with which the database is greeted.
const START_UP: u32 = 196_608;

/// Listens in front of a database.
pub struct Counter {
    /// The database's address, by way of this wire.
    pub url: String,
    count: Arc<AtomicUsize>,
}

impl Counter {
    pub fn before(url: &str) -> Self {
        let (user, rest) = url.split_once('@').unwrap();
        let (host, name) = rest.split_once('/').unwrap();
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let own = format!("{user}@{}/{name}", listener.local_addr().unwrap());
        let (count, host) = (Arc::new(AtomicUsize::new(0)), host.to_owned());
        let counted = Arc::clone(&count);
        thread::spawn(move || {
            for near in listener.incoming().flatten() {
                let far = TcpStream::connect(&host).unwrap();
                let (mut back, mut home) = (far.try_clone().unwrap(), near.try_clone().unwrap());
                thread::spawn(move || std::io::copy(&mut back, &mut home));
                let counted = Arc::clone(&counted);
                thread::spawn(move || forward(near, far, &counted));
            }
        });
        Self { url: own, count }
    }

    /// How many statements were run until now.
    pub fn statements(&self) -> usize {
        self.count.load(Ordering::SeqCst)
    }
}

/// Sends on what the server says, message by message. A statement is a simple query, or the execution of a prepared one.
fn forward(mut from: TcpStream, mut to: TcpStream, count: &AtomicUsize) {
    let mut started = false;
    loop {
        let mut head = [0; 5];
        let head = if started { &mut head[..] } else { &mut head[1..] };
        if from.read_exact(head).is_err() {
            return;
        }
        let length = u32::from_be_bytes(head[head.len() - 4..].try_into().unwrap());
        let mut body = vec![0; usize::try_from(length).unwrap() - 4];
        if from.read_exact(&mut body).is_err() {
            return;
        }
        if started && matches!(head[0], b'Q' | b'E') {
            count.fetch_add(1, Ordering::SeqCst);
        }
        started = started || body.starts_with(&START_UP.to_be_bytes());
        if to.write_all(&[&*head, &body].concat()).is_err() {
            return;
        }
    }
}
