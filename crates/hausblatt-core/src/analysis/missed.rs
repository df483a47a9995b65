//! Addresses that visitors requested and that do not exist, and what would redirect them.

use std::collections::BTreeMap;

use hausblatt_lang::text::suggest::is_slip;

use rayon::prelude::*;
use rustc_hash::FxHashSet;

use crate::lookup::public;
use crate::model::content::ContentId;
use crate::model::request::Routed;
use crate::render::page::nearest_addresses;
use crate::text::address::{asked, unusable};
use crate::threads::PAGES;
use crate::world::World;

/// A line of a log.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LogLine {
    /// The address, as it was requested.
    pub address: String,
    /// What the server answered, where the line says so.
    pub status: Option<u16>,
    /// Whether a program asked that goes through sites by itself.
    pub by_robot: bool,
}

/// Whether a line is one of an access log without an address: of a connection that never came to a request, or whose
/// request no server understood, or of a request for no address (`OPTIONS *`).
pub fn has_no_address(line: &str) -> bool {
    let mut quoted = Quoted(line.trim());
    let Some(request) = quoted.next() else { return false };
    let status = quoted.0.split_whitespace().next().and_then(|word| word.parse::<u16>().ok());
    let is_of_log = line.split_whitespace().count() > 5 && status.is_some_and(|status| (100..600).contains(&status));
    is_of_log && read_line(line).is_none() && !request.contains(" /")
}

/// Reads a line: an access log's in the common or combined format, or an address alone. Nothing where it is neither.
/// Every method counts.
pub fn read_line(line: &str) -> Option<LogLine> {
    let line = line.trim();
    if line.is_empty() || line.starts_with('#') {
        return None;
    }
    if !line.contains(char::is_whitespace) {
        let whole = line.starts_with('/') || line.starts_with("http://") || line.starts_with("https://");
        return whole.then(|| LogLine { address: line.to_owned(), status: None, by_robot: false });
    }
    let mut quoted = Quoted(line);
    let request = quoted.next()?;
    let rest = quoted.0;
    // What was requested is between the method and the protocol; clients can write anything there.
    let mut words = request.split(' ').filter(|word| !word.is_empty());
    let (method, address) = (words.next()?, words.next()?);
    let is_method = method.bytes().all(|byte| byte.is_ascii_uppercase() || byte == b'-');
    if !is_method || !(address.starts_with('/') || address.contains("://")) {
        return None;
    }
    let status = rest.split_whitespace().next()?.parse().ok()?;
    let agent = Quoted(rest).nth(1).unwrap_or_default().to_lowercase();
    let by_robot = ROBOTS.iter().any(|word| agent.contains(word));
    Some(LogLine { address: address.to_owned(), status: Some(status), by_robot })
}

/// Words by which programs name themselves that go through sites.
const ROBOTS: &[&str] =
    &["bot", "crawl", "spider", "slurp", "archive", "monitor", "preview", "scan", "fetch", "python", "curl", "wget"];

/// The texts in double quotes of a line, one after the other; a backslash keeps a quote from ending one.
struct Quoted<'l>(&'l str);

impl<'l> Iterator for Quoted<'l> {
    type Item = &'l str;

    fn next(&mut self) -> Option<&'l str> {
        let start = self.0.find('"')? + 1;
        let rest = &self.0[start..];
        let mut escaped = false;
        let end = rest.bytes().position(|byte| {
            let ends = byte == b'"' && !escaped;
            escaped = byte == b'\\' && !escaped;
            ends
        })?;
        self.0 = &rest[end + 1..];
        Some(&rest[..end])
    }
}

/// Whether an address is one of a file that pages load, or that programs ask for by themselves.
pub fn is_file(address: &str) -> bool {
    let path = asked(address).path;
    let last = path.rsplit('/').next().unwrap_or("");
    let ending = last.rsplit_once('.').map(|(_, ending)| ending.to_lowercase());
    ending.is_some_and(|ending| !matches!(ending.as_str(), "html" | "htm" | "php" | "asp" | "aspx" | "xhtml"))
        || path.starts_with("/.well-known/")
}

/// An address that is a broken link.
#[derive(Clone, Debug)]
pub struct Missed {
    /// The address, decoded, without what comes after `?`.
    pub address: String,
    /// How often it was requested.
    pub count: u64,
    /// The nearest addresses that exist, each with its title.
    pub nearest: Vec<(String, String)>,
    /// The content that it most likely was, if that is clear.
    pub meant: Option<ContentId>,
}

/// For so many addresses the nearest ones are looked for.
const MOST: usize = 1000;

/// What of the requested addresses is a broken link, the most frequent first, and how many more there are that were asked
/// for more seldom.
pub fn missed(world: &World, counts: &BTreeMap<String, u64>) -> (Vec<Missed>, usize) {
    let lost = |path: &str| {
        let there = public::is_sent(world, path);
        !there
            && match world.route_decoded(path) {
                Routed::Request(request) if request.status == 404 => request.address == path,
                Routed::Request(request) => world.odd().get(&*request.address).is_some_and(|status| status.code >= 400),
                Routed::Redirect(_) => false,
            }
    };
    let lost = counts.iter().filter(|(address, _)| lost(address)).map(|(address, &count)| (address, count));
    // Spellings of one address: the most frequent means all.
    let mut spelled: BTreeMap<String, (&String, u64, u64)> = BTreeMap::new();
    for (address, count) in lost {
        let (most, highest, sum) = spelled.entry(folded(address)).or_insert((address, 0, 0));
        *sum += count;
        if count > *highest {
            (*most, *highest) = (address, count);
        }
    }
    let mut all: Vec<(&String, u64)> = spelled.into_values().map(|(address, _, sum)| (address, sum)).collect();
    all.sort_by(|a, b| b.1.cmp(&a.1).then_with(|| a.0.cmp(b.0)));
    let left = all.len().saturating_sub(MOST);
    all.truncate(MOST);
    let taken: FxHashSet<String> = world.site.addresses.keys().map(|address| folded(address)).collect();
    let found = all.into_par_iter().with_max_len(PAGES).map(|(address, count)| {
        // Pages of other systems end in what they are made with.
        let bare = [".html", ".htm", ".php", ".aspx", ".asp"].iter().find_map(|ending| address.strip_suffix(ending));
        let nearest = nearest_addresses(world, bare.unwrap_or(address));
        let nearest: Vec<(String, String)> =
            nearest.into_iter().map(|(address, title)| (address.to_owned(), title.to_owned())).collect();
        let meant = meant(world, bare.unwrap_or(address), &nearest).filter(|_| can_be_former(&taken, address));
        Missed { address: address.clone(), count, meant, nearest }
    });
    (found.collect(), left)
}

/// An address without what distinguishes its spellings: letter case, and slashes at the end.
fn folded(address: &str) -> String {
    address.trim_end_matches('/').to_lowercase()
}

/// Whether an address can be written as a former one: it is not another spelling of one that is taken, whose file it would
/// meet.
fn can_be_former(taken: &FxHashSet<String>, address: &str) -> bool {
    // A folder below the address of a file could not be made.
    let above = address.trim_end_matches('/').rsplit_once('/').map_or("", |(above, _)| above);
    let can = unusable(address).is_none() && !address.contains(['?', '#']) && !above.contains('.');
    can && !taken.contains(&folded(address))
}

/// The content that an address most likely was: the only near one where the fingers slipped, or the only one whose last part is the same.
fn meant(world: &World, address: &str, nearest: &[(String, String)]) -> Option<ContentId> {
    let content = |address: &str| match world.route_decoded(address) {
        Routed::Request(request) if request.number < 2 && request.view.is_none() => request.content(&world.site),
        _ => None,
    };
    let last = |address: &str| address.trim_end_matches('/').rsplit('/').next().unwrap_or("").to_lowercase();
    let wanted = last(address);
    let alike: Vec<ContentId> = nearest
        .iter()
        .filter(|(other, _)| !wanted.is_empty() && last(other) == wanted)
        .filter_map(|(other, _)| content(other))
        .collect();
    match (alike.as_slice(), nearest) {
        ([only], _) => Some(*only),
        ([], [(only, _)]) if is_slip(address.trim_end_matches('/'), only.trim_end_matches('/')) => content(only),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_lines_of_logs() {
        let combined = r#"192.0.2.7 - - [14/Mar/2026:06:25:24 +0100] "GET /vsit/?a=1 HTTP/1.1" 404 512 "https://seeds.example/" "Mozilla/5.0""#;
        let asked = |address: &str, status, by_robot| Some(LogLine { address: address.to_owned(), status, by_robot });
        assert_eq!(read_line(combined), asked("/vsit/?a=1", Some(404), false));
        let common = r#"::1 - ida [14/Mar/2026:06:25:24 +0100] "HEAD /a HTTP/2.0" 301 -"#;
        assert_eq!(read_line(common), asked("/a", Some(301), false));
        let robot = combined.replace("Mozilla/5.0", "SomeBot/2.1 (+https://bot.example)");
        assert_eq!(read_line(&robot), asked("/vsit/?a=1", Some(404), true));
        let quotes = combined.replace("/vsit/?a=1", r#"/a\"b"#);
        assert_eq!(read_line(&quotes), asked(r#"/a\"b"#, Some(404), false));
        assert_eq!(read_line("/visit/"), asked("/visit/", None, false));
        assert_eq!(read_line("https://seeds.example/visit/"), asked("https://seeds.example/visit/", None, false));
        let posted = combined.replace("GET", "POST").replace("HTTP/1.1", "HTTP/2");
        assert_eq!(read_line(&posted), asked("/vsit/?a=1", Some(404), false));
        let six = combined.replace("192.0.2.7", "2001:db8::7").replace("GET", "PROPFIND");
        assert_eq!(read_line(&six), asked("/vsit/?a=1", Some(404), false));
        for line in [
            r#"192.0.2.7 - - [14/Mar/2026:06:25:24 +0100] "-" 408 0 "-" "-""#,
            r#"192.0.2.7 - - [14/Mar/2026:06:25:24 +0100] "\x16\x03\x01" 400 0"#,
            r#"::1 - - [14/Mar/2026:06:25:24 +0100] "OPTIONS * HTTP/1.0" 200 126"#,
        ] {
            assert!(read_line(line).is_none() && has_no_address(line), "{line}");
        }
        assert!(!has_no_address("words and \"more\" words") && !has_no_address(combined));
        for line in [
            "",
            "# a comment",
            "words and words",
            "visit",
            r#"192.0.2.7 - - [x] "\x16\x03\x01" 400 0"#,
            r#"192.0.2.7 - - [x] "GET /a HTTP/1.1"#,
            r#"192.0.2.7 - - [x] "GET /a HTTP/1.1" x"#,
            r#""GET"#,
            r#"a "" 404"#,
        ] {
            assert_eq!(read_line(line), None, "{line}");
        }
    }

    #[test]
    fn tells_files_from_pages() {
        for file in ["/favicon.ico", "/assets/a.css", "/a.PNG?x", "/robots.txt", "/.well-known/x", "/feed.xml"] {
            assert!(is_file(file), "{file}");
        }
        for page in ["/", "/visit/", "/old/page.html", "/list.php?id=3", "/a.b/"] {
            assert!(!is_file(page), "{page}");
        }
    }
}
