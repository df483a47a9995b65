//! What beginnings hold: each renders at once.

/// A template for content.
pub(crate) const CONTENT: &str = "<h1>+{content.title}</h1>\n+{content.body}\n";

/// A template for a listing, of whatever kind.
pub const LISTING: &str = "\
<h1>+{listing.title}</h1>
<ul>
  +{each item in listing.items}
  <li><a href=\"+{item.address}\">+{item.title}</a></li>
  +{none}
  <li>Nothing is here yet.</li>
  +{end}
</ul>
+{if listing.previous}
<a rel=\"prev\" href=\"+{listing.previous}\">Previous</a>
+{end}
+{if listing.next}
<a rel=\"next\" href=\"+{listing.next}\">Next</a>
+{end}
";

/// A template for the search.
pub(crate) const SEARCH: &str = "\
<h1>+{request.title}</h1>
<form role=\"search\">
  <label for=\"query\">Search for</label>
  <input id=\"query\" type=\"search\" name=\"q\" value=\"+{search.query}\">
  <button>Find</button>
</form>
<div id=\"search-results\">
  +{if search.query}
  <ol>
    +{each item in search.items}
    <li><a href=\"+{item.address}\">+{item.title}</a></li>
    +{none}
    <li>Nothing holds all of these words.</li>
    +{end}
  </ol>
  +{end}
</div>
";

/// A template for errors.
pub(crate) const ERROR: &str = "\
<h1>+{error.title}</h1>
<p>This request was answered with status +{error.status}. <a href=\"/\">Go to the front page</a></p>
";

/// A template for routes.
pub(crate) const ROUTE: &str = "<h1>+{route.title}</h1>\n";

/// A template for whatever nothing else answers.
pub const FALLBACK: &str = "\
<h1>+{request.title}</h1>
+{if content}
+{content.body}
+{end}
+{if listing}
<ul>
  +{each item in listing.items}
  <li><a href=\"+{item.address}\">+{item.title}</a></li>
  +{end}
</ul>
+{end}
";

/// A template for feeds, as RFC 4287 has them.
pub(crate) const FEED: &str = "\
<?xml version=\"1.0\" encoding=\"utf-8\"?>
<feed xmlns=\"http://www.w3.org/2005/Atom\">
  <id>+{absolute(request.address)}</id>
  <title>+{listing.title}</title>
  <updated>+{today}T00:00:00Z</updated>
  <author><name>+{site.title}</name></author>
  +{each item in listing.items}
  <entry>
    <id>+{absolute(item.address)}</id>
    <link href=\"+{absolute(item.address)}\"/>
    <title>+{item.title}</title>
    <updated>+{item.date or today}T00:00:00Z</updated>
    <summary>+{item.summary}</summary>
  </entry>
  +{end}
</feed>
";

/// A template for the sitemap.
pub(crate) const SITEMAP: &str = "\
<?xml version=\"1.0\" encoding=\"utf-8\"?>
<urlset xmlns=\"http://www.sitemaps.org/schemas/sitemap/0.9\">
  <url><loc>+{absolute(\"/\")}</loc></url>
  +{each item in menus.main}
  <url><loc>+{absolute(item.address)}</loc></url>
  +{end}
ENTRIES</urlset>
";

/// The entries of a collection in a sitemap.
pub(crate) const SITEMAP_ENTRIES: &str = "\
  +{each item in NAME}
  <url><loc>+{absolute(item.address)}</loc></url>
  +{end}
";

/// A template for `robots.txt`.
pub(crate) const ROBOTS: &str = "User-agent: *\nAllow: /\nSitemap: +{absolute(\"/sitemap.xml\")}\n";

/// A template for a route that answers in JSON.
pub const JSON: &str = "{ \"title\": +{request.title} }\n";

/// A file that extends what would be found without it.
pub(crate) const GOING_ON: &str = "+{inherited with}\n+{end}\n";

/// The document around everything.
pub const DOCUMENT: &str = "\
<!doctype html>
<html lang=\"+{site.language}\">
<head>
  <meta charset=\"utf-8\">
  <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">
  <title>+{slot \"title\" else}+{request.title} – +{site.title}+{end}</title>
  +{if request.robots}
  <meta name=\"robots\" content=\"+{request.robots}\">
  +{end}
  <link rel=\"stylesheet\" href=\"+{asset(\"THEME.css\")}\">
  +{slot \"head\"}
  +{used \"styles\"}
</head>
<body class=\"+{classes.join(\" \")}\">
  <header>
    <a href=\"/\">+{site.title}</a>
    <nav aria-label=\"Main\">
      +{each item in menus.main}
      <a href=\"+{item.address}\"+{if item.here} aria-current=\"page\"+{end}>+{item.label}</a>
      +{end}
    </nav>
  </header>
  <main>
    +{slot}
  </main>
  +{used \"scripts\"}
</body>
</html>
";

/// The style of a new theme.
pub const STYLE: &str = "\
:root { color-scheme: light dark; }
body { max-width: 42rem; margin: 0 auto; padding: 1rem; font: 1.1rem/1.6 Georgia, serif; }
header, header nav { display: flex; flex-wrap: wrap; gap: .5rem 1rem; }
header { justify-content: space-between; }
img { max-width: 100%; height: auto; }
";

/// A layout.
pub const LAYOUT: &str = "\
<!doctype html>
<html lang=\"+{site.language}\">
<head>
  <meta charset=\"utf-8\">
  <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">
  <title>+{request.title} – +{site.title}</title>
  +{if request.robots}
  <meta name=\"robots\" content=\"+{request.robots}\">
  +{end}
  +{used \"styles\"}
</head>
<body>
  <main>
    +{slot}
  </main>
  +{used \"scripts\"}
</body>
</html>
";

/// A partial.
pub(crate) const PARTIAL: &str = "\
---
takes: { text: Something to say }
---
<p>+{text}</p>
";

/// A component's fields.
pub(crate) const COMPONENT: &str = "\
[component]
label = LABEL

[[fields]]
name    = \"heading\"
type    = \"text\"
default = \"A heading\"

[[fields]]
name    = \"text\"
type    = \"rich\"
default = \"Something to *say*.\"
";

/// What a component renders.
pub(crate) const COMPONENT_HTML: &str = "\
<section class=\"NAME\">
  <h2>+{heading}</h2>
  +{text}
</section>
";

/// A component's style.
pub(crate) const COMPONENT_STYLE: &str = ".NAME { margin-block: 1.5rem; }\n";
