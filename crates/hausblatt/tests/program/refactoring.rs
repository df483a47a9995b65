//! A refactoring that is proved to change nothing, and the marks in a build.

use crate::support::{Site, check};
use expect_test::expect;
use serde_json::json;

#[test]
fn a_refactoring_is_proved_to_change_nothing() {
    let site = Site::small();
    check(
        &site,
        &["build", "--dry-run"],
        expect![[r#"
        exit 1
        12 files would be new:
          404.html
          home/index.html
          index.html
          journal/beans/index.html
          journal/boats/index.html
          journal/frost/index.html
          journal/index.html
          journal/page/2/index.html
          robots.txt
          sitemap.xml
          visit/index.html
          visit/opening/index.html

        0 files would stay as they are. Nothing was written.
    "#]],
    );
    assert!(!site.path("built").exists());
    assert_eq!(site.run(&["build", "-q"]).code, 0);
    check(
        &site,
        &["build", "--diff"],
        expect![[r#"
        exit 0
        Nothing would change: ./built is what a build would make, to the byte.
    "#]],
    );
    // The same by another file.
    site.write("themes/far/partials/title.html", "page +{content.title}\n");
    site.write("themes/far/templates/page.html", "+{partial \"title\"}\n");
    assert_eq!(site.run(&["build", "--dry-run"]).code, 0);
    site.write("themes/far/templates/page.html", "+{partial \"title\"}   \n");
    site.write("themes/far/templates/listing.html", "list\n");
    site.remove("content/pages/visit/opening.md");
    site.write("content/pages/new.md", "New.\n");
    site.write("media/seal.bin", [0u8, 255]);
    let before = site.tree("built");
    check(
        &site,
        &["build", "--diff"],
        expect![[r#"
            exit 1
            3 files would change:
              journal/index.html
            --- before journal/index.html
            +++ after journal/index.html
            @@ -1 +1 @@
            -[fallback Journal]
            \ No newline at end of file
            +[list]
            \ No newline at end of file
              journal/page/2/index.html
            --- before journal/page/2/index.html
            +++ after journal/page/2/index.html
            @@ -1 +1 @@
            -[fallback Journal]
            \ No newline at end of file
            +[list]
            \ No newline at end of file
              sitemap.xml
            --- before sitemap.xml
            +++ after sitemap.xml
            @@ -22,9 +22,9 @@
                 <loc>https://seeds.example/journal/page/2/</loc>
               </url>
               <url>
            -    <loc>https://seeds.example/visit/</loc>
            +    <loc>https://seeds.example/new/</loc>
               </url>
               <url>
            -    <loc>https://seeds.example/visit/opening/</loc>
            +    <loc>https://seeds.example/visit/</loc>
               </url>
             </urlset>

            2 files would change in white space only:
              index.html
            --- before index.html
            +++ after index.html
            @@ -1 +1 @@
            -[page Home]
            \ No newline at end of file
            +[page Home   ]
            \ No newline at end of file
              visit/index.html
            --- before visit/index.html
            +++ after visit/index.html
            @@ -1 +1 @@
            -[page Visit]
            \ No newline at end of file
            +[page Visit   ]
            \ No newline at end of file

            2 files would be new:
              media/seal.bin
              new/index.html
            --- before new/index.html
            +++ after new/index.html
            @@ -0,0 +1 @@
            +[page New   ]
            \ No newline at end of file

            1 file would go:
              visit/opening/index.html
            --- before visit/opening/index.html
            +++ after visit/opening/index.html
            @@ -1 +0,0 @@
            -[page Opening]
            \ No newline at end of file

            6 files would stay as they are. Nothing was written.
        "#]],
    );
    let told = site.json(&["build", "--dry-run"]);
    assert_eq!(
        (&told["written"], &told["removed"], &told["white_space"], &told["unchanged"]),
        (&json!(7), &json!(1), &json!(2), &json!(6))
    );
    assert_eq!(told["changes"][0], json!({ "path": "index.html", "change": "white-space" }));
    assert_eq!(site.tree("built"), before, "nothing was written");
    assert_eq!(site.run(&["build", "-q"]).code, 0);
    assert_eq!(site.run(&["build", "--diff"]).code, 0);
    // An error is reported as in a build, and the earlier file would stay.
    site.write("themes/far/templates/page.html", "+{partial \"titel\"}\n");
    check(
        &site,
        &["build", "--dry-run"],
        expect![[r#"
            exit 1
            1 file would change:
              sitemap.xml

            9 files would stay as they are. Nothing was written.
            ---
            error    unknown partial "titel"
                     themes/far/templates/page.html:1:11
                 1 | +{partial "titel"}
                               ‾‾‾‾‾‾‾
                     → did you mean "title"?                                 unknown-partial

            not built: / has errors; what an earlier build put there stays
            not built: /new/ has errors; what an earlier build put there stays
            not built: /visit/ has errors; what an earlier build put there stays
        "#]],
    );
}

#[test]
fn marks_in_a_build() {
    let site = Site::small();
    assert_eq!(site.run(&["build", "--marks", "-q"]).code, 0);
    assert_eq!(
        site.read("built/visit/index.html"),
        "<!-- + themes/far/layouts/document.html -->[<!-- + themes/far/templates/page.html -->page Visit\
         <!-- - themes/far/templates/page.html -->]<!-- - themes/far/layouts/document.html -->"
    );
    // A build without them is another build.
    assert_eq!(site.run(&["build", "--dry-run"]).code, 1);
    assert_eq!(site.run(&["build", "-q"]).code, 0);
    assert_eq!(site.read("built/visit/index.html"), "[page Visit]");
}
