//! The escaping table, row by row: what each place prints, and what it refuses.

use crate::support::{Files, check, template, written};

/// What is said of a template, without its help.
fn said(text: &str) -> String {
    template(text).lines().next().unwrap_or("").split(" | ").next().unwrap_or("").to_owned()
}

#[track_caller]
fn refuse(cases: &[(&str, &str)]) {
    let wrong: Vec<String> = cases
        .iter()
        .filter(|(text, expected)| said(text) != *expected)
        .map(|(text, expected)| format!("template {text:?}\n expected {expected:?}\n    found {:?}", said(text)))
        .collect();
    assert!(wrong.is_empty(), "{} of {} cases differ\n{}", wrong.len(), cases.len(), wrong.join("\n"));
}

#[track_caller]
fn dropped(text: &str) {
    let found = template(text);
    assert!(found.contains("about:invalid") && found.contains("unsafe-address"), "{text}: {found}");
}

#[test]
fn text() {
    check(&[
        ("+{'<&>'}+{'\"'}+{\"'\"}", "&lt;&amp;&gt;&quot;&#39;"),
        ("<noscript>+{'<b>'}</noscript>", "<noscript>&lt;b&gt;</noscript>"),
        ("<template>+{'<b>'}</template>", "<template>&lt;b&gt;</template>"),
        ("<svg><text>+{'<b>'}</text></svg>", "<svg><text>&lt;b&gt;</text></svg>"),
        ("<math><mi>+{'<b>'}</mi></math>", "<math><mi>&lt;b&gt;</mi></math>"),
        ("+{'a\\u{0}b\\u{d}c'}", "a\u{FFFD}b&#13;c"),
        ("<p>+{html}</p>", "<p><b>bold</b> &amp; free</p>"),
        ("<pre>+{'\\na'}</pre>", "<pre>\n\na</pre>"),
        ("<pre>+{''}+{'\\na'}</pre>", "<pre>\n\na</pre>"),
        ("<pre class=\"x\">+{'a\\nb'}</pre>", "<pre class=\"x\">a\nb</pre>"),
        ("<pre>x+{'\\na'}</pre>", "<pre>x\na</pre>"),
        ("<pre>+{'x'}+{'\\na'}</pre>", "<pre>x\na</pre>"),
        ("<pre>+{let x = 1}+{if x}+{'\\na'}+{end}</pre>", "<pre>\n\na</pre>"),
        ("<textarea>+{'\\na'}</textarea>", "<textarea>\n\na</textarea>"),
        ("<textarea> +{'\\na'}</textarea>", "<textarea> \na</textarea>"),
        ("<p>+{'\\na'}</p>", "<p>\na</p>"),
    ]);
}

#[test]
fn title_and_textarea() {
    check(&[
        ("<title>+{'</title><b>'}</title>", "<title>&lt;/title&gt;&lt;b&gt;</title>"),
        ("<title>+{html}</title>", "<title>bold &amp; free</title>"),
        ("<textarea>+{html}</textarea>", "<textarea>bold &amp; free</textarea>"),
        ("<TITLE>+{'<'}</TITLE >", "<TITLE>&lt;</TITLE >"),
        ("<title></titles>+{'<'}</title>", "<title></titles>&lt;</title>"),
    ]);
    refuse(&[
        ("<title><+{wild}</title>", "t:1:9 unsafe-place no value is safe directly after \"<\" here"),
        (
            "<svg><title><a href=\"+{wild}\"></title></svg>",
            "t:1:22 unsafe-place no value is safe in <title> after a tag",
        ),
        (
            "<title>+{each p in peas}+{p.title}<+{end}</title>",
            "t:1:8 unsafe-place the loop's body ends in <title>, where it cuts the HTML in two",
        ),
    ]);
}

#[test]
fn attributes() {
    check(&[
        (
            "<p class=\"a +{wild} b\">",
            "<p class=\"a &quot;&gt;&lt;script&gt;alert(&#39;x&#39;)&lt;/script&gt;&amp; b\">",
        ),
        ("<p class='+{wild}'>", "<p class='&quot;&gt;&lt;script&gt;alert(&#39;x&#39;)&lt;/script&gt;&amp;'>"),
        ("<p title=\"+{html}\">", "<p title=\"bold &amp; free\">"),
        ("<p title=\"+{nothing}\">", "<p>"),
        ("<p title=\"+{false}\">", "<p title=\"false\">"),
        ("<img alt=\"+{nothing}\">", "<img alt=\"\">"),
        ("<p hidden=\"+{'yes'}\">", "<p hidden>"),
        ("<p hidden=\"+{nothing}\">", "<p>"),
        ("<input checked=\"+{[]}\">", "<input>"),
        ("<p data-x=\"+{1.50}\">", "<p data-x=\"1.5\">"),
        ("<p id=\"bed-+{1}\">", "<p id=\"bed-1\">"),
        (
            "<a name=\"+{'x'}\">",
            "<a name=\"x\">\nt:1:10 bare-id this name is made of a value alone, which can name anything on the page | put a literal prefix in front of the value",
        ),
        ("<meta name=\"x\" content=\"+{'a;b'}\">", "<meta name=\"x\" content=\"a;b\">"),
        ("<p title=\"+{slot 'x' else}a < b+{end}\">", "<p title=\"a < b\">"),
    ]);
    refuse(&[
        (
            "<p onclick=\"+{1}\">",
            "t:1:13 unsafe-place no value is safe in the attribute \"onclick\": it would run as a script",
        ),
        (
            "<p ONCLICK='+{1}'>",
            "t:1:13 unsafe-place no value is safe in the attribute \"onclick\": it would run as a script",
        ),
        (
            "<iframe srcdoc=\"+{1}\">",
            "t:1:17 unsafe-place no value is safe in the attribute \"srcdoc\": it is a whole document of its own",
        ),
        (
            "<a ping=\"+{1}\">",
            "t:1:10 unsafe-place no value is safe in the attribute \"ping\": it decides what the browser does with the page",
        ),
        (
            "<meta http-equiv=\"+{1}\">",
            "t:1:19 unsafe-place no value is safe in the attribute \"http-equiv\": it decides what the browser does with the page",
        ),
        (
            "<iframe sandbox=\"+{1}\">",
            "t:1:18 unsafe-place no value is safe in the attribute \"sandbox\": it decides what the browser does with the page",
        ),
        (
            "<script type=\"+{1}\">",
            "t:1:15 unsafe-place no value is safe in the attribute \"type\": it decides whether a script runs",
        ),
        (
            "<svg><set to=\"+{1}\">",
            "t:1:15 unsafe-place no value is safe in the attribute \"to\": an animation can set any attribute with it",
        ),
        (
            "<svg><animate values=\"+{1}\">",
            "t:1:23 unsafe-place no value is safe in the attribute \"values\": an animation can set any attribute with it",
        ),
        ("<p class=+{1}>", "t:1:10 unsafe-place no value is safe in the value of \"class\" without quotes"),
        ("<p +{1}=\"x\">", "t:1:4 unsafe-place no value is safe in the tag <p>, outside a quoted value"),
        ("<p data-+{1}=\"x\">", "t:1:9 unsafe-place no value is safe in the tag <p>, outside a quoted value"),
        ("<h+{1}>", "t:1:3 unsafe-place no value is safe in a tag's name"),
        ("<!-- +{1} -->", "t:1:6 unsafe-place no value is safe in an HTML comment"),
        ("<!doctype +{1}>", "t:1:11 unsafe-place no value is safe in a declaration such as <!doctype>"),
        ("<![CDATA[ +{1} ]]>", "t:1:11 unsafe-place no value is safe in a CDATA section"),
        ("<iframe>+{1}</iframe>", "t:1:9 unsafe-place no value is safe in <iframe>"),
        ("<noembed>+{1}</noembed>", "t:1:10 unsafe-place no value is safe in <noembed>"),
        ("<noframes>+{1}</noframes>", "t:1:11 unsafe-place no value is safe in <noframes>"),
        ("<xmp>+{1}</xmp>", "t:1:6 unsafe-place no value is safe in <xmp>"),
        (
            "<meta content=\"5; url=+{1}\" http-equiv=\"refresh\">",
            "t:1:29 unsafe-place this http-equiv decides what the browser does with a content that holds a value",
        ),
    ]);
}

#[test]
fn addresses() {
    check(&[
        ("<a href=\"+{'https://seeds.example/?a=1&b=2'}\">", "<a href=\"https://seeds.example/?a=1&amp;b=2\">"),
        ("<a href=\"+{'mailto:a@seeds.example'}\">", "<a href=\"mailto:a@seeds.example\">"),
        ("<a href=\"+{'tel:+4912'}\">", "<a href=\"tel:+4912\">"),
        ("<a href=\"web+seed:+{'x'}\">", "<a href=\"web+seed:x\">"),
        ("<a href=\"/a/+{'b/c d?e#f'}/\">", "<a href=\"/a/b/c%20d%3Fe%23f/\">"),
        ("<a href=\"/a?q=+{'b/c&d=e'}\">", "<a href=\"/a?q=b%2Fc%26d%3De\">"),
        ("<a href=\"#+{'a b'}\">", "<a href=\"#a%20b\">"),
        ("<a href=\"+{'/ä\"<>'}\">", "<a href=\"/%C3%A4%22%3C%3E\">"),
        ("<a href=\"+{'/100%'}\">", "<a href=\"/100%25\">"),
        ("<img alt=\"\" src=\"+{'data:image/png;base64,AA'}\">", "<img alt=\"\" src=\"data:image/png;base64,AA\">"),
        ("<video poster=\"+{'data:image/png,x'}\">", "<video poster=\"data:image/png,x\">"),
        ("<form action=\"+{'/find/'}\">", "<form action=\"/find/\">"),
        ("<form action=\"+{'https://seeds.example/find/'}\">", "<form action=\"https://seeds.example/find/\">"),
        (
            "<script src=\"https://code.example/+{'a.js'}\"></script>",
            "<script src=\"https://code.example/a.js\"></script>",
        ),
        (
            "<link rel=\"canonical\" href=\"+{'https://x.example/'}\">",
            "<link rel=\"canonical\" href=\"https://x.example/\">",
        ),
        ("<a data-href=\"+{'/a b'}\">", "<a data-href=\"/a%20b\">"),
        (
            "<a href=\"+{''}\">",
            "<a href=\"\">\nt:1:12 empty-address this address is empty | print the element only where there is an address, with +{if …} around it",
        ),
        (
            "<a href=\"+{''}+{nothing}\">",
            "<a href=\"\">\nt:1:12 empty-address this address is empty | print the element only where there is an address, with +{if …} around it",
        ),
    ]);
    for text in [
        "<a href=\"+{'javascript:x'}\">",
        "<a href=\"+{'JaVaScRiPt:x'}\">",
        "<a href=\"+{' javascript:x'}\">",
        "<a href=\"+{'\\u{1}javascript:x'}\">",
        "<a href=\"+{'java\\nscript:x'}\">",
        "<a href=\"+{'vbscript:x'}\">",
        "<a href=\"+{'data:text/html,x'}\">",
        "<a href=\"+{'blob:x'}\">",
        "<a href=\"java+{'script:x'}\">",
        "<a href=\"+{'java'}+{'script:x'}\">",
        "<img alt=\"\" src=\"+{'data:text/html,x'}\">",
        "<form action=\"+{'https://x.example/'}\"></form>",
        "<form action=\"+{'//x.example/'}\"></form>",
        "<form action=\"+{'/\\\\x.example/'}\"></form>",
        "<form action=\"/+{'/x.example/'}\"></form>",
        "<button formaction=\"+{'https://x.example/'}\">",
        "<iframe src=\"+{'https://x.example/'}\"></iframe>",
        "<object data=\"+{'//x.example/'}\"></object>",
        "<embed src=\"+{'//x.example/'}\">",
        "<base href=\"+{'//x.example/'}\">",
        "<link rel=\"stylesheet\" href=\"+{'//x.example/'}\">",
        "<link href=\"+{'//x.example/'}\">",
        "<svg><use href=\"+{'//x.example/#a'}\"/></svg>",
        "<svg><use xlink:href=\"+{'data:x'}\"/></svg>",
        "<script src=\"https://code.example+{'.x.example/'}\"></script>",
    ] {
        dropped(text);
    }
    refuse(&[
        ("<a href=\"javascript:+{1}\">", "t:1:21 unsafe-place no value is safe after \"javascript:\""),
        ("<a href=\"data:text/html,+{1}\">", "t:1:25 unsafe-place no value is safe after \"data:\""),
        ("<a href=\"vbscript:+{1}\">", "t:1:19 unsafe-place no value is safe after \"vbscript:\""),
    ]);
}

#[test]
fn lists_of_addresses() {
    check(&[
        (
            "<img alt=\"\" srcset=\"+{'/a b.png'} 1x, +{'/b,.png'} +{2}x\">",
            "<img alt=\"\" srcset=\"/a%20b.png 1x, /b%2C.png 2x\">",
        ),
        ("<img alt=\"\" srcset=\"/m/+{'a,b c'}-480.jpg 480w\">", "<img alt=\"\" srcset=\"/m/a%2Cb%20c-480.jpg 480w\">"),
        ("<img alt=\"\" srcset=\"+{'/a.png'}\">", "<img alt=\"\" srcset=\"/a.png\">"),
        ("<img alt=\"\" srcset=\"+{nothing}\">", "<img alt=\"\">"),
        (
            "<img alt=\"\" srcset=\"+{each n in [1, 2]}/b.png?n=+{n} +{n * 100}w+{between}, +{end}\">",
            "<img alt=\"\" srcset=\"/b.png?n=1 100w, /b.png?n=2 200w\">",
        ),
        (
            "<img alt=\"\" srcset=\"+{each n in ['/a', '/b']}+{n}+{between}, +{end}\">",
            "<img alt=\"\" srcset=\"/a, /b\">",
        ),
        ("<img alt=\"\" srcset=\"+{if true}+{'/a'}+{else}+{'/b'}+{end} 2x\">", "<img alt=\"\" srcset=\"/a 2x\">"),
        ("<link rel=\"preload\" imagesrcset=\"+{'/a.png'} 1x\">", "<link rel=\"preload\" imagesrcset=\"/a.png 1x\">"),
        (
            "<img alt=\"\" srcset=\"/a.png +{'1x, javascript:x'}x\">",
            "<img alt=\"\" srcset=\"/a.png 1x\">\nt:1:30 unsafe-number only a number can be here, not \"1x, javascript:x\"; 1 is printed instead | a text becomes a number with .number",
        ),
        (
            "<img alt=\"\" srcset=\"+{'javascript:x'} 1x\">",
            "<img alt=\"\" srcset=\"about:invalid 1x\">\nt:1:23 unsafe-address the address \"javascript:x\" is not allowed here: its scheme is not one of http, https, mailto and tel",
        ),
    ]);
}

#[test]
fn styles() {
    check(&[
        ("<p style=\"color: +{'red'}; width: +{12.5}px\">", "<p style=\"color: red; width: 12.5px\">"),
        ("<p style=\"--accent: +{'#2f6f4e'}\">", "<p style=\"--accent: #2f6f4e\">"),
        ("<style>a { color: +{'rgb(1, 2, 3)'} }</style>", "<style>a { color: rgb(1, 2, 3) }</style>"),
        (
            "<style>@media (width > 1px) { a:hover { margin: +{1}em +{2}% } }</style>",
            "<style>@media (width > 1px) { a:hover { margin: 1em 2% } }</style>",
        ),
        ("<style>a { &:hover { color: +{'red'} } }</style>", "<style>a { &:hover { color: red } }</style>"),
        ("<style>a { width: calc(1px + +{2}px) }</style>", "<style>a { width: calc(1px + 2px) }</style>"),
        ("<style>@font-face { font-family: +{'Loam'} }</style>", "<style>@font-face { font-family: Loam }</style>"),
        ("<style>@keyframes x { from { top: +{1}px } }</style>", "<style>@keyframes x { from { top: 1px } }</style>"),
        ("<style>/* { */ a { top: +{1}px }</style>", "<style>/* { */ a { top: 1px }</style>"),
        (
            "<style>a::before { content: \"+{'a\"b</style>'}\" }</style>",
            "<style>a::before { content: \"a\\22 b\\3c /style\\3e \" }</style>",
        ),
        ("<p style='content: \"+{'a\"}'}\"'>", "<p style='content: \"a\\22 \\7d \"'>"),
        ("<p style=\"background: url('+{'/a b\\'.png'}')\">", "<p style=\"background: url('/a%20b\\27 .png')\">"),
        (
            "<p style=\"background: url(&quot;/m/+{'a b'}.png&quot;) +{'red'}\">",
            "<p style=\"background: url(&quot;/m/a%20b.png&quot;) red\">",
        ),
        (
            "<style>a { background: url(\"/m/+{'x)\"y'}.png\") }</style>",
            "<style>a { background: url(\"/m/x\\29 %22y.png\") }</style>",
        ),
        (
            "<style>a { color: +{each c in ['red', 'blue']}+{c}+{between}, +{end} }</style>",
            "<style>a { color: red, blue }</style>",
        ),
        ("<p style=\"top: +{nothing}\">", "<p style=\"top: \">"),
        (
            "<p style=\"color: +{'red; background: url(x)'}\">",
            "<p style=\"color: initial\">\nt:1:20 unsafe-style \"red; background: url(x)\" is not a plain CSS value; \"initial\" is printed instead | numbers with units, #hex, words, colours, spaces and commas may be here",
        ),
        (
            "<p style=\"background: url('+{'javascript:x'}')\">",
            "<p style=\"background: url('about:invalid')\">\nt:1:30 unsafe-address the address \"javascript:x\" is not allowed here: its scheme is not one of http, https, mailto and tel",
        ),
    ]);
    refuse(&[
        ("<p style=\"+{1}\">", "t:1:11 unsafe-place no value is safe in a CSS selector or property"),
        ("<p style=\"a+{1}: red\">", "t:1:12 unsafe-place no value is safe in a CSS selector or property"),
        ("<style>+{1} { }</style>", "t:1:8 unsafe-place no value is safe in a CSS selector or property"),
        ("<style>a { +{1}: red }</style>", "t:1:12 unsafe-place no value is safe in a CSS selector or property"),
        ("<style>a { top: 1px; b:+{1} { } }</style>", "t:1:29 unsafe-place a selector can't hold a value"),
        ("<style>@import \"+{1}\";</style>", "t:1:17 unsafe-place no value is safe in a CSS at-rule"),
        ("<style>@media +{1} { }</style>", "t:1:15 unsafe-place no value is safe in a CSS at-rule"),
        ("<style>a { background: url(+{1}) }</style>", "t:1:28 unsafe-place no value is safe in url( without quotes"),
        (
            "<style>a { background: url(/x/+{1}) }</style>",
            "t:1:31 unsafe-place no value is safe in url( without quotes",
        ),
        ("<style>a { top: \\+{1} }</style>", "t:1:18 unsafe-place no value is safe in the middle of an escape"),
        ("<style>/* +{1} */</style>", "t:1:11 unsafe-place no value is safe in a CSS comment"),
        ("<style>a { top: +{1}(2) }</style>", "t:1:21 unsafe-place a function's name can't be a value"),
        ("<p style=\"top: &#3+{1}\">", "t:1:19 unsafe-place no value is safe in the middle of an escape"),
        ("<style>a { top: <+{1} }</style>", "t:1:18 unsafe-place no value is safe directly after \"<\" here"),
        (
            "<p style=\"top: 1px; +{if true}left: +{end}2\">",
            "t:1:21 branches-differ one branch ends in the attribute \"style\" of <p>, the other way in the attribute \"style\" of <p>",
        ),
    ]);
}

#[test]
fn json_scripts() {
    let json = |text: &str| {
        let page = template(&format!("<script type=\"application/json\">{text}</script>"));
        page.strip_prefix("<script type=\"application/json\">")
            .and_then(|page| page.strip_suffix("</script>"))
            .map_or(page.clone(), str::to_owned)
    };
    for (text, expected) in [
        ("+{nothing}", "null"),
        ("+{true}", "true"),
        ("+{1.50}", "1.5"),
        ("+{'a\"\\\\b</script>&\\u{2028}\\u{0}'}", "\"a\\\"\\\\b\\u003c/script\\u003e\\u0026\\u2028\\u0000\""),
        ("+{\"it's\"}", "\"it\\u0027s\""),
        ("+{html}", "\"\\u003cb\\u003ebold\\u003c/b\\u003e \\u0026amp; free\""),
        ("+{first.sown}", "\"2026-03-01\""),
        ("+{[1, 'a', nothing]}", "[1,\"a\",null]"),
        ("+{first}", "{\"title\":\"Tidemark\",\"days\":75,\"families\":[\"legumes\"],\"sown\":\"2026-03-01\"}"),
        (
            "+{(\"</script>\\\"\" = '</script>', a = [(b = '<!--')])}",
            "{\"\\u003c/script\\u003e\\\"\":\"\\u003c/script\\u003e\",\"a\":[{\"b\":\"\\u003c!--\"}]}",
        ),
        ("+{['</script>'] select it + '<'}", "[\"\\u003c/script\\u003e\\u003c\"]"),
        ("{\"a\": +{1}, \"b\": [+{2}, +{3}]}", "{\"a\": 1, \"b\": [2, 3]}"),
        ("{\"a\": \"x +{'\"}'} y\"}", "{\"a\": \"x \\\"} y\"}"),
        ("[+{each p in peas}+{p.title}+{between}, +{end}]", "[\"Tidemark\", \"Cobblestone\", \"Ambler\"]"),
        (
            "[+{each p in peas}{\"t\": +{p.title}}+{between}, +{end}]",
            "[{\"t\": \"Tidemark\"}, {\"t\": \"Cobblestone\"}, {\"t\": \"Ambler\"}]",
        ),
        ("{\"a\": 1+{if true}, \"b\": +{2}+{end}}", "{\"a\": 1, \"b\": 2}"),
    ] {
        assert_eq!(json(text), expected, "{text}");
    }
    check(&[
        (
            "<script type=\"application/ld+json\">+{'<'}</script>",
            "<script type=\"application/ld+json\">\"\\u003c\"</script>",
        ),
        ("<script type=application/json>+{1}</script>", "<script type=application/json>1</script>"),
        ("+{json(['<', 1])}", "[&quot;\\u003c&quot;,1]"),
    ]);
    let open = "<script type=\"application/json\">";
    refuse(&[
        (
            &format!("{open}+{{1}}+{{2}}</script>"),
            "t:1:37 unsafe-place no value is safe in JSON directly after another value",
        ),
        (
            &format!("{open}1+{{2}}</script>"),
            "t:1:34 unsafe-place no value is safe in JSON directly after another value",
        ),
        (
            &format!("{open}+{{1}}0</script>"),
            "t:1:37 unsafe-place a value here is a whole JSON value, with a comma or a bracket after it",
        ),
        (
            &format!("{open}\"\\+{{1}}\"</script>"),
            "t:1:35 unsafe-place no value is safe in the middle of an escape in a JSON string",
        ),
        (
            &format!("{open}\"\\u00+{{1}}\"</script>"),
            "t:1:38 unsafe-place no value is safe in the middle of an escape in a JSON string",
        ),
        (&format!("{open}\"</+{{1}}\"</script>"), "t:1:36 unsafe-place no value is safe directly after \"<\" here"),
        (
            &format!("{open}[+{{each p in peas}}+{{p.title}}+{{end}}]</script>"),
            "t:1:51 unsafe-place no value is safe in JSON directly after another value",
        ),
        (
            &format!("{open}+{{if true}}\"+{{end}}a\"</script>"),
            "t:1:33 branches-differ one branch ends in <script>, the other way in <script>",
        ),
        (&format!("{open}+{{slot 'x'}}</script>"), "t:1:33 unsafe-place a slot can't be in <script>"),
    ]);
}

#[test]
fn executable_scripts() {
    check(&[
        (
            "<script>\n  const TITLE = +{'</script>'};\n  let days = +{7};\n  var all = +{[1, 2]};\n  go(TITLE);\n</script>",
            "<script>\n  const TITLE = \"\\u003c/script\\u003e\";\n  let days = 7;\n  var all = [1,2];\n  go(TITLE);\n</script>",
        ),
        ("<script type=\"module\">const a = +{1};</script>", "<script type=\"module\">const a = 1;</script>"),
        (
            "<script type=\"text/javascript\">const a = +{1};</script>",
            "<script type=\"text/javascript\">const a = 1;</script>",
        ),
        ("<script>+{if true}const a = +{1};+{end}go()</script>", "<script>const a = 1;go()</script>"),
        ("<script>go()</script>", "<script>go()</script>"),
    ]);
    let place = "no value is safe in this place of a script";
    for (text, at) in [
        ("<script>go(+{1})</script>", 12),
        ("<script>go(); const a = +{1};</script>", 25),
        ("<script>const a = \"+{1}\";</script>", 20),
        ("<script>const a.b = +{1};</script>", 21),
        ("<script>const a = b + +{1};</script>", 23),
        ("<script>// const a = +{1};</script>", 22),
        ("<script>a = +{1};</script>", 13),
        ("<script>const a = +{1} +{2};</script>", 24),
    ] {
        assert_eq!(said(text), format!("t:1:{at} unsafe-place {place}"), "{text}");
    }
    refuse(&[
        ("<script>const a = +{1} + 2;</script>", "t:1:24 unsafe-place in a script a value ends with \";\""),
        ("<script>const a = +{1}\ngo()</script>", "t:1:23 unsafe-place in a script a value ends with \";\""),
        ("<script type=\"text/plain\">+{1}</script>", "t:1:27 unsafe-place no value is safe in <script>"),
        ("<script type=\"importmap\">+{1}</script>", "t:1:26 unsafe-place no value is safe in <script>"),
    ]);
}

#[test]
fn other_endings() {
    for (ending, text, expected) in [
        (
            "xml",
            "<a b=\"+{wild}\">+{'<'}+{html}+{'a\\u{1}b\\u{0}'}</a>",
            "<a b=\"&quot;&gt;&lt;script&gt;alert(&#39;x&#39;)&lt;/script&gt;&amp;\">&lt;&lt;b&gt;bold&lt;/b&gt; &amp;amp; freeab</a>",
        ),
        (
            "xml",
            "<?xml version=\"1.0\"?>\n<title>+{'<'}</title><script/>+{'<'}",
            "<?xml version=\"1.0\"?>\n<title>&lt;</title><script/>&lt;",
        ),
        ("xml", "<a href=\"/x/+{'a b'}\" title=\"+{nothing}\"/>", "<a href=\"/x/a%20b\" title=\"\"/>"),
        ("xml", "+{raw '<b/>'}", "<b/>"),
        (
            "xml",
            "<!-- +{1} -->",
            "t:1:6 unsafe-place no value is safe in an HTML comment | a comment for the template's readers is written +{# … #}",
        ),
        (
            "xml",
            "<a b=+{1}/>",
            "t:1:6 unsafe-place no value is safe in the value of \"b\" without quotes | put quotes around the attribute's value",
        ),
        (
            "json",
            "{\"a\": +{wild}, \"b\": \"+{'\"'}\", \"c\": +{peas.count}}",
            "{\"a\": \"\\\"\\u003e\\u003cscript\\u003ealert(\\u0027x\\u0027)\\u003c/script\\u003e\\u0026\", \"b\": \"\\\"\", \"c\": 3}",
        ),
        (
            "json",
            "[+{each p in peas}+{p}+{between},+{end}]",
            "[{\"title\":\"Tidemark\",\"days\":75,\"families\":[\"legumes\"],\"sown\":\"2026-03-01\"},{\"title\":\"Cobblestone\",\"days\":90,\"families\":[\"beets\"],\"sown\":null},{\"title\":\"Ambler\",\"days\":80,\"families\":[\"legumes\"],\"sown\":\"2026-04-01\"}]",
        ),
        ("json", "{\"a\": \"+{1}", "t:1:11 open-html the file ends inside a JSON string | close it before the end"),
        (
            "json",
            "</script>+{1}",
            "t:1:10 unsafe-place no value is safe in JSON directly after another value | put a comma between the two",
        ),
        (
            "txt",
            "+{wild} +{html} <b class=+{'x'}>",
            "\"><script>alert('x')</script>& <b>bold</b> &amp; free <b class=x>",
        ),
        ("txt", "+{html.text}", "bold & free"),
        ("txt", "+{used 'styles'}", "t:1:1 html-only \"used\" writes HTML, and this file is .txt | leave it out here"),
    ] {
        assert_eq!(written(ending, text), expected, "{ending} {text}");
    }
    let files = |ending: &str, text: &str| {
        let (name, card) = (format!("t.{ending}"), format!("card.{ending}"));
        Files::new(&[(&name, text), (&card, "+{slot 'x' else}1+{end}"), ("only.html", "x")]).run()
    };
    assert_eq!(files("json", "[+{partial 'card'}, +{partial 'card' with}+{into 'x'}+{'a'}+{end}+{end}]"), "[1, \"a\"]");
    assert_eq!(files("txt", "<+{partial 'card'}>"), "<1>");
    assert_eq!(files("xml", "<a>+{partial 'card'}</a>"), "<a>1</a>");
    assert_eq!(
        files("txt", "+{partial 'only'}"),
        "t.txt:1:11 unknown-partial unknown partial \"only\" | a .txt file calls partials of its own extension; there is only partials/only.html"
    );
    assert_eq!(
        files("json", "\"+{partial 'card'}\""),
        "t.json:1:2 text-only \"partial\" can't be in a JSON string | it belongs in text only, between tags"
    );
}

/// A literal is judged as it will be printed, whatever tags are inside it.
#[test]
fn literals_in_pieces() {
    refuse(&[
        ("<a href=\"+{let y = 1}javascript:+{wild}\">", "t:1:33 unsafe-place no value is safe after \"javascript:\""),
        (
            "<a href=\"+{if true}java+{end}script:+{wild}\">",
            "t:1:37 unsafe-place no value is safe after \"javascript:\"",
        ),
        (
            "<a href=\"+{if true}/x+{else}vb+{end}script:+{wild}\">",
            "t:1:44 unsafe-place no value is safe after \"vbscript:\"",
        ),
        (
            "<area href='+{# a comment #}data:+{if true}text/html,+{end}+{wild}'>",
            "t:1:60 unsafe-place no value is safe after \"data:\"",
        ),
        (
            "<p style=\"background: url('java+{let y = 1}script:+{wild}')\">",
            "t:1:51 unsafe-place no value is safe after \"javascript:\"",
        ),
        (
            "<p +{let y = 1}= \"><script>+{wild}\">",
            "t:1:16 unsafe-place browsers read this \"=\" in two ways: no attribute's name is before it",
        ),
        (
            "<a b /='+{wild}' title=''>",
            "t:1:7 unsafe-place browsers read this \"=\" in two ways: no attribute's name is before it",
        ),
        (
            "<title>+{if true}<+{else}<+{end}/title><script>+{wild}</script>",
            "t:1:8 unsafe-place one branch ends in <title>, where it cuts the HTML in two",
        ),
        (
            "<!-- a -+{let y = 1}-> <script>+{wild}</script> -->",
            "t:1:9 unsafe-place no tag can be in an HTML comment, where it cuts the HTML in two",
        ),
        (
            "<!--+{if true}x+{end}> +{wild} -->",
            "t:1:5 unsafe-place no tag can be in an HTML comment, where it cuts the HTML in two",
        ),
        (
            "<![CDATA[ > <a title=\" ]]> +{wild}",
            "t:1:11 unsafe-place browsers end this CDATA section here, or at \"]]>\" inside of SVG and MathML; write \"&gt;\"",
        ),
        (
            "<svg><textarea><p title=\"</textarea><a href=\"+{wild}\">",
            "t:1:26 unsafe-place in SVG and MathML browsers read tags before this end tag, and one of them is open here",
        ),
        (
            "<svg><style>a { } /* <p title=\" */</style><a href=\"+{wild}\">",
            "t:1:35 unsafe-place in SVG and MathML browsers read tags before this end tag, and one of them is open here",
        ),
        (
            "<script +{if true}type=\"application/json\"+{end}>+{wild}</script>",
            "t:1:49 unsafe-place no value is safe in <script>",
        ),
    ]);
    for text in [
        "<a href=\"+{each x in [1, 2]}+{if x == 1}java+{else}script:+{'x'}+{end}+{end}\">",
        "<a href=\"+{''}javascript:+{'x'}\">",
        "<a href=\"+{'java'}+{'script:x'}\">",
        "<link +{if true}rel=\"stylesheet\"+{else}rel=\"icon\"+{end} href=\"+{'//x.example/'}\">",
        "<link +{if false}rel=\"stylesheet\"+{end} rel=\"icon\" href=\"+{'//x.example/'}\">",
        "<link href=\"+{'//x.example/'}\" rel=\"ne+{'xt stylesheet ne'}xt\">",
        "<link rel=\"stylesheet\" rel=\"icon\" href=\"+{'//x.example/'}\">",
    ] {
        dropped(text);
    }
    check(&[
        (
            "<link +{if true}rel=\"next\"+{else}rel=\"icon\"+{end} href=\"+{'//x.example/'}\">",
            "<link rel=\"next\" href=\"//x.example/\">",
        ),
        ("<a href=\"+{let y = 1}javascript:void(0)\">", "<a href=\"javascript:void(0)\">"),
        ("<![CDATA[ a ]]>+{'<'}", "<![CDATA[ a ]]>&lt;"),
        ("<!-- a +{if true}b+{end} -->", "<!-- a b -->"),
        (
            "<textarea><iframe src=\"/a\"></iframe> a < b</textarea>",
            "<textarea><iframe src=\"/a\"></iframe> a < b</textarea>",
        ),
        ("<svg/><style>/* <p title=\" */</style>+{'<'}", "<svg/><style>/* <p title=\" */</style>&lt;"),
        ("<svg></svg><style>/* <p title=\" */</style>+{'<'}", "<svg></svg><style>/* <p title=\" */</style>&lt;"),
    ]);
}

/// What browsers do with XML: an SVG image or an XHTML page runs scripts, and its links are links.
#[test]
fn xml_as_browsers_read_it() {
    let code = "browsers run it, or read it as a style: put the value into an attribute";
    for (text, expected) in [
        ("<svg onload=\"+{wild}\"/>", "in the attribute \"onload\": it would run as a script"),
        ("<x:a xlink:href=\"javascript:+{wild}\"/>", "no value is safe after \"javascript:\""),
        ("<svg:script>+{wild}</svg:script>", "no value is safe in <script> of XML"),
        ("<script><![CDATA[</script>]]>+{wild}</script>", "no value is safe in <script> of XML"),
        ("<style>a { fill: +{wild} }</style>", "no value is safe in <style> of XML"),
        ("<script>+{partial 'x'}</script>", "\"partial\" can't be in <script> of XML"),
        ("<script>x", "the file ends inside <script> of XML"),
        ("<set attributeName=\"href\" to=\"+{wild}\"/>", "an animation can set any attribute with it"),
        ("<x:iframe srcdoc=\"+{wild}\"/>", "it is a whole document of its own"),
        ("<!--> +{wild} -->", "no value is safe in an HTML comment"),
        ("<?x a > b +{wild} ?>", "no value is safe in a processing instruction"),
        ("<!DOCTYPE a [<!ENTITY b \"x>\"> +{wild}]>", "no value is safe in a declaration such as <!doctype>"),
        ("<_x:script>+{wild}</_x:script>", "no value is safe in <script> of XML"),
    ] {
        let found = written("xml", text);
        assert!(found.contains(expected) && found.starts_with("t:"), "{text}: {found}");
        assert!(!found.contains("of XML |") || found.contains(code) || !found.contains("value"), "{found}");
    }
    for (text, expected) in [
        ("<a href=\"+{'javascript:x'}\"/>", "<a href=\"about:invalid\"/>"),
        ("<a xlink:href=\"+{'java\\tscript:x'}\"/>", "<a xlink:href=\"about:invalid\"/>"),
        ("<use href=\"+{'//x.example/#a'}\"/>", "<use href=\"about:invalid\"/>"),
        ("<script href=\"+{'//x.example/'}\"/>", "<script href=\"about:invalid\"/>"),
        ("<link rel=\"stylesheet\" href=\"+{'//x.example/'}\"/>", "<link rel=\"stylesheet\" href=\"about:invalid\"/>"),
        ("<rect style=\"fill: +{'red;x:y'}\"/>", "<rect style=\"fill: initial\"/>"),
    ] {
        let found = written("xml", text);
        assert_eq!(found.lines().next(), Some(expected), "{text}");
        assert!(found.contains("unsafe-"), "{text}: {found}");
    }
    for (text, expected) in [
        (
            "<link rel=\"self\" href=\"+{'https://x.example/?a&b'}\"/>",
            "<link rel=\"self\" href=\"https://x.example/?a&amp;b\"/>",
        ),
        (
            "<enclosure url=\"+{'https://x.example/a'}\" type=\"+{'a/b'}\"/>",
            "<enclosure url=\"https://x.example/a\" type=\"a/b\"/>",
        ),
        ("<x data=\"+{'a b'}\" action=\"+{'a b'}\"/>", "<x data=\"a b\" action=\"a b\"/>"),
        ("<Style>+{'<'}</Style><script/><b>+{'<'}</b>", "<Style>&lt;</Style><script/><b>&lt;</b>"),
        (
            "<!DOCTYPE a [<!-- don't --><!ENTITY b \"x>\">]><a>+{'<'}</a>",
            "<!DOCTYPE a [<!-- don't --><!ENTITY b \"x>\">]><a>&lt;</a>",
        ),
        ("<?x a > b ?><a>+{'<'}</a>", "<?x a > b ?><a>&lt;</a>"),
        ("<![CDATA[ a > b ]]>+{'<'}", "<![CDATA[ a > b ]]>&lt;"),
    ] {
        assert_eq!(written("xml", text), expected, "{text}");
    }
}
