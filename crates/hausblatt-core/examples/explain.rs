//! Explains which file renders an address: of the site in a folder, or of a small one in memory.
//!
//! `cargo run --example explain -- FOLDER ADDRESS`

use std::error::Error;
use std::path::Path;
use std::sync::Arc;
use std::time::SystemTime;

use hausblatt_core::files::Files;
use hausblatt_core::files::disk::Disk;
use hausblatt_core::files::memory::Memory;
use hausblatt_core::jiff::Zoned;
use hausblatt_core::{Answer, Site, SiteOptions};

/// A page with a template of its own in a child theme, over a parent that has one for all pages.
fn two_themes() -> Memory {
    Memory::of([
        ("hausblatt.toml", "[site]\ntitle = \"Seeds\"\ntheme = \"child\"\n"),
        ("content/pages/visit.md", "---\ntitle: Visit\n---\nCome in.\n"),
        (
            "themes/child/hausblatt-theme.toml",
            "[theme]
parent = \"parent\"
",
        ),
        ("themes/child/templates/page/visit.html", "---\nlayout: none\n---\n<h1>The way</h1>"),
        ("themes/parent/hausblatt-theme.toml", ""),
        ("themes/parent/templates/page.html", "---\nlayout: none\n---\n<h1>+{content.title}</h1>"),
    ])
}

/// Explains the address that was named, or one of its own.
pub fn main() -> Result<(), Box<dyn Error>> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let (files, folder, address): (Arc<dyn Files>, &str, &str) = match arguments.as_slice() {
        [folder, address] => (Arc::new(Disk::new(SystemTime::now)), folder, address),
        _ => (Arc::new(two_themes()), "/", "/visit/"),
    };
    let site = Site::open(files, Path::new(folder), &SiteOptions::on(Zoned::now().date()))?;
    match site.explain(address) {
        Answer::Redirect(to) => println!("{address} redirects to {to}"),
        Answer::Page(explained) => {
            println!("{address} answers with {}: {}", explained.status.code, explained.subject);
            for rung in &explained.rungs {
                println!("  {}", rung.name);
                for (file, state) in &rung.files {
                    println!("    {} {}", file.path, state.word());
                }
            }
            for step in &explained.next {
                println!("to change {}: {}", step.changes, step.command);
            }
        }
    }
    Ok(())
}
