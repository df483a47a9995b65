//! The messages of an editor: read, handed on, answered in their order. What it has taken back is not worked out.

use std::collections::VecDeque;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::time::Duration;

use lsp_server::{Connection, ErrorCode, Message, Notification, Request, RequestId, Response};
use lsp_types::{
    CancelParams, DidChangeTextDocumentParams, DidCloseTextDocumentParams, DidOpenTextDocumentParams, InitializeParams,
    NumberOrString, PositionEncodingKind, Range, RenameFilesParams, TextDocumentPositionParams, Uri,
};
use serde::de::DeserializeOwned;
use serde_json::{Value, json};

use crate::failure::{Failure, Outcome};
use crate::lsp::positions::{Columns, offset, path_of};
use crate::lsp::sites::{Asked, Document, Sites};
use crate::lsp::{complete, diagnostics, edits, hover, navigate, outline};
use crate::options::Common;

/// Diagnostics are worked out when nothing was typed for so long.
const PAUSE: Duration = Duration::from_millis(30);

/// What the server knows while it runs.
pub struct Server {
    /// The sites and the open texts.
    pub sites: Sites,
    /// How the editor counts columns.
    pub columns: Columns,
    connection: Connection,
    /// Whether diagnostics are to be worked out anew.
    is_stale: bool,
}

/// An answer to a request; an error with its code where there is none.
type Answered = Result<Value, (ErrorCode, String)>;

/// Speaks with an editor until it says that it ends, or is gone.
///
/// # Errors
/// The editor does not speak the protocol.
pub fn run(common: &Common) -> Result<Outcome, Failure> {
    let broken =
        |error: &dyn std::fmt::Display| Failure::Work(format!("the editor can't be understood: {error}"), None);
    let (connection, threads) = Connection::stdio();
    let Ok((id, parameters)) = connection.initialize_start() else { return Ok(Outcome::Clean) };
    let parameters: InitializeParams = serde_json::from_value(parameters).unwrap_or_default();
    let encodings = parameters.capabilities.general.and_then(|general| general.position_encodings).unwrap_or_default();
    let columns = if encodings.contains(&PositionEncodingKind::UTF8) { Columns::Utf8 } else { Columns::Utf16 };
    let answer = json!({
        "capabilities": capabilities(columns),
        "serverInfo": { "name": "hausblatt", "version": env!("CARGO_PKG_VERSION") },
    });
    connection.initialize_finish(id, answer).map_err(|error| broken(&error))?;
    let mut server = Server { sites: Sites::new(common), columns, connection, is_stale: false };
    server.listen();
    drop(server);
    threads.join().map_err(|error| broken(&error))?;
    Ok(Outcome::Clean)
}

fn capabilities(columns: Columns) -> Value {
    json!({
        "positionEncoding": if columns == Columns::Utf8 { "utf-8" } else { "utf-16" },
        "textDocumentSync": { "openClose": true, "change": 2, "save": true },
        "hoverProvider": true,
        "completionProvider": { "triggerCharacters": [".", "\"", "'", "{", "/", ":", " "] },
        "definitionProvider": true,
        "referencesProvider": true,
        "documentHighlightProvider": true,
        "documentSymbolProvider": true,
        "foldingRangeProvider": true,
        "renameProvider": { "prepareProvider": true },
        "documentFormattingProvider": true,
        "documentRangeFormattingProvider": true,
        "codeActionProvider": { "codeActionKinds": ["quickfix", "refactor.extract", "refactor.rewrite"] },
        "codeLensProvider": {},
        "workspaceSymbolProvider": true,
        "semanticTokensProvider": { "legend": { "tokenTypes": outline::TOKEN_KINDS, "tokenModifiers": [] }, "full": true },
        "workspace": { "fileOperations": { "willRename": { "filters": [{ "pattern": { "glob": "**/themes/**" } }] } } },
    })
}

impl Server {
    fn listen(&mut self) {
        let mut waiting: VecDeque<Message> = VecDeque::new();
        loop {
            // What has come in meanwhile is read first: some of it may take back what waits.
            waiting.extend(self.connection.receiver.try_iter());
            let message = match waiting.pop_front() {
                Some(message) => message,
                None if self.is_stale => match self.connection.receiver.recv_timeout(PAUSE) {
                    Ok(message) => message,
                    Err(error) if error.is_disconnected() => return,
                    Err(_) => {
                        self.is_stale = false;
                        self.tell_diagnostics();
                        continue;
                    }
                },
                None => match self.connection.receiver.recv() {
                    Ok(message) => message,
                    Err(_) => return,
                },
            };
            match message {
                Message::Request(request) => {
                    if self.connection.handle_shutdown(&request).unwrap_or(true) {
                        return;
                    }
                    let is_taken_back = waiting.iter().any(|message| cancels(message, &request.id));
                    let answer = match is_taken_back {
                        true => Err((ErrorCode::RequestCanceled, "it was taken back".to_owned())),
                        false => self.answered(&request),
                    };
                    self.reply(request.id, answer);
                }
                Message::Notification(notification) => self.note(notification),
                Message::Response(_) => {}
            }
        }
    }

    fn reply(&self, id: RequestId, answer: Answered) {
        let response = match answer {
            Ok(value) => Response::new_ok(id, value),
            Err((code, message)) => Response::new_err(id, code as i32, message),
        };
        // An editor that is gone is seen at the next read.
        let _ = self.connection.sender.send(Message::Response(response));
    }

    /// Tells the editor something that it has not asked.
    pub fn tell(&self, method: &str, parameters: Value) {
        let notification = Notification { method: method.to_owned(), params: parameters };
        let _ = self.connection.sender.send(Message::Notification(notification));
    }

    fn tell_diagnostics(&mut self) {
        let told = catch_unwind(AssertUnwindSafe(|| diagnostics::told(&mut self.sites, self.columns)));
        for message in told.unwrap_or_default() {
            self.tell("textDocument/publishDiagnostics", message);
        }
    }

    /// An error of ours ends the answer, and not the server.
    fn answered(&mut self, request: &Request) -> Answered {
        let answer = catch_unwind(AssertUnwindSafe(|| self.answer(request)));
        answer.unwrap_or_else(|_| Err((ErrorCode::InternalError, "this question can't be answered".to_owned())))
    }

    fn answer(&mut self, request: &Request) -> Answered {
        let columns = self.columns;
        match request.method.as_str() {
            "textDocument/hover" => self.at(request, |_, asked| hover::hover(asked, columns)),
            "textDocument/completion" => self.at(request, |_, asked| Some(complete::items(asked, columns))),
            "textDocument/definition" => self.at(request, |server, asked| {
                let root = server.sites.site(asked.site).root.clone();
                Some(navigate::definition(asked, &root, columns))
            }),
            "textDocument/references" => self.at(request, |server, asked| {
                let root = server.sites.site(asked.site).root.clone();
                Some(navigate::references(asked, &root, columns))
            }),
            "textDocument/documentHighlight" => self.at(request, |_, asked| Some(navigate::highlights(asked, columns))),
            "textDocument/prepareRename" => self.at(request, |_, asked| edits::prepare(asked, columns)),
            "textDocument/rename" => self.rename(request),
            "textDocument/formatting" | "textDocument/rangeFormatting" => {
                let lines = request.params.get("range").cloned();
                self.whole(request, |server, asked| {
                    let edits = edits::format(asked, lines.as_ref(), columns)?;
                    // An answer of edits has no room for words.
                    if edits != json!([]) {
                        let message = format!("{}: {}", asked.path, edits::NEAT);
                        server.tell("window/logMessage", json!({ "type": 3, "message": message }));
                    }
                    Some(edits)
                })
            }
            "textDocument/codeAction" => {
                let range: Range = read(request.params.get("range").unwrap_or(&Value::Null))?;
                // An editor that asks by itself wants to know at once; pages are rendered for who asks for more.
                let is_by_itself = request.params.pointer("/context/triggerKind") == Some(&json!(2));
                self.whole(request, |server, asked| {
                    let root = server.sites.site(asked.site).root.clone();
                    let theme = asked.path.strip_prefix("themes/").and_then(|rest| rest.split('/').next());
                    let theirs = theme.filter(|_| !is_by_itself).map(str::to_owned);
                    let theirs = theirs.map(|theme| server.sites.loaded(asked.site, Some(theme)));
                    Some(edits::actions(asked, range, theirs.as_deref(), &root, columns))
                })
            }
            "textDocument/documentSymbol" => self.whole(request, |_, asked| Some(outline::symbols(asked, columns))),
            "textDocument/foldingRange" => self.whole(request, |_, asked| Some(outline::folds(asked, columns))),
            "textDocument/semanticTokens/full" => self.whole(request, |_, asked| Some(outline::tokens(asked, columns))),
            "workspace/symbol" => {
                let query: String = read(request.params.get("query").unwrap_or(&Value::Null))?;
                let mut found = Vec::new();
                for at in 0..self.sites.count() {
                    let loaded = self.sites.loaded(at, None);
                    let root = self.sites.site(at).root.clone();
                    found.extend(navigate::named(&loaded, &root, &query, columns));
                }
                Ok(Value::Array(found))
            }
            "workspace/willRenameFiles" => {
                let files: RenameFilesParams = read(&request.params)?;
                let path = |uri: &str| uri.parse::<Uri>().ok().and_then(|uri| path_of(&uri));
                let [file] = files.files.as_slice() else { return Ok(Value::Null) };
                let Some((old, new)) = path(&file.old_uri).zip(path(&file.new_uri)) else { return Ok(Value::Null) };
                Ok(edits::before_move(self, &old, &new, columns).unwrap_or(Value::Null))
            }
            "textDocument/codeLens" => self.whole(request, |_, asked| Some(outline::lenses(asked))),
            other => Err((ErrorCode::MethodNotFound, format!("{other} is not answered"))),
        }
    }

    /// Answers what is asked of a place.
    fn at(&mut self, request: &Request, answer: impl FnOnce(&mut Self, &Asked) -> Option<Value>) -> Answered {
        let place: TextDocumentPositionParams = read(&request.params)?;
        let Some((site, loaded, path, text)) = self.sites.file(&place.text_document.uri) else {
            return Ok(Value::Null);
        };
        let at = offset(&text, place.position, self.columns);
        let asked = Asked { site, loaded, path, text, at };
        Ok(answer(self, &asked).unwrap_or(Value::Null))
    }

    /// Answers what is asked of a file.
    fn whole(&mut self, request: &Request, answer: impl FnOnce(&mut Self, &Asked) -> Option<Value>) -> Answered {
        let uri: Uri = read(request.params.pointer("/textDocument/uri").unwrap_or(&Value::Null))?;
        let Some((site, loaded, path, text)) = self.sites.file(&uri) else { return Ok(Value::Null) };
        Ok(answer(self, &Asked { site, loaded, path, text, at: 0 }).unwrap_or(Value::Null))
    }

    fn rename(&mut self, request: &Request) -> Answered {
        let new: String = read(request.params.get("newName").unwrap_or(&Value::Null))?;
        let columns = self.columns;
        let mut refused = None;
        let answer = self.at(request, |server, asked| match edits::rename(server, asked, &new, columns) {
            Ok(edit) => Some(edit),
            Err(why) => {
                refused = Some(why);
                None
            }
        });
        match refused {
            Some(why) => Err((ErrorCode::RequestFailed, why)),
            None => answer,
        }
    }

    fn note(&mut self, notification: Notification) {
        let parameters = notification.params;
        match notification.method.as_str() {
            "textDocument/didOpen" => {
                let Ok(opened) = serde_json::from_value::<DidOpenTextDocumentParams>(parameters) else { return };
                let document = opened.text_document;
                let Some(path) = path_of(&document.uri) else { return };
                self.sites.changed(&path);
                let (version, text) = (document.version, document.text);
                self.sites.documents.insert(document.uri.as_str().to_owned(), Document { path, version, text });
                self.is_stale = true;
            }
            "textDocument/didChange" => {
                let Ok(changed) = serde_json::from_value::<DidChangeTextDocumentParams>(parameters) else { return };
                let columns = self.columns;
                let Some(document) = self.sites.documents.get_mut(changed.text_document.uri.as_str()) else { return };
                document.version = changed.text_document.version;
                for change in changed.content_changes {
                    match change.range {
                        None => document.text = change.text,
                        Some(range) => {
                            let start = offset(&document.text, range.start, columns);
                            let end = offset(&document.text, range.end, columns).max(start);
                            document.text.replace_range(start..end, &change.text);
                        }
                    }
                }
                let path = document.path.clone();
                self.sites.changed(&path);
                self.is_stale = true;
            }
            "textDocument/didClose" => {
                let Ok(closed) = serde_json::from_value::<DidCloseTextDocumentParams>(parameters) else { return };
                if let Some(document) = self.sites.documents.remove(closed.text_document.uri.as_str()) {
                    self.sites.changed(&document.path);
                    self.is_stale = true;
                }
            }
            "textDocument/didSave" | "workspace/didChangeWatchedFiles" => {
                self.sites.files_changed();
                self.is_stale = true;
            }
            _ => {}
        }
    }
}

/// Whether a message takes back the request of this number.
fn cancels(message: &Message, id: &RequestId) -> bool {
    let Message::Notification(notification) = message else { return false };
    let is_cancel = notification.method == "$/cancelRequest";
    let parameters =
        is_cancel.then(|| serde_json::from_value::<CancelParams>(notification.params.clone()).ok()).flatten();
    parameters.is_some_and(|cancel| match cancel.id {
        NumberOrString::Number(number) => *id == RequestId::from(number),
        NumberOrString::String(text) => *id == RequestId::from(text),
    })
}

fn read<T: DeserializeOwned>(parameters: &Value) -> Result<T, (ErrorCode, String)> {
    serde_json::from_value(parameters.clone())
        .map_err(|error| (ErrorCode::InvalidParams, format!("the question can't be read: {error}")))
}
