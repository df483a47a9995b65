//! A page as a browser reads it: its elements, the names of their attributes, and the addresses that could run.

#![allow(dead_code)]

use html5ever::tendril::TendrilSink;
use html5ever::{ParseOpts, parse_document};
use markup5ever_rcdom::{Handle, NodeData, RcDom};

/// The elements of a page, in order, each with the names of its attributes.
pub fn structure(html: &str, scripting_enabled: bool) -> Vec<String> {
    let mut found = Vec::new();
    walk(&parsed(html, scripting_enabled).document, &mut |element, attributes| {
        let names: Vec<&str> = attributes.iter().map(|(name, _)| name.as_str()).collect();
        found.push(format!("{element}[{}]", names.join(" ")));
    });
    found
}

/// Attributes of a page that hold an address of a scheme that runs, or code, or a style sheet or script of a host that
/// only a value can have named (`x.example`).
pub fn dangers(html: &str) -> Vec<String> {
    let mut found = Vec::new();
    walk(&parsed(html, true).document, &mut |element, attributes| {
        let loads = element == "script"
            || element == "link"
                && attributes.iter().any(|(name, value)| name == "rel" && value.contains("stylesheet"));
        for (name, value) in attributes {
            let read: String = value.chars().filter(|c| !matches!(c, '\t' | '\n' | '\r')).collect();
            let read = read.trim_start_matches(|c: char| c <= ' ').to_ascii_lowercase().replace('\\', "/");
            let runs = ["javascript:", "vbscript:", "data:"].iter().any(|scheme| read.starts_with(scheme));
            let address = matches!(name.as_str(), "href" | "src" | "action" | "formaction");
            // What a link loads is in its href alone.
            let loads = loads && (element != "link" || name == "href");
            let foreign =
                loads && address && (read.starts_with("//x.example") || read.starts_with("https://x.example"));
            if address && runs || foreign || name.starts_with("on") {
                found.push(format!("{element} {name}={value}"));
            }
        }
    });
    found
}

fn parsed(html: &str, scripting_enabled: bool) -> RcDom {
    let mut options = ParseOpts::default();
    options.tree_builder.scripting_enabled = scripting_enabled;
    parse_document(RcDom::default(), options).one(html)
}

fn walk(node: &Handle, see: &mut impl FnMut(&str, &[(String, String)])) {
    if let NodeData::Element { name, attrs, .. } = &node.data {
        let attributes: Vec<(String, String)> = attrs
            .borrow()
            .iter()
            .map(|attribute| (attribute.name.local.to_string(), attribute.value.to_string()))
            .collect();
        see(&name.local, &attributes);
    }
    node.children.borrow().iter().for_each(|child| walk(child, see));
}
