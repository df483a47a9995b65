//! Forms of the workbench as a test sends them.

use super::Site;
use super::serving::{Reply, Served};

/// A text out of HTML.
pub fn unescaped(html: &str) -> String {
    let mut out = String::new();
    let mut pieces = html.split("&#");
    out.push_str(pieces.next().unwrap_or(""));
    for piece in pieces {
        let (number, rest) = piece.split_once(';').unwrap();
        out.extend(char::from_u32(number.parse().unwrap()));
        out.push_str(rest);
    }
    out.replace("&lt;", "<").replace("&gt;", ">").replace("&quot;", "\"").replace("&amp;", "&")
}

/// A value as forms encode it.
pub fn encoded(text: &str) -> String {
    text.bytes()
        .map(|byte| match byte {
            b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b'-' | b'_' | b'.' => char::from(byte).to_string(),
            byte => format!("%{byte:02X}"),
        })
        .collect()
}

/// Names and values, as forms encode them.
pub fn form(pairs: &[(String, String)]) -> String {
    let pairs = pairs.iter().map(|(name, value)| format!("{}={}", encoded(name), encoded(value)));
    pairs.collect::<Vec<_>>().join("&")
}

/// The names and values of the first form on a page that is sent to `action`; none where there is no such form.
pub fn hidden(page: &str, action: &str) -> Option<Vec<(String, String)>> {
    let start = page.find(&format!("<form method=\"post\" action=\"{action}\""))?;
    let form = &page[start..start + page[start..].find("</form>")?];
    let inputs = form.split("<input type=\"hidden\" name=\"").skip(1);
    let pair = |input: &str| {
        let (name, rest) = input.split_once("\" value=\"")?;
        Some((unescaped(name), unescaped(rest.split('"').next()?)))
    };
    inputs.map(pair).collect()
}

/// The text of what is in `<main>`, without tags and empty lines.
pub fn words(page: &str) -> String {
    let main = page.find("<main").map_or(page, |at| &page[at..]);
    let mut out = String::new();
    let mut is_tag = false;
    for c in main.chars() {
        match c {
            '<' => is_tag = true,
            '>' => is_tag = false,
            c if !is_tag => out.push(c),
            _ => {}
        }
    }
    let lines = unescaped(&out);
    lines.lines().map(str::trim).filter(|line| !line.is_empty()).collect::<Vec<_>>().join("\n")
}

/// The command that a page of the workbench shows for a change.
pub fn command(page: &str) -> String {
    let start = page.find("<div id=\"keep\"").expect("no change is shown");
    let code = page[start..].split("<code class=\"command\">").nth(1).unwrap_or_else(|| panic!("{}", words(page)));
    unescaped(code.split("</code>").next().unwrap())
}

impl Served {
    /// Keeps the change that a page of the workbench shows.
    #[track_caller]
    pub fn keep(&self, path: &str) -> Reply {
        let page = self.get(path).text();
        let pairs = hidden(&page, "/~/keep").unwrap_or_else(|| panic!("{path} can't be kept:\n{}", words(&page)));
        self.post("/~/keep", &form(&pairs), &[])
    }
}

impl Site {
    /// Types a command as a shell takes it.
    #[track_caller]
    pub fn shell(&self, line: &str) {
        let program = env!("CARGO_BIN_EXE_hausblatt");
        let script = format!("hausblatt() {{ \"{program}\" \"$@\" --as-of {}; }}\n{line}\n", super::TODAY);
        let said = std::process::Command::new("sh")
            .current_dir(self.root())
            .env_clear()
            .env("PATH", "/usr/bin:/bin")
            .args(["-c", &script])
            .output()
            .unwrap();
        assert!(said.status.success(), "{line}\n{}", String::from_utf8_lossy(&said.stderr));
    }

    /// All files but those that are the program's own.
    pub fn files(&self) -> Vec<(String, Vec<u8>)> {
        let is_own = |path: &str| path.starts_with(".hausblatt-") || path.starts_with("built/");
        self.tree(".").into_iter().filter(|(path, _)| !is_own(path)).collect()
    }
}
