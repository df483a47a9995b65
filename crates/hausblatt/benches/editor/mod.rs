//! An editor that speaks with the language server: how long answers take, and how much memory the server has.

use std::fs;
use std::io::{BufRead, BufReader, Read, Write};
use std::path::Path;
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::time::Instant;

use serde_json::{Value, json};

/// The template that is written.
const FILE: &str = "themes/plain/templates/entry.html";

/// An editor; the server ends when it is dropped.
pub struct Editor {
    child: Child,
    input: ChildStdin,
    output: BufReader<ChildStdout>,
    uri: String,
    /// The text of the file before anything was typed.
    text: String,
    next: i64,
}

impl Drop for Editor {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Editor {
    /// One that has a template of a site open, and was told what is wrong.
    pub fn of(program: &Path, site: &Path) -> Self {
        let mut child = Command::new(program).arg("lsp").stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().unwrap();
        let (input, output) = (child.stdin.take().unwrap(), BufReader::new(child.stdout.take().unwrap()));
        let uri = format!("file://{}", site.join(FILE).canonicalize().unwrap().display());
        let text = fs::read_to_string(site.join(FILE)).unwrap();
        let mut editor = Self { child, input, output, uri, text, next: 0 };
        editor.ask("initialize", json!({ "processId": null, "rootUri": null, "capabilities": {} }));
        editor.tell("initialized", json!({}));
        let document = json!({ "uri": editor.uri, "languageId": "html", "version": 1, "text": editor.text });
        editor.tell("textDocument/didOpen", json!({ "textDocument": document }));
        editor.hover();
        editor
    }

    fn send(&mut self, message: &Value) {
        let text = message.to_string();
        write!(self.input, "Content-Length: {}\r\n\r\n{text}", text.len()).unwrap();
        self.input.flush().unwrap();
    }

    fn tell(&mut self, method: &str, parameters: Value) {
        self.send(&json!({ "jsonrpc": "2.0", "method": method, "params": parameters }));
    }

    fn receive(&mut self) -> Value {
        let mut length = 0;
        loop {
            let mut line = String::new();
            assert!(self.output.read_line(&mut line).unwrap() > 0, "the server is gone");
            match line.trim().split_once(": ") {
                Some((_, value)) => length = value.parse().unwrap(),
                None => break,
            }
        }
        let mut bytes = vec![0; length];
        self.output.read_exact(&mut bytes).unwrap();
        serde_json::from_slice(&bytes).unwrap()
    }

    fn ask(&mut self, method: &str, parameters: Value) -> Value {
        self.next += 1;
        let id = self.next;
        self.send(&json!({ "jsonrpc": "2.0", "id": id, "method": method, "params": parameters }));
        loop {
            let message = self.receive();
            if message["id"] == json!(id) {
                return message["result"].clone();
            }
        }
    }

    /// Types a line at the end of the file in place of the one that was typed before; the number of the line.
    pub fn types(&mut self, line: &str) -> usize {
        let text = format!("{}\n{line}\n", self.text);
        let document = json!({ "uri": self.uri, "version": 2 });
        self.tell("textDocument/didChange", json!({ "textDocument": document, "contentChanges": [{ "text": text }] }));
        self.text.matches('\n').count() + 1
    }

    /// The milliseconds from a keystroke to the diagnostics of the file that it is in.
    pub fn told_after(&mut self, round: usize) -> f64 {
        let name = format!("misspelt{round}");
        let start = Instant::now();
        self.types(&format!("+{{content.{name}}}"));
        loop {
            let message = self.receive();
            if message["method"] == "textDocument/publishDiagnostics" && message.to_string().contains(&name) {
                return start.elapsed().as_secs_f64() * 1000.0;
            }
        }
    }

    /// The milliseconds for an answer about a place in a line.
    fn at(&mut self, method: &str, line: usize, column: usize) -> f64 {
        let start = Instant::now();
        let place = json!({ "line": line, "character": column });
        let answer = self.ask(method, json!({ "textDocument": { "uri": self.uri }, "position": place }));
        assert!(!answer.is_null(), "{method} has no answer");
        start.elapsed().as_secs_f64() * 1000.0
    }

    /// The milliseconds for what is under the pointer, straight after a keystroke.
    pub fn hover(&mut self) -> f64 {
        let line = self.types("+{content.title}");
        self.at("textDocument/hover", line, 12)
    }

    /// The milliseconds for what fits, straight after a keystroke.
    pub fn complete(&mut self) -> f64 {
        let line = self.types("+{content.ti");
        self.at("textDocument/completion", line, 12)
    }

    /// The memory that the server has now, and the most that it had, in MB, as Linux counts it.
    pub fn memory(&self) -> (f64, f64) {
        let status = fs::read_to_string(format!("/proc/{}/status", self.child.id())).unwrap_or_default();
        let of = |key: &str| {
            let line = status.lines().find_map(|line| line.strip_prefix(key));
            line.and_then(|line| line.trim().trim_end_matches(" kB").parse::<f64>().ok()).unwrap_or(0.0) / 1000.0
        };
        (of("VmRSS:"), of("VmHWM:"))
    }
}
