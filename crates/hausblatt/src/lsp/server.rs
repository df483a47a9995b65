//! The messages of an editor: read, handed on, answered in their order. What it has cancelled is not computed.

use std::collections::{HashMap, VecDeque};
use std::io::IsTerminal;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::atomic::Ordering;
use std::time::{Duration, Instant};

use hausblatt_lang::render::unless_given_up;
use lsp_server::{Connection, ErrorCode, Message, Notification, Request, RequestId, Response};
use lsp_types::{
    DidChangeTextDocumentParams, DidCloseTextDocumentParams, DidOpenTextDocumentParams, Position, Range,
    RenameFilesParams, TextDocumentPositionParams, Uri,
};
use serde::de::DeserializeOwned;
use serde_json::{Value, json};

use crate::failure::{Failure, Outcome};
use crate::lsp::actions::Wished;
use crate::lsp::commands::Done;
use crate::lsp::diagnostics::Delivery;
use crate::lsp::pipes::{self, Cancelled};
use crate::lsp::positions::{Columns, offset, path_of};
use crate::lsp::rendered::Looking;
use crate::lsp::sites::{Asked, Document, Sites};
use crate::lsp::tokens::{TOKEN_KINDS, Tokens};
use crate::lsp::{actions, commands, complete, diagnostics, edits, hover, lenses, navigate, outline};
use crate::opened;
use crate::options::Common;
use crate::show::style::{NOTE, styled};

/// Diagnostics are computed when nothing was typed for so long.
const PAUSE: Duration = Duration::from_millis(30);

/// A question is waited for so long before long work begins.
const PATIENCE: Duration = Duration::from_millis(200);
/// So many lines of a document are shown by an editor that shows no documents of ours.
const SHOWN_LINES: usize = 40;

/// What the server knows while it runs.
pub struct Server {
    /// The sites and the open texts.
    pub sites: Sites,
    /// How the editor counts columns.
    pub columns: Columns,
    editor: EditorOptions,
    connection: Connection,
    cancelled: Cancelled,
    /// What has come in and waits.
    waiting: VecDeque<Message>,
    tokens: Tokens,
    /// What was asked of the editor, by the numbers of the questions.
    asked: HashMap<RequestId, Choosing>,
    next: i32,
    /// Whether diagnostics are to be computed anew.
    is_stale: bool,
    looking: Looking,
    ending: Ending,
}

/// How far the end is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Ending {
    /// It is not in sight.
    No,
    /// The editor has asked the server to shut down.
    Asked,
    /// The editor has ended it, as it should.
    Now,
    /// The editor has ended it without having asked.
    Early,
}

/// What an editor can do, and wants.
#[derive(Clone, Copy, Debug)]
struct EditorOptions {
    delivery: Delivery,
    /// It says when files change, if it is asked to.
    watches: bool,
    /// It pulls diagnostics and lenses again on a request to refresh.
    pulls_again: bool,
    lenses_again: bool,
    hints_again: bool,
    /// It shows how long work goes on.
    shows_progress: bool,
    /// It opens addresses in a browser.
    browses: bool,
    /// It shows the documents that commands are answered with.
    shows_documents: bool,
    /// It asks for what an action changes when it is chosen.
    resolves: bool,
    /// Hints between the words are wanted.
    hints: bool,
}

impl EditorOptions {
    fn of(parameters: &Value) -> Self {
        let can = |path: &str| {
            parameters.pointer(&format!("/capabilities/{path}")).is_some_and(|it| *it != json!(false) && !it.is_null())
        };
        let wants = |key: &str| parameters.pointer(&format!("/initializationOptions/{key}")) == Some(&json!(true));
        let resolved = parameters.pointer("/capabilities/textDocument/codeAction/resolveSupport/properties");
        Self {
            delivery: if can("textDocument/diagnostic") { Delivery::PulledOfOpen } else { Delivery::Pushed },
            watches: can("workspace/didChangeWatchedFiles/dynamicRegistration"),
            pulls_again: can("workspace/diagnostics/refreshSupport"),
            lenses_again: can("workspace/codeLens/refreshSupport"),
            hints_again: can("workspace/inlayHint/refreshSupport"),
            shows_progress: can("window/workDoneProgress"),
            browses: can("window/showDocument/support"),
            shows_documents: wants("documents"),
            resolves: resolved.and_then(Value::as_array).is_some_and(|all| all.contains(&json!("edit"))),
            hints: wants("hints"),
        }
    }
}

/// What an answer of the editor is for.
enum Choosing {
    /// The address whose values are shown in the site with this number.
    Sample(usize),
}

/// An answer to a request; an error with its code where there is none.
type Answered = Result<Value, (ErrorCode, String)>;

/// Speaks with an editor until it says that it ends, or is gone.
///
/// # Errors
/// The editor does not speak the protocol.
pub fn run(common: &Common) -> Result<Outcome, Failure> {
    if std::io::stdin().is_terminal() {
        let text =
            "it speaks with an editor and waits for one; docs/editors.md says what to write where, Ctrl-C ends it";
        crate::tell!("{} {text}", styled(NOTE, "note:"));
    }
    let broken = |why: String| Failure::Work(format!("the editor can't be understood: {why}"), None);
    let (connection, pipes) = pipes::open().map_err(|error| opened::no_threads(&error))?;
    let Ok((id, parameters)) = connection.initialize_start() else {
        drop(connection);
        return pipes.close().map(|()| Outcome::Clean).map_err(broken);
    };
    let editor = EditorOptions::of(&parameters);
    let encodings = parameters.pointer("/capabilities/general/positionEncodings").and_then(Value::as_array);
    let has_bytes = encodings.is_some_and(|encodings| encodings.contains(&json!("utf-8")));
    let columns = if has_bytes { Columns::Utf8 } else { Columns::Utf16 };
    let answer = json!({
        "capabilities": capabilities(columns, editor),
        "serverInfo": { "name": "hausblatt", "version": env!("CARGO_PKG_VERSION") },
    });
    if connection.initialize_finish(id, answer).is_err() {
        drop(connection);
        return pipes.close().map(|()| Outcome::Clean).map_err(broken);
    }
    let mut server = Server {
        sites: Sites::new(common),
        columns,
        editor,
        connection,
        cancelled: pipes.cancelled.clone(),
        waiting: VecDeque::new(),
        tokens: Tokens::default(),
        asked: HashMap::new(),
        next: 0,
        is_stale: false,
        looking: Looking::default(),
        ending: Ending::No,
    };
    server.watch_files();
    server.listen();
    let is_early = server.ending == Ending::Early;
    drop(server);
    pipes.close().map_err(broken)?;
    match is_early {
        true => Err(Failure::Work("the editor ended the server before it asked it to shut down".to_owned(), None)),
        false => Ok(Outcome::Clean),
    }
}

fn capabilities(columns: Columns, editor: EditorOptions) -> Value {
    let mut all = json!({
        "positionEncoding": if columns == Columns::Utf8 { "utf-8" } else { "utf-16" },
        "textDocumentSync": { "openClose": true, "change": 2, "save": true },
        "hoverProvider": true,
        "completionProvider": { "triggerCharacters": [".", "\"", "'", "{", "/", ":", " ", "["] },
        "definitionProvider": true,
        "referencesProvider": true,
        "documentHighlightProvider": true,
        "documentSymbolProvider": true,
        "documentLinkProvider": {},
        "foldingRangeProvider": true,
        "selectionRangeProvider": true,
        "inlayHintProvider": true,
        "renameProvider": { "prepareProvider": true },
        "documentFormattingProvider": true,
        "documentRangeFormattingProvider": true,
        "codeActionProvider": {
            "codeActionKinds": ["quickfix", "refactor.extract", "refactor.rewrite", "source"],
            "resolveProvider": editor.resolves,
        },
        "codeLensProvider": {},
        "executeCommandProvider": { "commands": commands::COMMANDS },
        "workspaceSymbolProvider": true,
        "semanticTokensProvider": {
            "legend": { "tokenTypes": TOKEN_KINDS, "tokenModifiers": [] },
            "full": { "delta": true },
        },
        "workspace": { "fileOperations": { "willRename": { "filters": [{ "pattern": { "glob": "**/themes/**" } }] } } },
    });
    if editor.delivery != Delivery::Pushed {
        all["diagnosticProvider"] =
            json!({ "identifier": "hausblatt", "interFileDependencies": true, "workspaceDiagnostics": true });
    }
    all
}

/// What takes long, in words, by the requests that do it.
fn long_work(request: &Request) -> Option<&'static str> {
    match request.method.as_str() {
        "textDocument/rename" | "workspace/willRenameFiles" => Some("Renaming, and rendering the pages that use it"),
        "codeAction/resolve" => Some("Rendering the pages that use the file"),
        "textDocument/codeAction" => {
            let range = request.params.get("range")?;
            let is_by_itself = request.params.pointer("/context/triggerKind") == Some(&json!(2));
            (range.get("start") != range.get("end") && !is_by_itself)
                .then_some("Rendering the pages that use these lines")
        }
        "workspace/executeCommand" if request.params.get("command") == Some(&json!(commands::WITHOUT)) => {
            Some("Rendering all pages as they would be")
        }
        _ => None,
    }
}

impl Server {
    fn listen(&mut self) {
        loop {
            let pause = if self.is_stale { Some(PAUSE) } else { self.looking.next() };
            let message = match (self.waiting.pop_front(), pause) {
                (Some(message), _) => message,
                (None, Some(pause)) => match self.connection.receiver.recv_timeout(pause) {
                    Ok(message) => message,
                    Err(error) if error.is_disconnected() => return,
                    Err(_) => {
                        self.idle();
                        continue;
                    }
                },
                (None, None) => match self.connection.receiver.recv() {
                    Ok(message) => message,
                    Err(_) => return,
                },
            };
            match message {
                Message::Request(request) => {
                    let given_up = self.cancelled.begin(&request.id);
                    let is_given_up = || given_up.load(Ordering::Relaxed);
                    let answer = match self.ending {
                        Ending::No if is_given_up() => Ok(Value::Null),
                        Ending::No => unless_given_up(given_up.clone(), || self.answered(&request)),
                        _ => Err((ErrorCode::InvalidRequest, "the server was asked to shut down".to_owned())),
                    };
                    let answer = match is_given_up() {
                        true => Err((ErrorCode::RequestCanceled, "it was cancelled".to_owned())),
                        false => answer,
                    };
                    self.reply(request.id, answer);
                }
                Message::Notification(notification) => {
                    self.note(notification);
                    if matches!(self.ending, Ending::Now | Ending::Early) {
                        return;
                    }
                }
                Message::Response(response) => self.choose(response),
            }
        }
    }

    /// What is done while nothing comes in.
    fn idle(&mut self) {
        if std::mem::take(&mut self.is_stale) {
            self.tell_diagnostics();
            self.looking.changed();
        } else {
            let step = AssertUnwindSafe(|| self.looking.step(&mut self.sites));
            if catch_unwind(step).unwrap_or_default() {
                self.tell_diagnostics();
            }
        }
    }

    /// Has the editor say when files change, if it can.
    fn watch_files(&mut self) {
        if self.editor.watches {
            let watchers =
                ["**/hausblatt.toml", "**/{themes,content,tables,media}/**"].map(|glob| json!({ "globPattern": glob }));
            let method = "workspace/didChangeWatchedFiles";
            let one = json!({ "id": "files", "method": method, "registerOptions": { "watchers": watchers } });
            self.ask("client/registerCapability", json!({ "registrations": [one] }));
        }
    }

    /// Takes what the editor has answered.
    fn choose(&mut self, response: Response) {
        let Some(Choosing::Sample(site)) = self.asked.remove(&response.id) else { return };
        let chosen = response.response_result.ok().and_then(|chosen| chosen["title"].as_str().map(str::to_owned));
        if let Some(chosen) = chosen.filter(|_| site < self.sites.count()) {
            self.sites.site(site).sample = Some(chosen);
            self.look_again();
        }
    }

    /// Has the editor ask for lenses once more.
    fn look_again(&mut self) {
        if self.editor.lenses_again {
            self.ask("workspace/codeLens/refresh", Value::Null);
        }
    }

    /// Asks the editor; the number of the question.
    fn ask(&mut self, method: &str, parameters: Value) -> RequestId {
        self.next += 1;
        let id = RequestId::from(format!("hausblatt-{}", self.next));
        let request = Request { id: id.clone(), method: method.to_owned(), params: parameters };
        let _ = self.connection.sender.send(Message::Request(request));
        id
    }

    /// Asks the editor and waits a little for its answer; what else comes in waits.
    fn ask_and_wait(&mut self, method: &str, parameters: Value) -> Option<Response> {
        let id = self.ask(method, parameters);
        let until = Instant::now() + PATIENCE;
        loop {
            match self.connection.receiver.recv_deadline(until) {
                Ok(Message::Response(response)) if response.id == id => return Some(response),
                Ok(message) => self.waiting.push_back(message),
                Err(_) => return None,
            }
        }
    }

    /// Does what may take long while the editor shows that it goes on: by its own token, or by one of ours if it takes it.
    fn while_shown<T>(&mut self, request: &Request, work: impl FnOnce(&mut Self) -> T) -> T {
        let Some(title) = long_work(request) else { return work(self) };
        let token = match request.params.get("workDoneToken") {
            Some(token) => Some(token.clone()),
            None if self.editor.shows_progress => {
                self.next += 1;
                let token = json!(format!("hausblatt-work-{}", self.next));
                let answer = self.ask_and_wait("window/workDoneProgress/create", json!({ "token": token }));
                answer.is_some_and(|answer| answer.response_result.is_ok()).then_some(token)
            }
            None => None,
        };
        let Some(token) = token else { return work(self) };
        let begin = json!({ "kind": "begin", "title": title, "cancellable": false });
        self.tell("$/progress", json!({ "token": token, "value": begin }));
        let done = work(self);
        self.tell("$/progress", json!({ "token": token, "value": { "kind": "end" } }));
        done
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
        let told = AssertUnwindSafe(|| diagnostics::told(&mut self.sites, self.columns, self.editor.delivery));
        let (messages, is_outdated) = catch_unwind(told).unwrap_or_default();
        for message in messages {
            self.tell("textDocument/publishDiagnostics", message);
        }
        if is_outdated && self.editor.pulls_again {
            self.ask("workspace/diagnostic/refresh", Value::Null);
        }
    }

    /// An error of ours ends the answer, and not the server.
    fn answered(&mut self, request: &Request) -> Answered {
        let answer = AssertUnwindSafe(|| self.while_shown(request, |server| server.answer(request)));
        let answer = catch_unwind(answer);
        answer.unwrap_or_else(|_| Err((ErrorCode::InternalError, "this question can't be answered".to_owned())))
    }

    fn answer(&mut self, request: &Request) -> Answered {
        let columns = self.columns;
        match request.method.as_str() {
            "shutdown" => {
                self.ending = Ending::Asked;
                Ok(Value::Null)
            }
            "initialize" => Err((ErrorCode::InvalidRequest, "the server is initialized already".to_owned())),
            "textDocument/hover" => self.at(request, |_, asked| hover::hover(asked, columns)),
            "textDocument/completion" => self.at(request, |_, asked| Some(complete::items(asked, columns))),
            "textDocument/definition" => self.at(request, |server, asked| {
                let root = server.sites.site(asked.site).root.clone();
                Some(navigate::definition(asked, &root, columns))
            }),
            "textDocument/references" => self.at(request, |server, asked| {
                let root = server.sites.site(asked.site).root.clone();
                let (places, uncertain) = navigate::references(asked, &root, columns);
                // A place of the protocol has no room for words.
                if let Some(told) = uncertain {
                    server.tell("window/showMessage", json!({ "type": 3, "message": told }));
                }
                Some(places)
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
            "textDocument/codeAction" => self.actions(request),
            "codeAction/resolve" => actions::resolved(self, request.params.clone(), columns).map_err(refused),
            "textDocument/diagnostic" => {
                let earlier = request.params.get("previousResultId").and_then(Value::as_str).map(str::to_owned);
                let answer = self.whole(request, |server, asked| {
                    let sites = &mut server.sites;
                    Some(diagnostics::of_file(sites, asked.site, &asked.path, earlier.as_deref(), columns))
                });
                // Of a file that is in no site nothing is wrong.
                answer.map(|answer| if answer.is_null() { json!({ "kind": "full", "items": [] }) } else { answer })
            }
            "workspace/diagnostic" => {
                // What the editor pulls is not pushed.
                if self.editor.delivery == Delivery::PulledOfOpen {
                    self.editor.delivery = Delivery::PulledOfAll;
                    self.is_stale = true;
                }
                let earlier = request.params.get("previousResultIds").and_then(Value::as_array);
                let one = |it: &Value| Some((it["uri"].as_str()?.to_owned(), it["value"].as_str()?.to_owned()));
                let earlier = earlier.into_iter().flatten().filter_map(one).collect();
                Ok(diagnostics::of_all(&mut self.sites, &earlier, columns))
            }
            "textDocument/documentSymbol" => self.whole(request, |_, asked| Some(outline::symbols(asked, columns))),
            "textDocument/foldingRange" => self.whole(request, |_, asked| Some(outline::folds(asked, columns))),
            "textDocument/semanticTokens/full" | "textDocument/semanticTokens/full/delta" => {
                let uri = uri_in(request)?;
                let earlier = request.params.get("previousResultId").and_then(Value::as_str).map(str::to_owned);
                self.whole(request, |server, asked| {
                    Some(server.tokens.answer(uri.as_str(), asked, earlier.as_deref(), columns))
                })
            }
            "textDocument/selectionRange" => {
                let positions: Vec<Position> = read(request.params.get("positions").unwrap_or(&Value::Null))?;
                self.whole(request, |_, asked| Some(outline::selections(asked, &positions, columns)))
            }
            "textDocument/documentLink" => self.whole(request, |server, asked| {
                let root = server.sites.site(asked.site).root.clone();
                Some(navigate::links(asked, &root, columns))
            }),
            "textDocument/inlayHint" => {
                let range: Range = read(request.params.get("range").unwrap_or(&Value::Null))?;
                let is_wanted = self.editor.hints;
                self.whole(request, |_, asked| is_wanted.then(|| lenses::hints(asked, range, columns)))
            }
            "workspace/executeCommand" => self.command(request),
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
            "textDocument/codeLens" => {
                let uri = uri_in(request)?;
                self.whole(request, |_, asked| Some(lenses::lenses(asked, uri.as_str())))
            }
            other => Err((ErrorCode::MethodNotFound, format!("{other} is not answered"))),
        }
    }

    /// Answers what is asked of a place.
    fn at(&mut self, request: &Request, answer: impl FnOnce(&mut Self, &Asked) -> Option<Value>) -> Answered {
        let place: TextDocumentPositionParams = read(&request.params)?;
        let Some(mut asked) = self.sites.asked(&place.text_document.uri, 0) else { return Ok(Value::Null) };
        asked.at = offset(&asked.text, place.position, self.columns);
        Ok(answer(self, &asked).unwrap_or(Value::Null))
    }

    /// Answers what is asked of a file.
    fn whole(&mut self, request: &Request, answer: impl FnOnce(&mut Self, &Asked) -> Option<Value>) -> Answered {
        let uri = uri_in(request)?;
        let Some(asked) = self.sites.asked(&uri, 0) else { return Ok(Value::Null) };
        Ok(answer(self, &asked).unwrap_or(Value::Null))
    }

    fn actions(&mut self, request: &Request) -> Answered {
        let range: Range = read(request.params.get("range").unwrap_or(&Value::Null))?;
        let uri = uri_in(request)?;
        // An editor that asks by itself wants to know at once; pages are rendered for who asks for more.
        let is_by_itself = request.params.pointer("/context/triggerKind") == Some(&json!(2));
        let (columns, is_resolved) = (self.columns, self.editor.resolves);
        self.whole(request, |server, asked| {
            let root = server.sites.site(asked.site).root.clone();
            let theme = asked.path.strip_prefix("themes/").and_then(|rest| rest.split('/').next()).map(str::to_owned);
            let theirs = (!is_by_itself).then(|| server.sites.loaded(asked.site, theme));
            let rendered = server.sites.site(asked.site).rendered.clone();
            let wished = Wished {
                rendered: &rendered,
                asked,
                uri: uri.as_str(),
                range,
                theirs: theirs.as_deref(),
                root: &root,
                is_resolved,
            };
            Some(actions::actions(&wished, columns))
        })
    }

    fn command(&mut self, request: &Request) -> Answered {
        let command: String = read(request.params.get("command").unwrap_or(&Value::Null))?;
        let arguments: Vec<Value> = read(request.params.get("arguments").unwrap_or(&json!([])))?;
        match commands::run(self, &command, &arguments).map_err(refused)? {
            Done::Document(title, text) => {
                if !self.editor.shows_documents {
                    let lines: Vec<&str> = text.lines().collect();
                    let more = lines.len().saturating_sub(SHOWN_LINES);
                    let mut shown = lines[..lines.len() - more].join("\n");
                    if more > 0 {
                        shown += &format!("\nand {more} lines more");
                    }
                    self.tell("window/showMessage", json!({ "type": 3, "message": shown }));
                }
                Ok(json!({ "title": title, "text": text }))
            }
            Done::Choose(site, addresses) => {
                let offered: Vec<Value> = addresses.iter().map(|address| json!({ "title": address })).collect();
                let message = "Of which address are values to be shown?";
                let question = json!({ "type": 3, "message": message, "actions": offered });
                let id = self.ask("window/showMessageRequest", question);
                self.asked.insert(id, Choosing::Sample(site));
                Ok(Value::Null)
            }
            Done::Browse(address) => {
                match self.editor.browses {
                    true => drop(self.ask("window/showDocument", json!({ "uri": address, "external": true }))),
                    false => self.tell("window/showMessage", json!({ "type": 3, "message": address })),
                }
                Ok(json!(address))
            }
            Done::Nothing => {
                self.look_again();
                Ok(Value::Null)
            }
        }
    }

    fn rename(&mut self, request: &Request) -> Answered {
        let new: String = read(request.params.get("newName").unwrap_or(&Value::Null))?;
        let columns = self.columns;
        let mut why_not = None;
        let answer = self.at(request, |server, asked| match edits::rename(server, asked, &new, columns) {
            Ok(edit) => Some(edit),
            Err(why) => {
                why_not = Some(why);
                None
            }
        });
        match why_not {
            Some(why) => Err(refused(why)),
            None => answer,
        }
    }

    fn note(&mut self, notification: Notification) {
        let parameters = notification.params;
        match notification.method.as_str() {
            "exit" => self.ending = if self.ending == Ending::Asked { Ending::Now } else { Ending::Early },
            pipes::UNREADABLE => self.tell("window/logMessage", json!({ "type": 1, "message": parameters })),
            "textDocument/didOpen" => {
                let Ok(opened) = serde_json::from_value::<DidOpenTextDocumentParams>(parameters) else { return };
                let document = opened.text_document;
                let Some(path) = path_of(&document.uri) else { return };
                let known = self.sites.failed.len();
                self.sites.changed(&path);
                for message in &self.sites.failed[known..] {
                    self.tell("window/showMessage", json!({ "type": 1, "message": message }));
                }
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
                self.tokens.forget(closed.text_document.uri.as_str());
                if let Some(document) = self.sites.documents.remove(closed.text_document.uri.as_str()) {
                    self.sites.closed(&document.path);
                    self.is_stale = true;
                }
            }
            "workspace/didChangeConfiguration" => {
                if let Some(wanted) = parameters.pointer("/settings/hausblatt/hints").and_then(Value::as_bool) {
                    self.editor.hints = wanted;
                    if self.editor.hints_again {
                        self.ask("workspace/inlayHint/refresh", Value::Null);
                    }
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

/// What can't be done, as an error of the protocol.
fn refused(why: String) -> (ErrorCode, String) {
    (ErrorCode::RequestFailed, why)
}

/// The file that a request is about.
fn uri_in(request: &Request) -> Result<Uri, (ErrorCode, String)> {
    read(request.params.pointer("/textDocument/uri").unwrap_or(&Value::Null))
}

fn read<T: DeserializeOwned>(parameters: &Value) -> Result<T, (ErrorCode, String)> {
    serde_json::from_value(parameters.clone())
        .map_err(|error| (ErrorCode::InvalidParams, format!("the question can't be read: {error}")))
}
