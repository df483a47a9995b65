//! Findings as a log of SARIF 2.1.0, the OASIS standard that code hosts and editors read.

use hausblatt_core::check::{Finding, codes_of_rehearsals};
use hausblatt_core::files::Snapshot;
use hausblatt_lang::text::code::Code;
use hausblatt_lang::text::source::{Place, Span};
use serde_json::{Value, json};

use crate::show::diagnostics::position;

/// Where the standard's schema is published.
const SCHEMA: &str = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json";

/// A log with one run.
pub fn log(texts: &Snapshot, findings: &[Finding]) -> Value {
    let mut codes: Vec<&str> = findings.iter().map(|finding| finding.diagnostic.code).collect();
    codes.sort_unstable();
    codes.dedup();
    let rules: Vec<Value> = codes.iter().map(|code| rule(code)).collect();
    let results: Vec<Value> = findings.iter().map(|finding| result(texts, finding, &codes)).collect();
    json!({
        "$schema": SCHEMA,
        "version": "2.1.0",
        "runs": [{
            "tool": { "driver": {
                "name": "hausblatt",
                "semanticVersion": env!("CARGO_PKG_VERSION"),
                "rules": rules,
            } },
            // Columns count characters, as everywhere in Hausblatt.
            "columnKind": "unicodeCodePoints",
            "originalUriBaseIds": { "SITE": { "description": { "text": "the site's folder" } } },
            "results": results,
        }],
    })
}

fn rule(code: &str) -> Value {
    let Some(Code { about, explanation, .. }) = codes_of_rehearsals().into_iter().find(|one| one.name == code) else {
        return json!({ "id": code });
    };
    json!({
        "id": code,
        "shortDescription": { "text": about },
        "fullDescription": { "text": explanation },
        "help": { "text": explanation },
    })
}

fn result(texts: &Snapshot, finding: &Finding, codes: &[&str]) -> Value {
    let diagnostic = &finding.diagnostic;
    let message = match &diagnostic.help {
        Some(help) => format!("{}; {help}", diagnostic.message),
        None => diagnostic.message.clone(),
    };
    let mut result = json!({
        "ruleId": diagnostic.code,
        "ruleIndex": codes.binary_search(&diagnostic.code).unwrap_or(0),
        "level": if diagnostic.is_error() { "error" } else { "warning" },
        "message": { "text": message },
        "locations": [],
    });
    if let Some(place) = &diagnostic.place {
        result["locations"] = json!([{ "physicalLocation": location(texts, place) }]);
        if let Some(fix) = fix(texts, finding, place) {
            result["fixes"] = json!([fix]);
        }
    }
    let others = finding.also.iter().filter_map(|other| Some((other.place.clone()?, "the same is here".to_owned())));
    let related: Vec<Value> = diagnostic
        .related
        .iter()
        .cloned()
        .chain(others)
        .map(|(place, why)| json!({ "physicalLocation": location(texts, &place), "message": { "text": why } }))
        .collect();
    if !related.is_empty() {
        result["relatedLocations"] = json!(related);
    }
    if !finding.addresses.is_empty() {
        result["properties"] = json!({ "addresses": finding.addresses });
    }
    result
}

fn location(texts: &Snapshot, place: &Place) -> Value {
    let artifact = artifact(&place.path);
    match region(texts, &place.path, place.span) {
        Some(region) => json!({ "artifactLocation": artifact, "region": region }),
        None => json!({ "artifactLocation": artifact }),
    }
}

fn artifact(path: &str) -> Value {
    let uri: Vec<String> =
        path.split('/').map(|part| percent_encoding::utf8_percent_encode(part, ESCAPED).to_string()).collect();
    json!({ "uri": uri.join("/"), "uriBaseId": "SITE" })
}

/// All that a path's part of a URI can't hold as it is (RFC 3986).
const ESCAPED: &percent_encoding::AsciiSet =
    &percent_encoding::NON_ALPHANUMERIC.remove(b'-').remove(b'.').remove(b'_').remove(b'~');

fn region(texts: &Snapshot, path: &str, span: Span) -> Option<Value> {
    let text = texts.file(path)?.whole_text().ok()?;
    let (start, end) = (position(&text, span.start as usize), position(&text, span.end as usize));
    Some(json!({ "startLine": start.0, "startColumn": start.1, "endLine": end.0, "endColumn": end.1 }))
}

fn fix(texts: &Snapshot, finding: &Finding, place: &Place) -> Option<Value> {
    let fix = finding.diagnostic.fix.as_ref()?;
    let text = texts.file(&place.path)?.whole_text().ok()?;
    let span = fix.goes(&text, place.span)?;
    let replacement = json!({
        "deletedRegion": region(texts, &place.path, span)?,
        "insertedContent": { "text": fix.to },
    });
    Some(json!({
        "description": { "text": finding.diagnostic.help.clone().unwrap_or_default() },
        "artifactChanges": [{ "artifactLocation": artifact(&place.path), "replacements": [replacement] }],
    }))
}
