//! A server that runs: announced in a file of the site's folder, so that the editor knows where pages are shown, and which one was
//! looked at last.

use std::net::{SocketAddr, TcpStream};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

use hausblatt_core::files::Files;
use hausblatt_core::files::edit::replace;
use serde::{Deserialize, Serialize};

use crate::opened;

/// The name of the file. It is there while a server runs.
const RUNNING: &str = ".hausblatt-serve";

/// A running server, as it is announced.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct RunningServer {
    /// Its process.
    process: u32,
    /// Where it is: a scheme, a host and a port, with a slash at the end.
    pub at: String,
    /// The page of the site that was looked at last.
    pub page: Option<String>,
}

/// So long a server of this machine is waited for.
const PATIENCE: Duration = Duration::from_millis(200);

impl RunningServer {
    /// The server of the site in a folder, if one runs and listens.
    pub fn of(root: &Path) -> Option<Self> {
        let announced = announced(&root.join(RUNNING))?;
        let place = announced.at.strip_prefix("http://")?.trim_end_matches('/').parse::<SocketAddr>().ok()?;
        // What a killed server has left is not believed.
        TcpStream::connect_timeout(&place, PATIENCE).is_ok().then_some(announced)
    }
}

fn announced(file: &Path) -> Option<RunningServer> {
    let bytes = (&opened::disk() as &dyn Files).read_own(file).ok()?;
    serde_json::from_slice(&bytes).ok()
}

/// Announces this server until it is dropped; nothing where the folder can't be written.
pub struct Announcement {
    file: PathBuf,
    /// What is announced; nothing any more after the end.
    server: Mutex<Option<RunningServer>>,
}

impl Announcement {
    /// Announces that this process serves the site in a folder at an address.
    pub fn new(root: &Path, at: &str) -> Self {
        let server = RunningServer { process: std::process::id(), at: at.to_owned(), page: None };
        write(&root.join(RUNNING), &server);
        Self { file: root.join(RUNNING), server: Mutex::new(Some(server)) }
    }

    /// Announces which page is looked at.
    pub fn looked_at(&self, page: &str) {
        let mut server = self.server.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(server) = server.as_mut().filter(|server| server.page.as_deref() != Some(page)) {
            server.page = Some(page.to_owned());
            write(&self.file, server);
        }
    }

    /// Takes the announcement back.
    pub fn end(&self) {
        let server = self.server.lock().unwrap_or_else(PoisonError::into_inner).take();
        // Another one may have been started meanwhile.
        let is_own = |other: &RunningServer| other.process == std::process::id();
        if server.is_some() && announced(&self.file).is_some_and(|other| is_own(&other)) {
            let _ = std::fs::remove_file(&self.file);
        }
    }
}

impl Drop for Announcement {
    fn drop(&mut self) {
        self.end();
    }
}

fn write(file: &Path, server: &RunningServer) {
    if let Ok(bytes) = serde_json::to_vec(server) {
        let _ = replace(&opened::disk(), file, &bytes);
    }
}
