//! Exceptions: what a site does not want to hear of again, and exceptions that nothing needs.

use glob::{MatchOptions, Pattern};
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::diagnostic::{Diagnostic, Severity};

use crate::check::{Check, Finding, Look, Scope, codes, codes_of_rehearsals};
use crate::schema::config::Allowance;
use crate::text::codes as text_codes;
use crate::world::World;

/// An exception of nothing known.
pub(crate) const UNKNOWN: Check = Check {
    code: Code {
        name: "unknown-code",
        severity: Severity::Warning,
        about: "an exception names a code that does not exist",
        explanation: "[[check.except]] takes the codes that check reports, as in code = \"no-alt\". hausblatt check --about lists them all.",
    },
    look: Look::Allowances,
};

/// An exception that is not needed.
pub(crate) const UNUSED: Check = Check {
    code: Code {
        name: "unused-exception",
        severity: Severity::Warning,
        about: "an exception is not needed",
        explanation: "Nothing of this code is found in the files that the exception names: what it was for has been fixed, or the path has changed. Remove it, so that the next one is not hidden by it.",
    },
    look: Look::Allowances,
};

/// Whether a site can except a code: not what keeps the site from being loaded, nor what is wrong with exceptions.
pub fn can_be_excepted(code: &Code) -> bool {
    let never = [
        UNKNOWN.code,
        UNUSED.code,
        text_codes::NO_SITE,
        text_codes::MISSING_MANIFEST,
        text_codes::THEME_CIRCLE,
        text_codes::UNKNOWN_THEME,
    ];
    codes_of_rehearsals().contains(&code) && !never.contains(code)
}

/// Takes out what is allowed, and adds what is wrong with the allowances.
pub(crate) fn sift(world: &World, scope: &Scope, found: &mut Vec<Finding>) {
    let config = &world.site.config;
    let mut about = Vec::new();
    for allowance in &config.allowed {
        if let Some(unknown) = unknown(world, allowance, &codes()) {
            about.push(unknown);
            continue;
        }
        let before = found.len();
        let fits = fitting(allowance);
        found.retain(|finding| finding.diagnostic.code != allowance.code.text || !fits(finding));
        if matches!(scope, Scope::Whole) && found.len() == before {
            about.push(unused(world, allowance));
        }
    }
    let of_rehearsals = codes_of_rehearsals();
    about.extend(config.allowed_in_rehearsals.iter().filter_map(|allowance| unknown(world, allowance, &of_rehearsals)));
    found.extend(about.into_iter().map(|diagnostic| Finding { diagnostic, addresses: Vec::new(), also: Vec::new() }));
}

/// That an allowance names none of these codes.
fn unknown(world: &World, allowance: &Allowance, known: &[&'static Code]) -> Option<Diagnostic> {
    let code = &allowance.code;
    if known.iter().any(|known| known.name == code.text) {
        return None;
    }
    let diagnostic = match codes_of_rehearsals().iter().any(|known| known.name == code.text) {
        true => Diagnostic::of(&UNKNOWN.code, format!("only rehearse reports \"{}\"", code.text))
            .help("write it under [[rehearse.except]]"),
        false => Diagnostic::of(&UNKNOWN.code, format!("there is no code \"{}\"", code.text))
            .meaning(&code.text, known.iter().map(|known| known.name))
            .or_help(|| "all codes: hausblatt check --about".to_owned()),
    };
    Some(diagnostic.at(&world.site.config.path, code.span))
}

/// That nothing needs an allowance.
pub(crate) fn unused(world: &World, allowance: &Allowance) -> Diagnostic {
    let message = format!("nothing that is found needs this exception of \"{}\"", allowance.code.text);
    let diagnostic = Diagnostic::of(&UNUSED.code, message).help("remove it, or fix its path");
    diagnostic.at(&world.site.config.path, allowance.code.span)
}

/// Whether something found is in a file that an allowance names: a path, a folder, or a pattern such as
/// `themes/*/partials/**`.
pub(crate) fn fitting(allowance: &Allowance) -> impl Fn(&Finding) -> bool + use<> {
    let path = allowance.path.as_ref().map(|path| path.text.clone());
    let pattern = path.as_ref().and_then(|path| Pattern::new(path).ok());
    let options = MatchOptions { require_literal_separator: true, ..MatchOptions::new() };
    move |finding| {
        let Some(wanted) = &path else { return true };
        let Some(place) = &finding.diagnostic.place else { return false };
        let below = place
            .path
            .strip_prefix(wanted.trim_end_matches('/'))
            .is_some_and(|rest| rest.is_empty() || rest.starts_with('/'));
        below || pattern.as_ref().is_some_and(|pattern| pattern.matches_with(&place.path, options))
    }
}

#[cfg(test)]
mod tests {
    use crate::check::tests::told;

    const SITE: &str = "[site]\ntitle = \"Seeds\"\ntheme = \"t\"\n";

    #[test]
    fn leaves_out_what_is_allowed() {
        let template = ("themes/t/templates/page.html", "+{raw content.title}");
        let with = |allow: &str| format!("{SITE}[[check.except]]\n{allow}\n");
        for path in [
            "",
            "path = \"themes/t/templates/page.html\"",
            "path = \"themes/t\"",
            "path = \"themes/*/templates/*.html\"",
        ] {
            let site = with(&format!("code = \"raw-used\"\n{path}"));
            assert!(told("raw-used", &[("hausblatt.toml", &site), template]).is_empty(), "{path}");
            assert!(told("unused-exception", &[("hausblatt.toml", &site), template]).is_empty(), "{path}");
        }
        let elsewhere = with("code = \"raw-used\"\npath = \"themes/other\"");
        let files = [("hausblatt.toml", elsewhere.as_str()), template];
        assert_eq!(told("raw-used", &files), ["themes/t/templates/page.html:1"]);
        assert_eq!(told("unused-exception", &files), ["hausblatt.toml:5"]);
        let unknown = with("code = \"raw-use\"");
        assert_eq!(told("unknown-code", &[("hausblatt.toml", &unknown)]), ["hausblatt.toml:5"]);
    }
}
