//! Renders a site that exists in memory alone, and opens it again after a change.

use std::error::Error;
use std::path::Path;
use std::sync::Arc;

use hausblatt_core::files::memory::Memory;
use hausblatt_core::jiff::civil::date;
use hausblatt_core::{Site, SiteOptions};

/// A collection of two varieties, and a theme with one template.
fn files() -> Memory {
    Memory::of([
        (
            "hausblatt.toml",
            "[site]\ntitle = \"Seeds\"\ntheme = \"bare\"\n[collections.varieties]\naddress = \"/varieties/{slug}/\"\n",
        ),
        ("content/varieties/early-amber.md", "---\ntitle: Early Amber\n---\nA bean that climbs.\n"),
        ("content/varieties/winter-lace.md", "---\ntitle: Winter Lace\n---\nA kale with frilled leaves.\n"),
        ("themes/bare/hausblatt-theme.toml", ""),
        ("themes/bare/templates/entry.html", "---\nlayout: none\n---\n<h1>+{content.title}</h1>\n+{content.body}"),
        ("themes/bare/templates/fallback.html", "---\nlayout: none\n---\n<h1>Nothing here</h1>\n"),
    ])
}

/// Renders two addresses, and one of them again after a change.
pub fn main() -> Result<(), Box<dyn Error>> {
    let files = files();
    let options = SiteOptions::on(date(2026, 5, 1));
    let site = Site::open(Arc::new(files.clone()), Path::new("/"), &options)?;
    for address in ["/varieties/early-amber/", "/varieties/early-umber/"] {
        let page = site.render(address);
        println!("{address} answers with {}:\n{}", page.status, page.text);
    }
    // A site stays as it was opened.
    files.write("content/varieties/winter-lace.md", "---\ntitle: Winter Lace\n---\nGone until autumn.\n");
    assert!(site.render("/varieties/winter-lace/").text.contains("frilled"));
    let site = Site::open(Arc::new(files), Path::new("/"), &options)?;
    assert!(site.render("/varieties/winter-lace/").text.contains("until autumn"));
    Ok(())
}
