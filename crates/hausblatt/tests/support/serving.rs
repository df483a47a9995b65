//! The program as a server, and a client that says exactly what a test wants it to say.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::process::{Child, Stdio};
use std::time::{Duration, Instant};

use super::Site;

/// How long anything may take that a test waits for.
const PATIENCE: Duration = Duration::from_secs(20);

/// A running server, which ends with the test.
pub struct Served {
    child: Child,
    /// Where it is: `127.0.0.1:PORT`.
    pub at: String,
    /// What it printed at the start, without the port.
    pub greeting: String,
}

/// An answer, read to its end.
#[derive(Debug)]
pub struct Reply {
    pub status: u16,
    pub head: String,
    pub body: Vec<u8>,
}

impl Reply {
    /// A header's value; empty if there is none.
    pub fn header(&self, name: &str) -> &str {
        let of = |line: &'_ str| line.split_once(": ").is_some_and(|(key, _)| key.eq_ignore_ascii_case(name));
        let line = self.head.lines().find(|line| of(line));
        line.and_then(|line| line.split_once(": ")).map_or("", |(_, value)| value)
    }

    pub fn text(&self) -> String {
        String::from_utf8_lossy(&self.body).into_owned()
    }
}

impl Site {
    /// Starts the server on this site and waits until it is there.
    #[track_caller]
    pub fn serve(&self, arguments: &[&str]) -> Served {
        let mut command = self.command(&[&["serve", "--port", "0"], arguments].concat());
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        let mut lines = BufReader::new(child.stdout.take().unwrap()).lines();
        let mut greeting = String::new();
        for line in lines.by_ref() {
            let line = line.unwrap();
            greeting.push_str(&line);
            greeting.push('\n');
            if line.starts_with("Ctrl-C") || arguments.contains(&"--quiet") {
                break;
            }
        }
        let at = greeting.split("http://").nth(1).and_then(|rest| rest.split('/').next()).unwrap_or("").to_owned();
        assert!(!at.is_empty(), "no server: {greeting}");
        let port = at.rsplit(':').next().unwrap_or("").to_owned();
        Served { child, greeting: greeting.replace(&port, "PORT"), at }
    }
}

impl Served {
    /// A page, as a program requests it.
    #[track_caller]
    pub fn get(&self, path: &str) -> Reply {
        self.ask("GET", path, &[])
    }

    /// A page, as a browser requests it.
    #[track_caller]
    pub fn open(&self, path: &str) -> Reply {
        self.ask("GET", path, &[("Sec-Fetch-Dest", "document")])
    }

    #[track_caller]
    pub fn ask(&self, method: &str, path: &str, headers: &[(&str, &str)]) -> Reply {
        let own = !headers.iter().any(|(name, _)| *name == "Host");
        let host = if own { format!("Host: {}\r\n", self.at) } else { String::new() };
        let headers: String = headers.iter().map(|(name, value)| format!("{name}: {value}\r\n")).collect();
        let began = Instant::now();
        self.say(format!("{method} {path} HTTP/1.1\r\n{host}{headers}Connection: close\r\n\r\n"))
            .unwrap_or_else(|| panic!("{method} {path}: no answer after {:?}", began.elapsed()))
    }

    /// Sends a form.
    #[track_caller]
    pub fn post(&self, path: &str, form: &str, headers: &[(&str, &str)]) -> Reply {
        let headers: String = headers.iter().map(|(name, value)| format!("{name}: {value}\r\n")).collect();
        let (host, length) = (&self.at, form.len());
        self.say(format!(
            "POST {path} HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/x-www-form-urlencoded\r\n\
             Content-Length: {length}\r\n{headers}Connection: close\r\n\r\n{form}"
        ))
        .unwrap_or_else(|| panic!("POST {path}: no answer"))
    }

    pub fn connect(&self) -> TcpStream {
        let stream = TcpStream::connect(&self.at).unwrap();
        stream.set_read_timeout(Some(PATIENCE)).unwrap();
        stream.set_write_timeout(Some(PATIENCE)).unwrap();
        stream
    }

    /// Sends these bytes; none if the connection is closed without an answer.
    pub fn say(&self, bytes: impl AsRef<[u8]>) -> Option<Reply> {
        let mut stream = self.connect();
        let _ = stream.write_all(bytes.as_ref());
        let mut all = Vec::new();
        let _ = stream.read_to_end(&mut all);
        let at = all.windows(4).position(|four| four == b"\r\n\r\n")?;
        let head = String::from_utf8_lossy(&all[..at]).into_owned();
        let status = head.split(' ').nth(1)?.parse().ok()?;
        let body = all[at + 4..].to_vec();
        let chunked = head.to_lowercase().contains("transfer-encoding: chunked");
        Some(Reply { status, head, body: if chunked { joined(&body) } else { body } })
    }

    /// Asks until the answer is as wanted.
    #[track_caller]
    pub fn until(&self, path: &str, wanted: impl Fn(&Reply) -> bool) -> Reply {
        let start = Instant::now();
        loop {
            let reply = self.get(path);
            if wanted(&reply) {
                return reply;
            }
            assert!(start.elapsed() < PATIENCE, "{path} stays so:\n{}\n{}", reply.head, reply.text());
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// What the page at an address shows, as its badge would say it.
    #[track_caller]
    pub fn shown(&self, address: &str) -> String {
        let page = self.open(address).text();
        page.split("data-shown=\"").nth(1).and_then(|rest| rest.split('"').next()).unwrap_or("").to_owned()
    }

    /// The events for an open page.
    pub fn events(&self, address: &str, shown: &str) -> Events {
        let mut stream = self.connect();
        let host = &self.at;
        write!(stream, "GET /~/events?address={address}&shown={shown} HTTP/1.1\r\nHost: {host}\r\n\r\n").unwrap();
        let mut events = Events(BufReader::new(stream));
        assert!(events.0.by_ref().lines().map_while(Result::ok).any(|line| line.is_empty()), "no events");
        events
    }

    /// The server's memory in kB.
    pub fn memory(&self) -> u64 {
        let status = std::fs::read_to_string(format!("/proc/{}/status", self.child.id())).unwrap_or_default();
        let line = status.lines().find_map(|line| line.strip_prefix("VmRSS:"));
        line.and_then(|line| line.trim().split(' ').next()?.parse().ok()).unwrap_or(0)
    }

    /// What it says on standard error, up to the line with a text.
    #[track_caller]
    pub fn said_until(&mut self, text: &str) -> String {
        let mut said = String::new();
        let mut reader = BufReader::new(self.child.stderr.as_mut().unwrap());
        while reader.read_line(&mut said).unwrap_or(0) > 0 {
            if said.contains(text) {
                return said;
            }
        }
        panic!("it never says {text}:\n{said}");
    }

    /// Ends the server, and gives what it wrote on standard error.
    /// The number of its process.
    pub fn process(&self) -> u32 {
        self.child.id()
    }

    pub fn end(mut self) -> String {
        // Asked to end, it says what it still has to say.
        let asked = std::process::Command::new("kill").args(["-TERM", &self.child.id().to_string()]).status();
        if !asked.is_ok_and(|asked| asked.success()) {
            let _ = self.child.kill();
        }
        let mut said = String::new();
        let _ = self.child.stderr.take().unwrap().read_to_string(&mut said);
        said
    }
}

impl Drop for Served {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// What an open page receives.
pub struct Events(BufReader<TcpStream>);

impl Events {
    /// The next event's name and data.
    pub fn next(&mut self) -> (String, String) {
        let (mut event, mut data) = (String::new(), String::new());
        for line in self.0.by_ref().lines().map_while(Result::ok) {
            if let Some(name) = line.strip_prefix("event: ") {
                event = name.to_owned();
            }
            if let Some(text) = line.strip_prefix("data: ") {
                data = text.to_owned();
            }
            if !event.is_empty() && !data.is_empty() {
                break;
            }
        }
        (event, data)
    }

    /// Whether nothing is reported for so long.
    pub fn is_quiet(&mut self, time: Duration) -> bool {
        self.0.get_ref().set_read_timeout(Some(time)).unwrap();
        let quiet = self.next().0.is_empty();
        self.0.get_ref().set_read_timeout(Some(PATIENCE)).unwrap();
        quiet
    }
}

/// A body in chunks, joined.
fn joined(body: &[u8]) -> Vec<u8> {
    let mut out = Vec::new();
    let mut rest = body;
    while let Some(at) = rest.windows(2).position(|two| two == b"\r\n") {
        let size = usize::from_str_radix(&String::from_utf8_lossy(&rest[..at]), 16).unwrap_or(0);
        if size == 0 || rest.len() < at + 2 + size {
            break;
        }
        out.extend_from_slice(&rest[at + 2..at + 2 + size]);
        rest = rest.get(at + 4 + size..).unwrap_or(&[]);
    }
    out
}
