//! The files of a site that begins with a little of everything; each is there to be read.

/// Path and text of each; a theme's manifest, which makes it one, comes last.
pub const FILES: &[(&str, &str)] = &[
    ("hausblatt.toml", include_str!("site/hausblatt.toml")),
    ("content/notes/2026-03-14-first-note.md", include_str!("site/content/notes/2026-03-14-first-note.md")),
    ("content/notes/2026-05-02-second-note.md", include_str!("site/content/notes/2026-05-02-second-note.md")),
    ("content/pages/about.md", include_str!("site/content/pages/about.md")),
    ("content/pages/welcome.md", include_str!("site/content/pages/welcome.md")),
    ("themes/plain/assets/icon.svg", include_str!("site/themes/plain/assets/icon.svg")),
    ("themes/plain/assets/plain.css", include_str!("site/themes/plain/assets/plain.css")),
    (
        "themes/plain/components/notice/component.html",
        include_str!("site/themes/plain/components/notice/component.html"),
    ),
    (
        "themes/plain/components/notice/component.toml",
        include_str!("site/themes/plain/components/notice/component.toml"),
    ),
    ("themes/plain/components/notice/style.css", include_str!("site/themes/plain/components/notice/style.css")),
    ("themes/plain/layouts/document.html", include_str!("site/themes/plain/layouts/document.html")),
    ("themes/plain/partials/menu.html", include_str!("site/themes/plain/partials/menu.html")),
    ("themes/plain/templates/entry.html", include_str!("site/themes/plain/templates/entry.html")),
    ("themes/plain/templates/error/404.html", include_str!("site/themes/plain/templates/error/404.html")),
    ("themes/plain/templates/fallback.html", include_str!("site/themes/plain/templates/fallback.html")),
    ("themes/plain/templates/front.html", include_str!("site/themes/plain/templates/front.html")),
    ("themes/plain/templates/listing.html", include_str!("site/themes/plain/templates/listing.html")),
    ("themes/plain/templates/page.html", include_str!("site/themes/plain/templates/page.html")),
    ("themes/plain/hausblatt-theme.toml", include_str!("site/themes/plain/hausblatt-theme.toml")),
];
