//! The server: what it listens to, how requests are answered, how it ends.

use std::future::Future;
use std::io;
use std::net::SocketAddr;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use axum::Router;
use axum::extract::{Request, State};
use axum::http::header::{ACCEPT, CACHE_CONTROL, CONTENT_TYPE, ETAG, LOCATION, VARY, X_CONTENT_TYPE_OPTIONS};
use axum::http::{HeaderMap, HeaderValue, Method, StatusCode};
use axum::middleware::{self, Next};
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use hausblatt_core::asking::SiteOptions;
use hausblatt_core::files::{FileNode, MADE, Snapshot};
use hausblatt_lang::render::unless_given_up;
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::service::TowerToHyperService;
use tokio::net::TcpListener;
use tokio::sync::{Semaphore, mpsc};
use tokio_io_timeout::TimeoutStream;
use tower_http::compression::CompressionLayer;
use xxhash_rust::xxh3::xxh3_64;

use crate::options::Common;
use crate::running;
use crate::serve::access::Access;
use crate::serve::answers::{MadePage, Reader};
use crate::serve::checked::Checked;
use crate::serve::missed::Missed;
use crate::serve::reload::Shown;
use crate::serve::tries::Tries;
use crate::serve::{Live, Moment, Names, allowed_hosts, answers, badge, files, images, reload, watch, workbench};
use crate::show::style::plain;

/// How many connections are open at once.
const CONNECTIONS: usize = 512;
/// How many pages are informed of changes at once.
const LISTENERS: usize = 200;
/// How long a request's head may take to arrive, which also ends connections that nothing is asked on.
const HEAD: Duration = Duration::from_secs(10);
/// How many bytes a request's head may have.
const HEAD_BYTES: usize = 64 << 10;
/// How many lines a request's head may have.
const HEADERS: usize = 100;
/// How long an answer may take.
const ANSWER: Duration = Duration::from_secs(60);
/// How many threads answer what is quick: files, and looks at the site.
const QUICK_THREADS: usize = 8;
/// How many pages may wait for a thread that renders.
const QUEUE: usize = 128;
/// How long a client may read nothing of what it is sent.
const UNREAD: Duration = Duration::from_secs(30);

/// All that requests are answered from.
pub struct Server {
    /// The site.
    pub live: Arc<Live>,
    /// Whether pages are sent as visitors get them, with nothing added.
    pub plain: bool,
    /// Where lines for the terminal go.
    lines: mpsc::Sender<String>,
    /// Whether each request gets a line.
    logs: bool,
    /// Tells the editor which page is looked at.
    announcement: Arc<running::Announcement>,
    /// The names that the server is reached by.
    pub names: Names,
    /// What was requested but not found.
    pub missed: Missed,
    /// The theme rehearsed, as the site is now.
    pub rehearsals: workbench::Rehearsals,
    /// What a request that changes something has to know.
    pub token: String,
    /// Who may write files.
    pub access: Access,
    /// Which addresses have problems.
    pub checked: Checked,
    /// The sites that were tried.
    pub tries: Tries,
    /// Held by whoever writes files.
    pub keeping: Mutex<()>,
    /// What opens a file in an editor: a command and its arguments; none where none is known.
    pub editor: Option<Vec<String>>,
    /// Places for open pages.
    pub listeners: Arc<Semaphore>,
    /// Who renders the site's pages.
    pages: Renderers,
    /// Who makes images.
    makers: Renderers,
    /// Keeps made images from being removed.
    held: images::Held,
    /// Who makes the pages of the workbench and the pieces of the badge.
    pub(super) parts: Renderers,
}

/// Threads for what may take long, at most as many as there are cores, and a queue before them.
pub(super) struct Renderers {
    places: Semaphore,
    queue: Semaphore,
}

impl Renderers {
    fn new(threads: usize) -> Self {
        Self { places: Semaphore::new(threads), queue: Semaphore::new(QUEUE) }
    }

    /// Runs `work` when it is its turn. It is given up when whoever waits for it goes away.
    pub(super) async fn run<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, Box<Response>> {
        let full =
            || Box::new(allowed_hosts::plain(StatusCode::SERVICE_UNAVAILABLE, "Too many pages are requested at once."));
        let queued = self.queue.try_acquire().map_err(|_| full())?;
        let place = self.places.acquire().await.map_err(|_| full())?;
        drop(queued);
        let given_up = Arc::new(AtomicBool::new(false));
        let waits = GivesUp(given_up.clone());
        let done = aside(move || unless_given_up(given_up, work)).await;
        drop((waits, place));
        done
    }
}

/// Gives up what is being rendered when it is dropped.
struct GivesUp(Arc<AtomicBool>);

impl Drop for GivesUp {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

/// How many threads render at once.
fn cores() -> usize {
    std::thread::available_parallelism().map_or(2, usize::from).max(2)
}

/// How the server is to be.
pub struct Options<'o> {
    /// Options that every command has.
    pub common: &'o Common,
    /// Whether pages are sent as visitors get them.
    pub plain: bool,
    /// The names that the server is reached by.
    pub names: Names,
    /// Where lines for the terminal go.
    pub lines: mpsc::Sender<String>,
    /// Whether each request gets a line.
    pub logs: bool,
    /// Tells the editor which page is looked at.
    pub announcement: Arc<running::Announcement>,
    /// Who may write files.
    pub access: Access,
    /// What opens a file in an editor.
    pub editor: Option<Vec<String>>,
}

impl Server {
    /// A server of a site whose files were just read.
    ///
    /// # Errors
    /// When the system has no random numbers for a token.
    pub fn new(options: Options<'_>, snapshot: Snapshot, asking: SiteOptions) -> io::Result<Self> {
        let token = random_word(16)?;
        Ok(Self {
            live: Arc::new(Live::new(options.common, snapshot, asking)),
            plain: options.plain,
            lines: options.lines,
            logs: options.logs,
            announcement: options.announcement,
            names: options.names,
            missed: Missed::default(),
            rehearsals: workbench::Rehearsals::default(),
            token,
            access: options.access,
            checked: Checked::default(),
            tries: Tries::default(),
            keeping: Mutex::default(),
            editor: options.editor,
            listeners: Arc::new(Semaphore::new(LISTENERS)),
            pages: Renderers::new(cores()),
            makers: Renderers::new(cores()),
            held: images::Held::default(),
            parts: Renderers::new(cores()),
        })
    }

    /// Says in the terminal what was written, and the command that does the same.
    pub fn say(&self, did: &str, what: &str, command: &str) {
        // A terminal that is held up keeps no answer waiting.
        let _ = self.lines.try_send(format!("{did} {}  {}", plain(what), plain(command)));
    }

    /// Looks at the site's folder from now on.
    ///
    /// # Errors
    /// When the system gives no thread for it.
    pub fn watch(&self) -> io::Result<()> {
        watch::watch(self.live.clone())
    }
}

/// A word that nobody can guess, of so many random bytes.
///
/// # Errors
/// When the system has no random numbers.
pub fn random_word(bytes: usize) -> io::Result<String> {
    let mut random = vec![0; bytes];
    getrandom::fill(&mut random).map_err(io::Error::other)?;
    Ok(random.iter().map(|byte| format!("{byte:02x}")).collect())
}

/// Runs `work` with all that serving needs.
pub fn run<T>(work: impl Future<Output = T>) -> io::Result<T> {
    // The library would panic where the system gives no threads.
    drop(std::thread::Builder::new().spawn(|| ())?.join());
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .worker_threads(2)
        .max_blocking_threads(3 * cores() + QUICK_THREADS)
        .enable_all()
        .build()?;
    let done = runtime.block_on(work);
    // A page that is being rendered is not waited for.
    runtime.shutdown_background();
    Ok(done)
}

/// Answers whoever connects, for ever.
pub async fn serve(server: Arc<Server>, listener: TcpListener) {
    let router = Router::new()
        .route("/~/events", get(reload::events))
        .fallback(everything)
        .layer(CompressionLayer::new())
        .layer(middleware::from_fn_with_state(server.clone(), around))
        .with_state(server);
    let places = Arc::new(Semaphore::new(CONNECTIONS));
    loop {
        let Ok(place) = places.clone().acquire_owned().await else { return };
        let Ok((stream, _)) = listener.accept().await else {
            // The system has no more connections at the moment.
            tokio::time::sleep(Duration::from_millis(50)).await;
            continue;
        };
        let _ = stream.set_nodelay(true);
        let service = TowerToHyperService::new(router.clone());
        tokio::spawn(async move {
            let mut stream = TimeoutStream::new(stream);
            stream.set_write_timeout(Some(UNREAD));
            let stream = Box::pin(stream);
            let connection = http1::Builder::new()
                .timer(TokioTimer::new())
                .header_read_timeout(HEAD)
                .max_header_size(HEAD_BYTES)
                .max_headers(HEADERS)
                .serve_connection(TokioIo::new(stream), service);
            // What a client does wrong is answered or ends its connection; it is nobody else's concern.
            let _ = connection.await;
            drop(place);
        });
    }
}

/// What every request meets and every answer carries; and a line in the log for it.
async fn around(State(server): State<Arc<Server>>, request: Request, next: Next) -> Response {
    let start = Instant::now();
    let line = format!("{} {}", request.method(), request.uri().path_and_query().map_or("", |it| it.as_str()));
    let mut answer = match allowed_hosts::refusal(&server.names, &request) {
        Some(refusal) => refusal,
        None => match tokio::time::timeout(ANSWER, next.run(request)).await {
            Ok(answer) => answer,
            Err(_) => allowed_hosts::plain(StatusCode::SERVICE_UNAVAILABLE, "This took too long."),
        },
    };
    let headers = answer.headers_mut();
    headers.insert(X_CONTENT_TYPE_OPTIONS, HeaderValue::from_static("nosniff"));
    headers.entry(CACHE_CONTROL).or_insert(HeaderValue::from_static("no-cache"));
    let by = answer.extensions().get::<Told>().map_or("", |told| &told.0);
    let took = start.elapsed().as_secs_f64() * 1000.0;
    if server.logs {
        // A terminal that is held up keeps no answer waiting; what it can't take is left out.
        let _ = server.lines.try_send(plain(&format!("{} {line}  {by}  {took:.1} ms", answer.status().as_u16())));
    }
    answer
}

/// Who made an answer, for the log.
#[derive(Clone)]
struct Told(String);

/// Runs what takes a while where it keeps nobody waiting.
pub(super) async fn aside<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, Box<Response>> {
    tokio::task::spawn_blocking(work).await.map_err(|_| {
        Box::new(allowed_hosts::plain(StatusCode::INTERNAL_SERVER_ERROR, "This broke the server's own work."))
    })
}

async fn everything(State(server): State<Arc<Server>>, request: Request) -> Response {
    let answer = match request.uri().path() {
        "/~" => Ok((StatusCode::PERMANENT_REDIRECT, [(LOCATION, "/~/")]).into_response()),
        path if path.starts_with("/~/") => workbench::respond(server, request).await,
        _ => site(server, request).await,
    };
    answer.unwrap_or_else(|broken| *broken)
}

/// What is at an address.
enum Found {
    File(Arc<Moment>, Arc<FileNode>, Option<String>),
    Page(MadePage),
}

async fn site(server: Arc<Server>, request: Request) -> Result<Response, Box<Response>> {
    if request.method() == Method::POST {
        let refusal = allowed_hosts::plain(StatusCode::METHOD_NOT_ALLOWED, "Pages are requested with GET or HEAD.");
        return Ok(([("allow", "GET, HEAD")], refusal).into_response());
    }
    let reader = if server.plain { Reader::Visitor } else { reader(request.headers()) };
    let target = request.uri().path_and_query().map_or("/", |target| target.as_str()).to_owned();
    if target.starts_with(MADE) {
        return made_image(server, request, target).await;
    }
    // A file that changes between the look at it and its sending is looked at once more.
    for age in [None, Some(Duration::ZERO)] {
        let came = server.live.bell().pass().await;
        let (asked, wanted) = (server.clone(), target.clone());
        let work = move || {
            if let Some(age) = age {
                asked.live.look(age);
            }
            let moment = asked.live.fresh_after(came);
            match answers::file(&moment, &wanted) {
                Some(node) => {
                    let text = answers::file_text(&moment, &wanted, &node);
                    Found::File(moment, node, text)
                }
                None => Found::Page(complete(&asked, &moment, &wanted, reader)),
            }
        };
        // What was a file keeps no page waiting, and is not kept waiting by pages.
        let was_file = answers::file(&server.live.last(), &target).is_some();
        let found = if was_file { aside(work).await? } else { server.pages.run(work).await? };
        match found {
            Found::Page(made) => return Ok(sent(made, request.headers(), request.method() == Method::HEAD)),
            Found::File(moment, node, text) => {
                let root = moment.snapshot.root();
                let mut again = Request::new(axum::body::Body::empty());
                *again.method_mut() = request.method().clone();
                *again.headers_mut() = request.headers().clone();
                if let Some(mut answer) = files::send(root, &node, text, again).await {
                    answer.extensions_mut().insert(Told(node.path.to_string()));
                    return Ok(answer);
                }
            }
        }
    }
    Ok(allowed_hosts::plain(StatusCode::NOT_FOUND, "This file has just gone."))
}

/// An image that is made of one of the site's.
async fn made_image(server: Arc<Server>, request: Request, target: String) -> Result<Response, Box<Response>> {
    let (making, wanted) = (server.clone(), target.clone());
    let made = server.makers.run(move || {
        let moment = making.live.fresh();
        let image = images::requested(&moment.snapshot, &wanted);
        let found = match &image {
            Some(image) => images::bytes(&moment.snapshot, &making.held, image),
            None => Ok(None),
        };
        (moment, found)
    });
    let (moment, found) = made.await?;
    let is_head = request.method() == Method::HEAD;
    let mut answer = match found {
        Ok(Some((bytes, format))) => images::sent(&target, bytes, format, request.headers(), is_head),
        Err(why) => images::failed(&why),
        Ok(None) => {
            let reader = if server.plain { Reader::Visitor } else { reader(request.headers()) };
            let asked = server.clone();
            let page = server.pages.run(move || complete(&asked, &moment, &target, reader)).await?;
            return Ok(sent(page, request.headers(), is_head));
        }
    };
    answer.extensions_mut().insert(Told("made image".to_owned()));
    Ok(answer)
}

/// A page with all that it needs for who reads it.
fn complete(server: &Server, moment: &Moment, target: &str, reader: Reader) -> MadePage {
    let mut made = answers::page(moment, target, reader);
    if made.is_missed && !target.starts_with("/favicon.ico") {
        server.missed.count(&hausblatt_core::text::address::asked(target).path);
    }
    if reader == Reader::Browser && made.media.starts_with("text/html") && made.location.is_none() {
        server.announcement.looked_at(&hausblatt_core::text::address::asked(target).path);
        // A version alone is nothing to load a page again for.
        let shown = Shown::of(moment, &made);
        made = made.with_versions(moment);
        made.problems += moment.notices().len();
        badge::add(&mut made, shown, target);
        return made;
    }
    made.with_versions(moment)
}

/// Who asks: browsers say what they want an answer for.
fn reader(headers: &HeaderMap) -> Reader {
    let text = |name: &str| headers.get(name).and_then(|value| value.to_str().ok());
    let shows = match text("sec-fetch-dest") {
        Some(wanted) => matches!(wanted, "document" | "iframe" | "frame"),
        None => text(ACCEPT.as_str()).is_some_and(|accepts| accepts.contains("text/html")),
    };
    if shows { Reader::Browser } else { Reader::Program }
}

/// What was made, as HTTP.
pub(super) fn sent(made: MadePage, asked: &HeaderMap, is_head: bool) -> Response {
    let status = StatusCode::from_u16(made.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
    let tag = format!("W/\"{:x}\"", xxh3_64(made.text.as_bytes()));
    let mut answer = if status == StatusCode::OK && files::is_not_matched(asked, &tag) {
        StatusCode::PRECONDITION_FAILED.into_response()
    } else if status == StatusCode::OK && files::has(asked, &tag) {
        StatusCode::NOT_MODIFIED.into_response()
    } else {
        let length = made.text.len();
        let text = if is_head { String::new() } else { made.text };
        let mut answer = (status, text).into_response();
        if is_head {
            answer.headers_mut().insert("content-length", HeaderValue::from(length));
        }
        if let Ok(media) = HeaderValue::from_str(&made.media) {
            answer.headers_mut().insert(CONTENT_TYPE, media);
        }
        answer
    };
    let headers = answer.headers_mut();
    headers.insert(VARY, HeaderValue::from_static("accept, sec-fetch-dest"));
    let value = |text: &str| HeaderValue::from_str(text).ok();
    if let Some(tag) = value(&tag).filter(|_| status == StatusCode::OK) {
        headers.insert(ETAG, tag);
    }
    if let Some(location) = made.location.as_deref().and_then(value) {
        headers.insert(LOCATION, location);
        // Browsers would keep it for ever.
        headers.insert(CACHE_CONTROL, HeaderValue::from_static("no-store"));
    }
    answer.extensions_mut().insert(Told(made.by.words()));
    answer
}

/// A listener at `host`: at `port`, or, unless that was typed, at one that is free.
pub async fn listen(host: &str, port: u16, is_asked: bool) -> io::Result<(TcpListener, SocketAddr)> {
    let others = (1..20).map(|step| port.saturating_add(step)).chain([0]);
    let mut first = None;
    for port in [port].into_iter().chain(others.filter(|_| !is_asked)) {
        match TcpListener::bind((host.trim_matches(['[', ']']), port)).await {
            Ok(listener) => {
                let address = listener.local_addr()?;
                return Ok((listener, address));
            }
            Err(error) if error.kind() == io::ErrorKind::AddrInUse => first = first.or(Some(error)),
            Err(error) => return Err(error),
        }
    }
    Err(first.unwrap_or_else(|| io::ErrorKind::AddrInUse.into()))
}
