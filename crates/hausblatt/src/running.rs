//! A server that runs: announced in a file of the site's folder, so that the editor knows where pages are shown, and which one was
//! looked at last.

use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};

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

impl RunningServer {
    /// The server of the site in a folder, if one runs.
    pub fn of(root: &Path) -> Option<Self> {
        let disk = opened::disk();
        let bytes = (&disk as &dyn Files).read_own(&root.join(RUNNING)).ok()?;
        let told: Self = serde_json::from_slice(&bytes).ok()?;
        (!disk.has_ended(told.process)).then_some(told)
    }
}

/// Announces this server until it is dropped; nothing where the folder can't be written.
pub struct Announcement {
    file: PathBuf,
    server: Mutex<RunningServer>,
}

impl Announcement {
    /// Announces that this process serves the site in a folder at an address.
    pub fn new(root: &Path, at: &str) -> Self {
        let server = RunningServer { process: std::process::id(), at: at.to_owned(), page: None };
        write(&root.join(RUNNING), &server);
        Self { file: root.join(RUNNING), server: Mutex::new(server) }
    }

    /// Announces which page is looked at.
    pub fn looked_at(&self, page: &str) {
        let mut server = self.server.lock().unwrap_or_else(PoisonError::into_inner);
        if server.page.as_deref() != Some(page) {
            server.page = Some(page.to_owned());
            write(&self.file, &server);
        }
    }
}

impl Announcement {
    /// Takes the announcement back.
    pub fn end(&self) {
        let root = self.file.parent();
        // Another one may have been started meanwhile.
        if root.and_then(RunningServer::of).is_some_and(|told| told.process == std::process::id()) {
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
