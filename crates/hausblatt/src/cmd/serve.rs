//! `serve`: the development server.

use std::net::IpAddr;
use std::path::Path;
use std::sync::Arc;

use hausblatt_core::files::Depth;
use hausblatt_core::model::content::ContentState;
use hausblatt_lang::text::diagnostic::Diagnostic;
use tokio::sync::mpsc;

use crate::cli::ServeArgs;
use crate::cmd::print;
use crate::failure::{Failure, Outcome};
use crate::opened;
use crate::options::Common;
use crate::running::Announcement;
use crate::serve::{self, Access, Live, Moment, Names, Options, Server};
use crate::show::diagnostics;
use crate::show::style::{FAINT, GOOD, NOTE, STRONG, TYPED, plain, styled};
use crate::show::table::counted;

/// So many lines of requests wait for a terminal that is held up.
const LINES: usize = 4096;
/// How many random bytes the key to writing has.
const KEY: usize = 8;
/// The port where none was typed.
const PORT: u16 = 4600;

/// Runs the command until it is stopped.
pub fn run(common: &Common, args: &ServeArgs) -> Result<Outcome, Failure> {
    // What is current now may be another folder by and by.
    let site = opened::real_root(common)?;
    let common = &Common { site: Some(site), ..common.clone() };
    let (snapshot, asking) = opened::read(common, Depth::Fronts)?;
    opened::note_interrupted(&snapshot);
    serve::run(async {
        let port = args.port.unwrap_or(PORT);
        let listening = serve::listen(&args.host, port, args.port.is_some()).await;
        let (listener, address) = listening.map_err(|error| no_place(&args.host, port, &error))?;
        let is_loopback = address.ip().is_loopback();
        let (sender, mut lines) = mpsc::channel(LINES);
        let access = access(args, is_loopback)?;
        let editor = editor(args)?;
        let names = Names::new(&args.host, is_loopback);
        let name = match address.ip() {
            IpAddr::V4(ip) if ip.is_unspecified() => "127.0.0.1".to_owned(),
            IpAddr::V6(ip) if ip.is_unspecified() => "[::1]".to_owned(),
            IpAddr::V6(ip) => format!("[{ip}]"),
            IpAddr::V4(ip) => ip.to_string(),
        };
        let site = format!("http://{name}:{}/", address.port());
        let announcement = Arc::new(Announcement::new(&opened::real_root(common)?, &site));
        let announcement_of_server = announcement.clone();
        let key = match &access {
            Access::Keyed(key) => Some(key.clone()),
            Access::Open | Access::Closed(_) => None,
        };
        let options = Options {
            common,
            plain: args.plain,
            names,
            lines: sender,
            logs: common.verbose,
            announcement: announcement_of_server,
            access,
            editor,
        };
        let server = Arc::new(Server::new(options, snapshot, asking)?);
        server.watch()?;
        let mut known = Vec::new();
        show_new(&server.live, &mut known, common);
        print(&greeting(&server.live.last(), &site, common))?;
        let note = |text: &str| crate::tell!("{} {}", styled(NOTE, "note:"), plain(text));
        if address.port() != port && port != 0 {
            note(&format!("port {port} is taken; this is port {}", address.port()));
        }
        if !is_loopback {
            note("whoever reaches this machine can read the site and its themes: the server is for development only");
        }
        if let Some(key) = key {
            note(&format!("to change files in the workbench, enter this key there: {key}"));
        }
        if args.open && open::that_detached(&site).is_err() {
            note(&format!("no browser could be opened; go to {site}"));
        }
        // Apart from what is printed: a terminal that is held up does not hold up the server.
        let serving = tokio::spawn(serve::serve(server.clone(), listener));
        tokio::select! {
            _ = serving => {}
            () = tell(&server.live, known, &mut lines, common) => {}
            _ = tokio::signal::ctrl_c() => {}
            () = terminated() => {}
        }
        server.live.bell().end();
        announcement.end();
        while let Ok(line) = lines.try_recv() {
            crate::tell!("{line}");
        }
        print(&format!("{}\n", styled(FAINT, "Stopped.")))?;
        Ok(Outcome::Clean)
    })?
}

/// Who may write files.
fn access(args: &ServeArgs, is_loopback: bool) -> Result<Access, Failure> {
    let key = serve::random_word(KEY)?;
    Ok(Access::of(is_loopback, args.read_only, args.allow_edits, || key))
}

/// The command that opens a file in an editor, in words.
fn editor(args: &ServeArgs) -> Result<Option<Vec<String>>, Failure> {
    let typed = args.editor.clone().or_else(|| std::env::var("VISUAL").ok()).filter(|typed| !typed.trim().is_empty());
    let Some(typed) = typed else { return Ok(None) };
    match shlex::split(&typed).filter(|words| !words.is_empty()) {
        Some(words) => Ok(Some(words)),
        None => Err(Failure::usage(
            format!("the editor's command can't be read: {typed}"),
            "close its quotes, as in --editor 'vim +{line} {file}'",
        )),
    }
}

/// Waits until the system asks the program to end.
async fn terminated() {
    use tokio::signal::unix::{SignalKind, signal};
    match signal(SignalKind::terminate()) {
        Ok(mut signal) => drop(signal.recv().await),
        Err(_) => std::future::pending().await,
    }
}

fn no_place(host: &str, port: u16, error: &std::io::Error) -> Failure {
    let help = match error.kind() {
        std::io::ErrorKind::AddrInUse => {
            "leave out --port to take a free one, or end the program that has it".to_owned()
        }
        std::io::ErrorKind::PermissionDenied => "ports below 1024 are the system's: take a higher one".to_owned(),
        _ => "--host is an address of this machine, such as 127.0.0.1 or 0.0.0.0".to_owned(),
    };
    Failure::Work(format!("{host} port {port} can't be listened at: {error}"), Some(help))
}

fn greeting(moment: &Moment, site: &str, common: &Common) -> String {
    if common.quiet {
        return format!("{site}\n");
    }
    let title = moment.world.as_ref().as_ref().map_or("This site", |world| &world.site.config.title);
    let mut out = format!("{} is at {}\n", styled(STRONG, &plain(title)), styled(TYPED, site));
    out.push_str(&format!("The workbench is at {}\n", styled(TYPED, &format!("{site}~/"))));
    if let Ok(world) = &*moment.world {
        let count = |wanted: ContentState| world.site.contents.iter().filter(|content| content.state == wanted).count();
        let hidden = [
            (count(ContentState::Draft), "draft", "drafts", "--drafts"),
            (
                count(ContentState::Waits),
                "entry that waits for its date",
                "entries that wait for their date",
                "--as-of DATE",
            ),
        ];
        for (count, one, many, option) in hidden.into_iter().filter(|(count, ..)| *count > 0) {
            out.push_str(&format!("Not shown: {} ({option} shows them)\n", counted(count, one, many)));
        }
    }
    out.push_str(&format!("{}\n", styled(FAINT, "Ctrl-C stops the server.")));
    out
}

/// Shows each new error of the site from now on, when all are fixed, and the lines of requests.
async fn tell(live: &Live, mut known: Vec<Diagnostic>, lines: &mut mpsc::Receiver<String>, common: &Common) {
    let mut changes = live.changes();
    loop {
        tokio::select! {
            changed = changes.changed() => match changed {
                Ok(()) => show_new(live, &mut known, common),
                Err(_) => return,
            },
            Some(line) = lines.recv() => crate::tell!("{line}"),
        }
    }
}

fn show_new(live: &Live, known: &mut Vec<Diagnostic>, common: &Common) {
    let moment = live.last();
    let errors: Vec<Diagnostic> = moment.problems().filter(|problem| problem.is_error()).cloned().collect();
    let new: Vec<Diagnostic> = errors.iter().filter(|error| !known.contains(error)).cloned().collect();
    diagnostics::show(&moment.snapshot, &new, common);
    if errors.is_empty() && !known.is_empty() {
        crate::tell!("{}\n", styled(GOOD, "All problems are fixed."));
    }
    *known = errors;
}

/// Serves the site in `dir`, as `serve` would without options.
pub fn site(common: &Common, dir: &Path) -> Result<Outcome, Failure> {
    let common = Common { site: Some(dir.to_owned()), ..common.clone() };
    run(&common, &ServeArgs { host: "127.0.0.1".to_owned(), ..ServeArgs::default() })
}
