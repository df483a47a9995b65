//! The server: requests per second beside a static web server that sends the same bytes, and the time from saving a
//! file to the event that an open page is reported.

use std::fs;
use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::thread;
use std::time::{Duration, Instant};

use crate::rounds::measure;
use crate::sites::ENTRIES;

/// How many connections ask at once.
const CONNECTIONS: usize = 8;

/// A server that ends when it is dropped.
pub struct Running {
    child: Child,
    port: u16,
}

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// Our server, as visitors get pages from it.
pub fn ours(program: &Path, site: &Path, arguments: &[&str]) -> Running {
    let mut child = Command::new(program)
        .args(["serve", "--quiet", "--port", "0", "--site"])
        .arg(site)
        .args(arguments)
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let mut line = String::new();
    BufReader::new(child.stdout.as_mut().unwrap()).read_line(&mut line).unwrap();
    let port = line.trim().trim_end_matches('/').rsplit(':').next().unwrap().parse().unwrap();
    Running { child, port }
}

/// Debian's nginx with one worker, sending the files in `root`; none if it is not installed.
pub fn nginx(folder: &Path, root: &Path) -> Option<Running> {
    let port = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    let (folder, root) = (folder.display(), root.display());
    let user = "user root;";
    let config = format!(
        "{user} master_process off; daemon off; pid {folder}/nginx.pid; error_log stderr crit;\n\
         events {{ worker_connections 256; }}\n\
         http {{ access_log off; sendfile on; keepalive_requests 1000000; types {{ text/html html; }}\n\
         server {{ listen 127.0.0.1:{port}; root {root}; index index.html; }} }}\n"
    );
    let file = format!("{folder}/nginx.conf");
    fs::write(&file, config).unwrap();
    let child = Command::new("nginx").args(["-c", &file, "-p", &folder.to_string()]).spawn().ok()?;
    let running = Running { child, port };
    for _ in 0..100 {
        if TcpStream::connect(("127.0.0.1", port)).is_ok() {
            return Some(running);
        }
        thread::sleep(Duration::from_millis(20));
    }
    None
}

/// How many pages a second are answered, and the bytes of one of them.
pub fn pages_per_second(server: &Running, time: Duration) -> (f64, Vec<u8>) {
    let start = Instant::now();
    let ask = |first: usize| {
        let mut stream = TcpStream::connect(("127.0.0.1", server.port)).unwrap();
        stream.set_nodelay(true).unwrap();
        let mut reader = BufReader::with_capacity(64 << 10, stream.try_clone().unwrap());
        let (mut count, mut body) = (0, Vec::new());
        while start.elapsed() < time {
            let number = (first * 997 + count * 31) % ENTRIES;
            write!(stream, "GET /notes/note-{number}/ HTTP/1.1\r\nHost: localhost\r\n\r\n").unwrap();
            body = answer(&mut reader);
            count += 1;
        }
        (count, body)
    };
    let answered: Vec<(usize, Vec<u8>)> = thread::scope(|scope| {
        let asking: Vec<_> = (0..CONNECTIONS).map(|first| scope.spawn(move || ask(first))).collect();
        asking.into_iter().map(|asking| asking.join().unwrap()).collect()
    });
    let count: usize = answered.iter().map(|(count, _)| count).sum();
    (count as f64 / start.elapsed().as_secs_f64(), answered.into_iter().next().unwrap().1)
}

/// The body of an answer with 200.
fn answer(reader: &mut BufReader<TcpStream>) -> Vec<u8> {
    let (mut length, mut line) = (0, String::new());
    reader.read_line(&mut line).unwrap();
    assert!(line.starts_with("HTTP/1.1 200"), "{line}");
    loop {
        line.clear();
        reader.read_line(&mut line).unwrap();
        if line.trim().is_empty() {
            break;
        }
        if let Some(value) = line.to_lowercase().strip_prefix("content-length:") {
            length = value.trim().parse().unwrap();
        }
    }
    let mut body = vec![0; length];
    reader.read_exact(&mut body).unwrap();
    body
}

/// The page that a file makes, in a browser's eyes.
fn shown(server: &Running, address: &str) -> String {
    let mut stream = TcpStream::connect(("127.0.0.1", server.port)).unwrap();
    write!(stream, "GET {address} HTTP/1.1\r\nHost: localhost\r\nSec-Fetch-Dest: document\r\n\r\n").unwrap();
    let page = String::from_utf8(answer(&mut BufReader::new(stream))).unwrap();
    page.split("data-shown=\"").nth(1).unwrap().split('"').next().unwrap().to_owned()
}

/// Waits until nothing more is reported: a file that was seen half-written is reported twice.
fn quiet(reader: &mut BufReader<TcpStream>) {
    reader.get_ref().set_read_timeout(Some(Duration::from_millis(400))).unwrap();
    let mut line = String::new();
    while reader.read_line(&mut line).is_ok_and(|bytes| bytes > 0) {
        line.clear();
    }
    reader.get_ref().set_read_timeout(None).unwrap();
}

/// How long it takes, in ms, from when `file` was saved to when the page at `address` is reported: the file written in
/// place or, as many editors do, under another name and renamed.
pub fn told_after(server: &Running, address: &str, file: &Path, renamed: bool, rounds: usize) -> Vec<f64> {
    let shown = shown(server, address);
    let mut stream = TcpStream::connect(("127.0.0.1", server.port)).unwrap();
    write!(stream, "GET /~/events?address={address}&shown={shown} HTTP/1.1\r\nHost: localhost\r\n\r\n").unwrap();
    let mut reader = BufReader::new(stream);
    let text = fs::read_to_string(file).unwrap();
    let times = measure(rounds, |round| {
        quiet(&mut reader);
        let changed = format!("{text}\n\n{round} {renamed}\n");
        let start = if renamed {
            let other = file.with_extension("tmp");
            fs::write(&other, changed).unwrap();
            fs::rename(other, file).unwrap();
            Instant::now()
        } else {
            fs::write(file, changed).unwrap();
            Instant::now()
        };
        let mut line = String::new();
        while !line.starts_with("event: page") {
            line.clear();
            assert!(reader.read_line(&mut line).unwrap() > 0, "the server has gone");
        }
        start.elapsed().as_secs_f64() * 1000.0
    });
    fs::write(file, text).unwrap();
    times
}
