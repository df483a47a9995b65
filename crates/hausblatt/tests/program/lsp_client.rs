//! An editor that speaks with the language server over its pipes.

use std::io::{BufRead, BufReader, Read, Write};
use std::process::{Child, ChildStdin, ChildStdout, Stdio};

use serde_json::{Value, json};

use crate::support::Site;

/// An editor.
pub struct Editor {
    pub child: Child,
    pub input: Option<ChildStdin>,
    output: BufReader<ChildStdout>,
    root: String,
    next: i64,
    /// What the server has said by itself.
    pub told: Vec<Value>,
    /// What it has asked.
    pub asked: Vec<Value>,
}

impl Editor {
    pub fn of(site: &Site) -> Self {
        Self::able(site, json!({}), Value::Null)
    }

    /// One that can do, and wants, these.
    pub fn able(site: &Site, capabilities: Value, options: Value) -> Self {
        let mut child = site
            .command(&["lsp", "--as-of", "2026-11-23"])
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let (input, output) = (child.stdin.take(), BufReader::new(child.stdout.take().unwrap()));
        let root = site.root().canonicalize().unwrap().display().to_string();
        let mut editor = Self { child, input, output, root, next: 0, told: Vec::new(), asked: Vec::new() };
        editor.ask("initialize", json!({ "processId": null, "rootUri": null, "capabilities": capabilities, "initializationOptions": options }));
        editor.tell("initialized", json!({}));
        editor
    }

    pub fn send(&mut self, message: &Value) {
        let text = message.to_string();
        let input = self.input.as_mut().unwrap();
        write!(input, "Content-Length: {}\r\n\r\n{text}", text.len()).unwrap();
        input.flush().unwrap();
    }

    pub fn tell(&mut self, method: &str, parameters: Value) {
        self.send(&json!({ "jsonrpc": "2.0", "method": method, "params": parameters }));
    }

    pub fn receive(&mut self) -> Value {
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
        let message: Value = serde_json::from_slice(&bytes).unwrap();
        // A question of the server gets an answer, if it is one that needs no person.
        if let (Some(id), Some(method)) = (message.get("id"), message.get("method")) {
            if method != "window/showMessageRequest" {
                self.send(&json!({ "jsonrpc": "2.0", "id": id, "result": null }));
            }
            self.asked.push(message.clone());
        }
        message
    }

    /// Waits for a message.
    pub fn answer(&mut self, id: i64) -> Value {
        loop {
            let message = self.receive();
            match (message.get("id"), message.get("method")) {
                (Some(own), None) if *own == json!(id) => return message,
                (Some(_), _) => {}
                (None, _) => self.told.push(message),
            }
        }
    }

    pub fn ask(&mut self, method: &str, parameters: Value) -> Value {
        self.next += 1;
        let id = self.next;
        self.send(&json!({ "jsonrpc": "2.0", "id": id, "method": method, "params": parameters }));
        let message = self.answer(id);
        message.get("result").or(message.get("error")).cloned().unwrap_or_default()
    }

    pub fn uri(&self, path: &str) -> String {
        format!("file://{}/{path}", self.root)
    }

    pub fn open(&mut self, path: &str, text: &str) {
        let uri = self.uri(path);
        self.tell(
            "textDocument/didOpen",
            json!({ "textDocument": { "uri": uri, "languageId": "html", "version": 1, "text": text } }),
        );
    }

    pub fn change(&mut self, path: &str, text: &str) {
        let uri = self.uri(path);
        self.tell(
            "textDocument/didChange",
            json!({ "textDocument": { "uri": uri, "version": 2 }, "contentChanges": [{ "text": text }] }),
        );
    }

    /// Asks about the place in a text where `|` is; that is no part of it.
    pub fn at(&mut self, method: &str, path: &str, text: &str, more: Value) -> Value {
        let at = text.find('|').unwrap();
        let whole = text.replacen('|', "", 1);
        self.change(path, &whole);
        let before = &whole[..at];
        let line = before.matches('\n').count();
        let column = before.rsplit('\n').next().unwrap().encode_utf16().count();
        let mut parameters =
            json!({ "textDocument": { "uri": self.uri(path) }, "position": { "line": line, "character": column } });
        parameters.as_object_mut().unwrap().extend(more.as_object().cloned().unwrap_or_default());
        self.ask(&format!("textDocument/{method}"), parameters)
    }

    /// What the server says by itself next, of this method and this file.
    pub fn next_told(&mut self, method: &str, path: &str) -> Value {
        let uri = self.uri(path);
        let is_it = |one: &Value| one["method"] == method && one["params"]["uri"] == json!(uri);
        loop {
            if let Some(at) = self.told.iter().position(is_it) {
                return self.told.remove(at)["params"].clone();
            }
            let message = self.receive();
            self.told.push(message);
        }
    }

    /// An answer as text, with paths from the site.
    pub fn shown(&self, answer: &Value) -> String {
        serde_json::to_string_pretty(answer).unwrap().replace(&format!("file://{}/", self.root), "")
    }

    pub fn end(mut self) {
        assert_eq!(self.ask("shutdown", Value::Null), Value::Null);
        self.tell("exit", Value::Null);
        drop(self.input.take());
        assert!(self.child.wait().unwrap().success());
    }
}
