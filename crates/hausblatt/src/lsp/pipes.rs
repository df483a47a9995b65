//! The pipes to an editor: messages with a length in front of each, as the protocol writes them. A message that can't be read is
//! passed over; where the next one begins is known.

use std::collections::VecDeque;
use std::io::{self, BufRead, BufReader, Read, Write};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{self, JoinHandle};

use lsp_server::{Connection, Message, Notification, RequestId};
use lsp_types::{CancelParams, NumberOrString};
use serde_json::json;

/// No message is longer, in bytes.
const LONGEST: usize = 256 << 20;
/// The notification in place of a message that can't be read; its parameter says why.
pub const UNREADABLE: &str = "$/unreadable";

/// The requests that the editor has cancelled; seen at once, and not in their turn.
#[derive(Clone, Default)]
pub struct Cancelled(Arc<Mutex<Requests>>);

#[derive(Default)]
struct Requests {
    /// The one that is being answered.
    current: Option<(RequestId, Arc<AtomicBool>)>,
    /// Those that were cancelled before they were begun; some of them were answered already.
    waiting: VecDeque<RequestId>,
}

/// So many of these are remembered.
const REMEMBERED: usize = 1000;

impl Cancelled {
    /// Says that a request is being answered from now on; whether it was cancelled, before or while it is answered.
    pub fn begin(&self, id: &RequestId) -> Arc<AtomicBool> {
        let mut requests = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let before = requests.waiting.len();
        requests.waiting.retain(|other| other != id);
        let flag = Arc::new(AtomicBool::new(requests.waiting.len() < before));
        requests.current = Some((id.clone(), flag.clone()));
        flag
    }

    fn cancel(&self, notification: &Notification) {
        let Ok(cancel) = serde_json::from_value::<CancelParams>(notification.params.clone()) else { return };
        let id = match cancel.id {
            NumberOrString::Number(number) => RequestId::from(number),
            NumberOrString::String(text) => RequestId::from(text),
        };
        let mut requests = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        match &requests.current {
            Some((current, flag)) if *current == id => flag.store(true, Ordering::Relaxed),
            _ => {
                requests.waiting.push_back(id);
                if requests.waiting.len() > REMEMBERED {
                    requests.waiting.pop_front();
                }
            }
        }
    }
}

/// What goes on beside the connection.
pub struct Pipes {
    /// The requests that the editor has cancelled.
    pub cancelled: Cancelled,
    /// What was wrong with what came in. The thread that reads is not waited for: an editor may have nothing more to say.
    wrong: Arc<Mutex<Option<String>>>,
    writer: JoinHandle<io::Result<()>>,
}

impl Pipes {
    /// Waits until all is written.
    ///
    /// # Errors
    /// What was wrong with what came in.
    pub fn close(self) -> Result<(), String> {
        let _ = self.writer.join();
        self.wrong.lock().unwrap_or_else(PoisonError::into_inner).take().map_or(Ok(()), Err)
    }
}

/// A connection over standard input and output.
///
/// # Errors
/// When the system gives no threads.
pub fn open() -> io::Result<(Connection, Pipes)> {
    let (server, editor) = Connection::memory();
    let Connection { sender, receiver } = editor;
    let wrong = Arc::new(Mutex::new(None));
    let cancelled = Cancelled::default();
    let (found, by_editor) = (wrong.clone(), cancelled.clone());
    thread::Builder::new().spawn(move || {
        let mut input = BufReader::new(io::stdin());
        loop {
            match read(&mut input) {
                Ok(Some(Message::Notification(own))) if own.method == "$/cancelRequest" => by_editor.cancel(&own),
                Ok(Some(message)) => {
                    let is_exit = matches!(&message, Message::Notification(own) if own.method == "exit");
                    if sender.send(message).is_err() || is_exit {
                        return;
                    }
                }
                Ok(None) => return,
                Err(why) => {
                    *found.lock().unwrap_or_else(PoisonError::into_inner) = Some(why);
                    return;
                }
            }
        }
    })?;
    let writer = thread::Builder::new().spawn(move || {
        let mut output = io::stdout().lock();
        for message in receiver {
            message.write(&mut output)?;
            output.flush()?;
        }
        Ok(())
    })?;
    Ok((server, Pipes { cancelled, wrong, writer }))
}

/// The next message; none where there are no more.
fn read(input: &mut impl BufRead) -> Result<Option<Message>, String> {
    let Some(length) = length(input)? else { return Ok(None) };
    if length > LONGEST {
        return Err(format!("a message of {length} bytes is too long: at most {LONGEST}"));
    }
    let mut bytes = Vec::new();
    let read = input.take(length as u64).read_to_end(&mut bytes).map_err(|error| error.to_string())?;
    if read < length {
        return Err("the editor ended in the middle of a message".to_owned());
    }
    let unreadable = |error: serde_json::Error| {
        let why = format!("a message can't be read: {error}");
        Message::Notification(Notification { method: UNREADABLE.to_owned(), params: json!(why) })
    };
    Ok(Some(serde_json::from_slice(&bytes).unwrap_or_else(unreadable)))
}

/// How long the next message is; none where there are no more.
fn length(input: &mut impl BufRead) -> Result<Option<usize>, String> {
    let (mut found, mut is_first) = (None, true);
    loop {
        let mut line = String::new();
        // A header is short: what has no end of a line is none.
        let read = input.take(4096).read_line(&mut line).map_err(|error| format!("a header can't be read: {error}"))?;
        if read == 0 {
            return if is_first { Ok(None) } else { Err("the editor ended in the middle of a message".to_owned()) };
        }
        is_first = false;
        if line.trim().is_empty() && line.ends_with('\n') {
            return found.map(Some).ok_or_else(|| "a message has no Content-Length".to_owned());
        }
        let Some((name, value)) = line.split_once(':') else {
            return Err(format!("\"{}\" is not a header", line.trim()));
        };
        if name.eq_ignore_ascii_case("content-length") {
            let value = value.trim();
            found = Some(value.parse().map_err(|_| format!("\"{value}\" is not a length"))?);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn all(mut input: &[u8]) -> String {
        let mut said = Vec::new();
        loop {
            match read(&mut input) {
                Ok(Some(Message::Notification(own))) => said.push(format!("{} {}", own.method, own.params)),
                Ok(Some(_)) => said.push("another".to_owned()),
                Ok(None) => return said.join("; "),
                Err(why) => return [said.join("; "), why].join(" | "),
            }
        }
    }

    #[test]
    fn what_is_cancelled_is_known_before_and_while_it_is_answered() {
        let cancelled = Cancelled::default();
        let cancel = |id: i32| {
            let notification = Notification { method: "$/cancelRequest".to_owned(), params: json!({ "id": id }) };
            cancelled.cancel(&notification);
        };
        let is_so = |flag: &AtomicBool| flag.load(Ordering::Relaxed);
        cancel(2);
        let one = cancelled.begin(&RequestId::from(1));
        assert!(!is_so(&one));
        cancel(1);
        assert!(is_so(&one));
        assert!(is_so(&cancelled.begin(&RequestId::from(2))));
        // Its number may be used again.
        assert!(!is_so(&cancelled.begin(&RequestId::from(2))));
        cancelled.cancel(&Notification { method: "$/cancelRequest".to_owned(), params: json!([]) });
        for id in 0..5000 {
            cancel(10 + id);
        }
        assert_eq!(cancelled.0.lock().unwrap().waiting.len(), REMEMBERED);
    }

    #[test]
    fn messages_are_read_one_by_one() {
        let one = r#"{"jsonrpc":"2.0","method":"a","params":1}"#;
        let message = format!("Content-Length: {}\r\n\r\n{one}", one.len());
        for (input, wanted) in [
            (String::new(), ""),
            (message.repeat(2), "a 1; a 1"),
            (format!("content-type: x\r\ncontent-length:{}\r\n\r\n{one}", one.len()), "a 1"),
            (
                format!("Content-Length: 5\r\n\r\n{{\"a\":{message}"),
                "$/unreadable \"a message can't be read: EOF while parsing a value at line 1 column 5\"; a 1",
            ),
            (format!("{message}hello\r\n"), "a 1 | \"hello\" is not a header"),
            ("Content-Length: -4\r\n\r\n{}".to_owned(), " | \"-4\" is not a length"),
            (
                "Content-Length: 99999999999\r\n\r\n{".to_owned(),
                " | a message of 99999999999 bytes is too long: at most 268435456",
            ),
            ("Content-Length: 9\r\n\r\n{}".to_owned(), " | the editor ended in the middle of a message"),
            ("Content-Length: 9\r\n".to_owned(), " | the editor ended in the middle of a message"),
            ("x: y\r\n\r\n".to_owned(), " | a message has no Content-Length"),
        ] {
            assert_eq!(all(input.as_bytes()), wanted, "{input}");
        }
    }
}
