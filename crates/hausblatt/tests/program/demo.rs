//! The demo, whole: its tour, its map, one of its pages, and the help texts.

use crate::support::{Site, without_time};
use expect_test::expect;

#[test]
fn the_tour() {
    let site = Site::empty();
    expect![[r#"
        exit 0
        The Marrow Lane Seed Library: 165 files written into seeds.
        Built 134 pages; open seeds/built/index.html in a browser.
        Its theme is harbour over hedgerow over loam: each is a child of the next.

        1. Which file renders this entry, and why not the one I wrote?
        $ hausblatt --site seeds resolve /varieties/scarlet-runner/

        /varieties/scarlet-runner/  →  200
        entry of varieties · content/varieties/scarlet-runner.md

           rung                                 harbour   hedgerow    loam
        1  entry/varieties/scarlet-runner.html     ·         ·         ·
        2  entry/varieties.html                    ·         ■         □
        3  entry.html                              □         ·         ·
        4  fallback.html                           ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/hedgerow/templates/entry/varieties.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      card/varieties → card (loam), footer (loam), header (harbour),
                  menu (loam), month (hedgerow), sowing (hedgerow),
                  prepare all (hedgerow)

        harbour's entry.html is passed over: hedgerow has the more specific
        entry/varieties.html.

        To change this page only:  hausblatt override /varieties/scarlet-runner/ --only
        To change all varieties:   hausblatt override /varieties/scarlet-runner/

        The name decides before the theme does: the first name on the ladder that any
        theme has wins, and of the themes that have it, the nearest. So harbour's
        general entry.html loses to hedgerow's specific entry/varieties.html.

        2. And a page for which an editor chose a template?
        $ hausblatt --site seeds resolve /visit/opening/

        /visit/opening/  →  200
        page · content/pages/visit/opening.md

           rung                       harbour   hedgerow    loam
        1  offered/no-aside.html         ·         ■         ·
        2  page/visit/opening.html       ·         ·         ·
        3  page/visit/all_below.html     ·         □         ·
        4  page.html                     ·         ·         □
        5  fallback.html                 ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/hedgerow/templates/offered/no-aside.html
        extends   themes/hedgerow/templates/page/visit/all_below.html
        extends   themes/loam/templates/page.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      crumbs (loam), footer (loam), gate (hedgerow), header (harbour),
                  menu (loam), prepare all (hedgerow)

        To change all that chose this template:  hausblatt override /visit/opening/

        Its front matter says "template: no-aside", so offered/no-aside.html comes
        first. That file holds three lines: it extends what would have rendered the
        page without it, and only empties one slot.

        3. What does a wrong address get?
        $ hausblatt --site seeds resolve /varieties/scarlet-runer/

        /varieties/scarlet-runer/  →  404
        error: nothing is at this address · content/pages/lost.md

           rung            harbour   hedgerow    loam
        1  error/404.html     ·         ■         ·
        2  error/4xx.html     ·         ·         ·
        3  error.html         ·         ·         □
        4  fallback.html      ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/hedgerow/templates/error/404.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      footer (loam), header (harbour), menu (loam), prepare all (hedgerow)

        The nearest addresses that exist:
          /varieties/scarlet-runner/  Scarlet Runner

        Errors have a ladder too, and their status is always the true one.

        Now try:
          hausblatt --site seeds map
              all 134 addresses and their files
          hausblatt --site seeds files
              every theme file, what it renders and what it covers
          hausblatt --site seeds reach partials/card
              what an edit of this file would affect
          hausblatt --site seeds suppose --without entry
              what would render instead if this file did not exist
          hausblatt --site seeds build
              the whole site; what is unchanged is not written
          hausblatt --site seeds serve
              the site in a browser, live, with what made each page

        Then give one page a file of its own, edit that, and see what has changed:
          hausblatt --site seeds override /varieties/scarlet-runner/ --only
          hausblatt --site seeds build --diff
    "#]]
    .assert_eq(&without_time(&site.run(&["demo", "seeds"]).whole()));
}

#[test]
fn the_map() {
    expect![[r#"
        exit 0
        /                                  200  front    front.html                   harbour
        /about/                            200  page     page/about.html              harbour
        /borrow/                           200  page     page.html                    loam
        /borrow/how-it-works/              200  page     page.html                    loam
        /borrow/returning-seed/            200  page     page.html                    loam
        /borrow/returning-seed/drying/     200  page     page.html                    loam
        /borrow/returning-seed/labelling/  200  page     page.html                    loam
        /calendar/                         200  route    route/calendar.html          hedgerow
        /calendar/april/                   200  route    route/month.html             hedgerow
        /calendar/august/                  200  route    route/month.html             hedgerow
        /calendar/december/                200  route    route/month.html             hedgerow
        /calendar/february/                200  route    route/month.html             hedgerow
        /calendar/january/                 200  route    route/month.html             hedgerow
        /calendar/july/                    200  route    route/month.html             hedgerow
        /calendar/june/                    200  route    route/month.html             hedgerow
        /calendar/march/                   200  route    route/month.html             hedgerow
        /calendar/may/                     200  route    route/month.html             hedgerow
        /calendar/november/                200  route    route/month.html             hedgerow
        /calendar/october/                 200  route    route/month.html             hedgerow
        /calendar/september/               200  route    route/month.html             hedgerow
        /coming/                           200  page     page/coming.html             hedgerow
        /families/                         200  page     page/families.html           hedgerow
        /families/alliums/                 200  listing  listing/family.html          hedgerow
        /families/beets/                   200  listing  listing/family.html          hedgerow
        /families/cabbages/                200  listing  listing/family.html          hedgerow
        /families/daisies/                 200  listing  listing/family.html          hedgerow
        /families/flowers/                 200  listing  listing/family.html          hedgerow
        /families/fruits/                  200  listing  listing/family.html          hedgerow
        /families/gourds/                  200  listing  listing/family.html          hedgerow
        /families/leaves/                  200  listing  listing/family.html          hedgerow
        /families/legumes/                 200  listing  listing/family.html          hedgerow
        /families/nightshades/             200  listing  listing/family.html          hedgerow
        /families/pods/                    200  listing  listing/family.html          hedgerow
        /families/roots/                   200  listing  listing/family.html          hedgerow
        /growers/                          200  page     page/growers.html            hedgerow
        /growers/ida-marlow/               200  page     page/growers/all_below.html  hedgerow
        /growers/petra-quince/             200  page     page/growers/all_below.html  hedgerow
        /growers/tobias-fenn/              200  page     page/growers/all_below.html  hedgerow
        /hours/                            301           → /visit/opening/
        /journal/                          200  listing  listing/journal.html         harbour
        /journal/2025/                     200  period   period.html                  hedgerow
        /journal/2025/11/                  200  period   period.html                  hedgerow
        /journal/2025/12/                  200  period   period.html                  hedgerow
        /journal/2026/                     200  period   period.html                  hedgerow
        /journal/2026/01/                  200  period   period.html                  hedgerow
        /journal/2026/02/                  200  period   period.html                  hedgerow
        /journal/2026/03/                  200  period   period.html                  hedgerow
        /journal/2026/04/                  200  period   period.html                  hedgerow
        /journal/2026/05/                  200  period   period.html                  hedgerow
        /journal/2026/07/                  200  period   period.html                  hedgerow
        /journal/2026/08/                  200  period   period.html                  hedgerow
        /journal/2026/10/                  200  period   period.html                  hedgerow
        /journal/2026/page/2/              200  period   period.html                  hedgerow
        /journal/borrowed-and-back/        200  entry    entry.html                   harbour
        /journal/drawer-forty/             200  entry    entry.html                   harbour
        /journal/feed.xml                  200  listing  built in
        /journal/ferry-timetable/          200  entry    entry.html                   harbour
        /journal/first-frost/              200  entry    entry.html                   harbour
        /journal/first-tomatoes/           200  entry    entry.html                   harbour
        /journal/labels-again/             200  entry    entry.html                   harbour
        /journal/open-beds/                200  entry    entry.html                   harbour
        /journal/page/2/                   200  listing  listing/journal.html         harbour
        /journal/quilt-weather/            200  entry    entry.html                   harbour
        /journal/runner-beans-up/          200  entry    entry.html                   harbour
        /journal/the-long-table/           200  entry    entry.html                   harbour
        /open-day/                         200  page     offered/bare.html            hedgerow
        /robots.txt                        200           built in
        /search/                           200  search   search.html                  hedgerow
        /sitemap.xml                       200           built in
        /varieties/                        200  listing  listing/varieties.html       hedgerow
        /varieties/bellfounder/            200  entry    entry/varieties.html         hedgerow
        /varieties/bellfounder/print/      200  entry    entry/varieties.print.html   hedgerow
        /varieties/candle-ring/            200  entry    entry/varieties.html         hedgerow
        /varieties/candle-ring/print/      200  entry    entry/varieties.print.html   hedgerow
        /varieties/copper-kettle/          200  entry    entry/varieties.html         hedgerow
        /varieties/copper-kettle/print/    200  entry    entry/varieties.print.html   hedgerow
        /varieties/crooked-heart/          200  entry    entry/varieties.html         hedgerow
        /varieties/crooked-heart/print/    200  entry    entry/varieties.print.html   hedgerow
        /varieties/dusk-fan/               200  entry    entry/varieties.html         hedgerow
        /varieties/dusk-fan/print/         200  entry    entry/varieties.print.html   hedgerow
        /varieties/ferry-flag/             200  entry    entry/varieties.html         hedgerow
        /varieties/ferry-flag/print/       200  entry    entry/varieties.print.html   hedgerow
        /varieties/frost-ruffle/           200  entry    entry/varieties.html         hedgerow
        /varieties/frost-ruffle/print/     200  entry    entry/varieties.print.html   hedgerow
        /varieties/grey-shingle/           200  entry    entry/varieties.html         hedgerow
        /varieties/grey-shingle/print/     200  entry    entry/varieties.print.html   hedgerow
        /varieties/harbour-light/          200  entry    entry/varieties.html         hedgerow
        /varieties/harbour-light/print/    200  entry    entry/varieties.print.html   hedgerow
        /varieties/lamplighter/            200  entry    entry/varieties.html         hedgerow
        /varieties/lamplighter/print/      200  entry    entry/varieties.print.html   hedgerow
        /varieties/lantern-bean/           200  entry    entry/varieties.html         hedgerow
        /varieties/lantern-bean/print/     200  entry    entry/varieties.print.html   hedgerow
        /varieties/moon-boat/              200  entry    entry/varieties.html         hedgerow
        /varieties/moon-boat/print/        200  entry    entry/varieties.print.html   hedgerow
        /varieties/night-heron/            200  entry    entry/varieties.html         hedgerow
        /varieties/night-heron/print/      200  entry    entry/varieties.print.html   hedgerow
        /varieties/old-mooring/            200  entry    entry/varieties.html         hedgerow
        /varieties/old-mooring/print/      200  entry    entry/varieties.print.html   hedgerow
        /varieties/page/2/                 200  listing  listing/varieties.html       hedgerow
        /varieties/plum-lane/              200  entry    entry/varieties.html         hedgerow
        /varieties/plum-lane/print/        200  entry    entry/varieties.print.html   hedgerow
        /varieties/red-curtain/            200  entry    entry/varieties.html         hedgerow
        /varieties/red-curtain/print/      200  entry    entry/varieties.print.html   hedgerow
        /varieties/ropewalk/               200  entry    entry/varieties.html         hedgerow
        /varieties/ropewalk/print/         200  entry    entry/varieties.print.html   hedgerow
        /varieties/scarlet-runner/         200  entry    entry/varieties.html         hedgerow
        /varieties/scarlet-runner/print/   200  entry    entry/varieties.print.html   hedgerow
        /varieties/slate-roof/             200  entry    entry/varieties.html         hedgerow
        /varieties/slate-roof/print/       200  entry    entry/varieties.print.html   hedgerow
        /varieties/sugar-ribbon/           200  entry    entry/varieties.html         hedgerow
        /varieties/sugar-ribbon/print/     200  entry    entry/varieties.print.html   hedgerow
        /varieties/sun-kettle/             200  entry    entry/varieties.html         hedgerow
        /varieties/sun-kettle/print/       200  entry    entry/varieties.print.html   hedgerow
        /varieties/tall-signal/            200  entry    entry/varieties.html         hedgerow
        /varieties/tall-signal/print/      200  entry    entry/varieties.print.html   hedgerow
        /varieties/tidewrack/              200  entry    entry/varieties.html         hedgerow
        /varieties/tidewrack/print/        200  entry    entry/varieties.print.html   hedgerow
        /varieties/winter-quilt/           200  entry    entry/varieties.html         hedgerow
        /varieties/winter-quilt/print/     200  entry    entry/varieties.print.html   hedgerow
        /visit/                            200  page     page/visit.html              hedgerow
        /visit/access/                     200  page     offered/no-aside.html        hedgerow
        /visit/find-us/                    200  page     page/visit/all_below.html    hedgerow
        /visit/find-us/by-water/           200  page     page/visit/all_below.html    hedgerow
        /visit/find-us/on-foot/            200  page     page/visit/all_below.html    hedgerow
        /visit/opening/                    200  page     offered/no-aside.html        hedgerow
        /welcome/                          301           → /
        /workshops/                        200  listing  listing/workshops.html       hedgerow
        /workshops/grafting/               200  entry    entry.html                   harbour
        /workshops/hand-pollination/       200  entry    entry.html                   harbour
        /workshops/plaiting-onions/        200  entry    entry.html                   harbour
        /workshops/seed-cleaning/          200  entry    entry.html                   harbour
        /workshops/sowing-indoors/         200  entry    entry.html                   harbour
        /workshops/wet-seed/               200  entry    entry.html                   harbour
        /404.html                          404  error    error/404.html               hedgerow
    "#]]
    .assert_eq(&Site::demo().run(&["map"]).whole());
}

#[test]
fn a_page() {
    expect![[r##"
        exit 0
        <!doctype html>
        <html lang="en">
        <head>
          <meta charset="utf-8">
          <meta name="viewport" content="width=device-width, initial-scale=1">
          <title>Visit – Marrow Lane Seed Library</title>
          <link rel="stylesheet" href="/assets/loam.css?v=fe8e60a7d44e">
            <link rel="stylesheet" href="/assets/hedgerow.css?v=82e741eccbb0">
          <link rel="stylesheet" href="/assets/harbour.css?v=f6d2cd9b7de5">
          <link rel="icon" href="/assets/icon.svg?v=1b20a6997779" type="image/svg+xml">
          <link rel="alternate" type="application/atom+xml" title="Journal" href="/journal/feed.xml">

          <link rel="stylesheet" href="/assets/components/notice/style.css?v=5c959239bede">
        <link rel="stylesheet" href="/assets/components/split-panel/style.css?v=a89af656c8eb">
        </head>
        <body class="page visit">

          <a class="skip" href="#main">Skip to content</a>
        <header class="site">
          <a class="name" href="/"><img src="/assets/icon.svg?v=1b20a6997779" alt="" width="40" height="40"> Marrow Lane Seed Library</a>
          <nav class="menu" aria-label="Main">
          <ul>
            <li><a href="/varieties/">Varieties</a></li>
            <li><a href="/borrow/">Borrow</a></li>
            <li><a href="/workshops/">Workshops</a></li>
            <li><a href="/journal/">Journal</a></li>
            <li><a href="/visit/" aria-current="page">Visit</a></li>
            <li><a href="/growers/">Growers</a></li>
          </ul>
        </nav>
        </header>
          <main id="main">
            <article class="text">
          <h1>Visit</h1>
          <p>The library is two rooms and a yard behind the old sail loft. You can look at everything, open most drawers, and sit down.</p>
        <h2 id="before-you-come">Before you come</h2>
        <p>Bring the envelope you borrowed, and a pencil. In the growing season we are out in the beds on weekday mornings.</p>

          <div class="notice" role="note"><p>The library is closed on frost days.</p>
        </div>
        <section class="split-panel">
          <div>
            <h2>Two beds, one path</h2>
            <p>Behind the house the borrowed kinds grow beside the returned ones. The <a href="/open-day/">open day</a> shows both.</p>

          </div>
          <img src="/media/beds.svg?v=fff7aca924bb" alt="Two garden beds with a path between them" width="320" height="240" loading="lazy">
        </section>

            <h2>Coming up</h2>
          <ul class="dates">
            <li><a class="date-slip" href="/workshops/seed-cleaning/">
          <time datetime="2026-12-05"><b>5</b> Dec 2026</time>
          <span><strong>Cleaning seed with sieve and wind</strong><br>Sorting room, 14:00</span>
        </a></li>
            <li><a class="date-slip" href="/workshops/grafting/">
          <time datetime="2027-01-23"><b>23</b> Jan 2027</time>
          <span><strong>Grafting on a kitchen table</strong><br>Sorting room, 10:00</span>
        </a></li>
            <li><a class="date-slip" href="/workshops/sowing-indoors/">
          <time datetime="2027-02-20"><b>20</b> Feb 2027</time>
          <span><strong>Sowing indoors</strong><br>Glasshouse, 10:00</span>
        </a></li>
          </ul>

        </article>

            <aside>
                <nav aria-labelledby="aside-title">
            <h2 id="aside-title"><a href="/visit/">Visit</a></h2>
            <ul>
              <li><a href="/visit/opening/">Opening hours</a></li>
              <li><a href="/visit/find-us/">Getting here</a></li>
              <li><a href="/visit/access/">Access for everyone</a></li>
            </ul>
          </nav>

            </aside>
          </main>
          <footer class="site">
          <nav class="menu" aria-label="More">
          <ul>
            <li><a href="/visit/opening/">Opening hours</a></li>
            <li><a href="/families/">Plant families</a></li>
            <li><a href="/calendar/">Sowing calendar</a></li>
            <li><a href="/coming/">To come</a></li>
            <li><a href="/search/">Search</a></li>
            <li><a href="/borrow/returning-seed/">Returning seed</a></li>
            <li><a href="/about/">About this demo</a></li>
          </ul>
        </nav>
          <p>Marrow Lane Seed Library, since 1987. Borrow in spring, return in autumn.</p>
        </footer>
        </body>
        </html>
    "##]].assert_eq(&Site::demo().run(&["render", "/visit/"]).whole());
}

#[test]
fn a_page_with_a_chosen_template() {
    expect![[r#"
        exit 0
        /visit/opening/  →  200
        page · content/pages/visit/opening.md

           rung                       harbour   hedgerow    loam
        1  offered/no-aside.html         ·         ■         ·
        2  page/visit/opening.html       ·         ·         ·
        3  page/visit/all_below.html     ·         □         ·
        4  page.html                     ·         ·         □
        5  fallback.html                 ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/hedgerow/templates/offered/no-aside.html
        extends   themes/hedgerow/templates/page/visit/all_below.html
        extends   themes/loam/templates/page.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      crumbs (loam), footer (loam), gate (hedgerow), header (harbour),
                  menu (loam), prepare all (hedgerow)

        To change all that chose this template:  hausblatt override /visit/opening/

        /visit/find-us/  →  200
        page · content/pages/visit/getting-here.md

           rung                          harbour   hedgerow    loam
        1  page/visit/getting-here.html     ·         ·         ·
        2  page/visit/all_below.html        ·         ■         ·
        3  page.html                        ·         ·         □
        4  fallback.html                    ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/hedgerow/templates/page/visit/all_below.html
        extends   themes/loam/templates/page.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      crumbs (loam), footer (loam), gate (hedgerow), header (harbour),
                  menu (loam), prepare all (hedgerow)

        Its id is visit/getting-here, not visit/find-us: a template of its own is
        called page/visit/getting-here.html; page/visit/find-us.html would never be
        looked for here.

        To change this page only:         hausblatt override /visit/find-us/ --only
        To change all pages below visit:  hausblatt override /visit/find-us/
    "#]]
    .assert_eq(&Site::demo().run(&["resolve", "/visit/opening/", "/visit/find-us/"]).whole());
}

#[test]
fn a_wrong_address() {
    expect![[r#"
        exit 1
        /visit/openning/  →  404
        error: nothing is at this address · content/pages/lost.md

           rung            harbour   hedgerow    loam
        1  error/404.html     ·         ■         ·
        2  error/4xx.html     ·         ·         ·
        3  error.html         ·         ·         □
        4  fallback.html      ·         ·         □
            ■ renders   □ passed over   · no file
        renders   themes/hedgerow/templates/error/404.html
        inside    themes/harbour/layouts/document.html
        extends   themes/hedgerow/layouts/document.html
        extends   themes/loam/layouts/document.html
        uses      footer (loam), header (harbour), menu (loam), prepare all (hedgerow)

        The nearest addresses that exist:
          /visit/opening/  Opening hours
    "#]]
    .assert_eq(&Site::demo().run(&["resolve", "/visit/openning/"]).whole());
    expect![[r##"
        exit 1
        <!doctype html>
        <html lang="en">
        <head>
          <meta charset="utf-8">
          <meta name="viewport" content="width=device-width, initial-scale=1">
          <title>This drawer is empty – Marrow Lane Seed Library</title>
          <meta name="robots" content="noindex">
          <link rel="stylesheet" href="/assets/loam.css?v=fe8e60a7d44e">
            <link rel="stylesheet" href="/assets/hedgerow.css?v=82e741eccbb0">
          <link rel="stylesheet" href="/assets/harbour.css?v=f6d2cd9b7de5">
          <link rel="icon" href="/assets/icon.svg?v=1b20a6997779" type="image/svg+xml">
          <link rel="alternate" type="application/atom+xml" title="Journal" href="/journal/feed.xml">

        </head>
        <body class="error">

          <a class="skip" href="#main">Skip to content</a>
        <header class="site">
          <a class="name" href="/"><img src="/assets/icon.svg?v=1b20a6997779" alt="" width="40" height="40"> Marrow Lane Seed Library</a>
          <nav class="menu" aria-label="Main">
          <ul>
            <li><a href="/varieties/">Varieties</a></li>
            <li><a href="/borrow/">Borrow</a></li>
            <li><a href="/workshops/">Workshops</a></li>
            <li><a href="/journal/">Journal</a></li>
            <li><a href="/visit/" aria-current="true">Visit</a></li>
            <li><a href="/growers/">Growers</a></li>
          </ul>
        </nav>
        </header>
          <main id="main">
            <article class="text">
          <h1>This drawer is empty</h1>
          <p>Nothing is kept at this address. Perhaps it was borrowed, and is not back yet.</p>

          <p class="under-title">Asked for: <code>/visit/openning/</code></p>
          <h2>Perhaps you meant</h2>
          <ul>
            <li><a href="/visit/opening/">Opening hours</a></li>
          </ul>
          <p>Or look through <a href="/varieties/">all varieties</a>.</p>
        </article>
          </main>
          <footer class="site">
          <nav class="menu" aria-label="More">
          <ul>
            <li><a href="/visit/opening/">Opening hours</a></li>
            <li><a href="/families/">Plant families</a></li>
            <li><a href="/calendar/">Sowing calendar</a></li>
            <li><a href="/coming/">To come</a></li>
            <li><a href="/search/">Search</a></li>
            <li><a href="/borrow/returning-seed/">Returning seed</a></li>
            <li><a href="/about/">About this demo</a></li>
          </ul>
        </nav>
          <p>Marrow Lane Seed Library, since 1987. Borrow in spring, return in autumn.</p>
        </footer>
        </body>
        </html>
        ---
        note: /visit/openning/ answers with 404; did you mean /visit/opening/?
    "##]].assert_eq(&Site::demo().run(&["render", "/visit/openning/"]).whole());
}

#[test]
fn another_theme() {
    let demo = Site::demo();
    expect![[r#"
        exit 0
        /  →  200
        front · content/pages/welcome.md

           rung               loam
        1  front.html          ·
        2  page/welcome.html   ·
        3  page.html           ■
        4  fallback.html       □
            ■ renders   □ passed over   · no file
        renders   themes/loam/templates/page.html
        inside    themes/loam/layouts/document.html
        uses      crumbs (loam), footer (loam), header (loam), menu (loam)

        To change the front only:  hausblatt override / --only --theme loam

        /varieties/scarlet-runner/  →  200
        entry of varieties · content/varieties/scarlet-runner.md

           rung                                 loam
        1  entry/varieties/scarlet-runner.html   ·
        2  entry/varieties.html                  ■
        3  entry.html                            ·
        4  fallback.html                         □
            ■ renders   □ passed over   · no file
        renders   themes/loam/templates/entry/varieties.html
        inside    themes/loam/layouts/document.html
        uses      footer (loam), header (loam), menu (loam)

        To change this page in all its views:
          hausblatt override /varieties/scarlet-runner/ --as entry/varieties/scarlet-runner --theme loam
        To change all varieties:
          edit themes/loam/templates/entry/varieties.html
    "#]]
    .assert_eq(&demo.run(&["resolve", "/", "/varieties/scarlet-runner/", "--theme", "loam"]).whole());
    assert_eq!(demo.run(&["build", "--theme", "loam", "--out", "loam-built"]).code, 0);
    assert_eq!(demo.run(&["build", "--theme", "hedgerow", "--out", "hedgerow-built"]).code, 0);
}

#[test]
fn colours() {
    let site = Site::small();
    let said = site.run(&["resolve", "/visit/", "--color", "always"]);
    assert!(said.out.contains("\u{1b}[32m200\u{1b}[0m"), "{}", said.out);
    let plain = site.run(&["resolve", "/visit/", "--color", "never"]);
    let mut without = String::new();
    let mut rest = said.out.as_str();
    while let Some((before, behind)) = rest.split_once('\u{1b}') {
        without.push_str(before);
        rest = behind.split_once('m').unwrap().1;
    }
    without.push_str(rest);
    assert_eq!(without, plain.out);
}

#[test]
fn control_characters_do_not_reach_the_terminal() {
    let site = Site::small();
    site.write("themes/far/templates/page/visit.html", "\u{9b}31m \u{1b}[31m +{nope}");
    let said = site.run(&["render", "/visit/"]);
    assert!(said.code == 1 && !said.err.contains(['\u{1b}', '\u{9b}']), "{}", said.whole());
    let said = site.run(&["resolve", "/a\u{1b}[31m/", "/b%1b/"]);
    assert!(!said.out.contains('\u{1b}') && !said.err.contains('\u{1b}'), "{}", said.whole());
}
