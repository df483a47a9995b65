//! Texts that try to be more than text.

/// Several hundred of them. What runs calls `hit()`.
pub fn texts() -> Vec<String> {
    let mut texts: Vec<String> =
        ["word", "two words", "ä漢🌱", "a\r\nb\rc\nd", "\na", "\r\na", "\n\n"].map(str::to_owned).into();
    texts.extend((0u8..=127).map(|byte| format!("a{}b", byte as char)));
    texts.extend(
        [
            "\u{7f}",
            "\u{85}",
            "\u{a0}",
            "\u{ad}",
            "\u{200b}",
            "\u{202e}",
            "\u{2028}",
            "\u{2029}",
            "\u{feff}",
            "\u{fffd}",
            "\u{fffe}",
            "\u{ffff}",
            "\u{10ffff}",
        ]
        .map(|c| format!("{c}x{c}")),
    );
    texts.extend(closing());
    texts.extend(handlers());
    texts.extend(schemes());
    texts.extend(hosts());
    texts.extend(styles());
    texts.extend(scripts());
    texts.extend(twice());
    texts
}

fn owned(texts: &[&str]) -> Vec<String> {
    texts.iter().map(|&text| text.to_owned()).collect()
}

fn closing() -> Vec<String> {
    let names = [
        "title",
        "textarea",
        "script",
        "style",
        "iframe",
        "noscript",
        "template",
        "svg",
        "math",
        "xmp",
        "noembed",
        "noframes",
        "plaintext",
        "select",
        "option",
        "table",
        "p",
        "a",
        "div",
        "body",
        "html",
        "head",
        "object",
        "form",
        "button",
        "pre",
        "foreignObject",
        "desc",
        "mi",
        "annotation-xml",
    ];
    let image = "<img src=x onerror=hit()>";
    let each = |name: &str| {
        let capitals = name.to_uppercase();
        vec![
            format!("</{name}>{image}"),
            format!("</{capitals} \n/x=\">\"{image}"),
            format!("\"'></{name}/><{name} onload=hit()>{image}"),
        ]
    };
    let mut texts: Vec<String> = names.into_iter().flat_map(each).collect();
    texts.extend(
        [
            "-->",
            "--!>",
            "<!--",
            "<!-->",
            "]]>",
            "<![CDATA[",
            "?>",
            "<?",
            "</",
            "<",
            ">",
            "<!doctype",
            "&lt;",
            "&#60;",
            "&",
        ]
        .map(|end| format!("{end}{image}")),
    );
    texts
}

fn handlers() -> Vec<String> {
    let mut texts = Vec::new();
    for quote in ["\"", "'", "`", "\"'", "\\\"", "&quot;", "&#34;", "&#x27;", "%22", "\u{2033}"] {
        for handler in ["onmouseover=hit() ", "autofocus onfocus=hit() ", "onload=hit()>", "style=x:expression(hit())"]
        {
            texts.push(format!("x{quote} {handler}{quote}"));
        }
        texts.push(format!("{quote}><svg onload=hit()>"));
        texts.push(format!("{quote}/><script>hit()</script>"));
    }
    texts
}

fn schemes() -> Vec<String> {
    let mut texts = owned(&[
        "javascript:hit()",
        "JAVASCRIPT:hit()",
        "JaVaScRiPt:hit()",
        "javascript:hit()//",
        "javascript://x%0ahit()",
        "javascript :hit()",
        "javascript&colon;hit()",
        "javascript&#58;hit()",
        "&#106;avascript:hit()",
        "&#x6A;avascript:hit()",
        "java%73cript:hit()",
        "javascript%3ahit()",
        "view-source:javascript:hit()",
        "feed:javascript:hit()",
        "jar:javascript:hit()",
        "script:hit()",
        "livescript:hit()",
        "mocha:hit()",
        "vbscript:hit()",
        "VbScRiPt:hit()",
        "vbs:hit()",
        "data:text/html,<script>hit()</script>",
        "data:text/html;base64,PHNjcmlwdD5wYXJlbnQuaGl0KCk8L3NjcmlwdD4=",
        "DATA:,x",
        "data:image/svg+xml,<svg onload='hit()'/>",
        "data:text/css,*{color:red}",
        "data:application/javascript,hit()",
        "blob:x",
        "filesystem:x",
        "file:///etc/passwd",
        "about:blank",
        "chrome:x",
        "ws://x",
        "ftp://x",
        "intent:x",
        "ms-its:x",
        "urn:x",
        "a:b",
        "A1+.-:b",
        ":x",
        "1:x",
        "https:x",
        "http:/x",
        "tel:1",
        "mailto:a@b",
        "x/javascript:hit()",
        "?javascript:hit()",
        "#javascript:hit()",
        "\u{feff}javascript:hit()",
        "\u{a0}javascript:hit()",
        "\u{2028}javascript:hit()",
        "javascript\u{200d}:hit()",
        "ｊavascript:hit()",
        "javaſcript:hit()",
    ]);
    for byte in [0u8, 1, 8, 9, 10, 11, 12, 13, 14, 31, 32, 127] {
        for at in [0, 1, 4, 10, 11] {
            let (before, behind) = "javascript:hit()".split_at(at);
            texts.push(format!("{before}{}{behind}", byte as char));
        }
    }
    texts
}

fn hosts() -> Vec<String> {
    owned(&[
        "//evil.example/x",
        "/\\evil.example/x",
        "\\\\evil.example/x",
        "\\/evil.example/x",
        "/\t/evil.example/x",
        "/\n/evil.example/x",
        "///evil.example/x",
        "////evil.example",
        " //evil.example",
        "\u{1}//evil.example",
        "https:evil.example",
        "https:/evil.example",
        "https:///evil.example",
        "https://evil.example",
        "HTTPS://evil.example",
        "https://seeds.example@evil.example/",
        "https://seeds.example.evil.example/",
        "https://seeds.example:x@evil.example/",
        "https://seeds.example\\@evil.example/",
        "https://seeds.example",
        "https://seeds.example/a",
        "http://seeds.example/",
        "/%5cevil.example",
        "/..//evil.example",
        ".//evil.example",
        "/.//evil.example",
        "@evil.example/",
        ".evil.example/",
        ":80@evil.example/",
        "/a b",
        "/a,b 2x, javascript:hit()",
        "/a 1x,//evil.example 2x",
        "a,b,",
        ",a",
        "/a?b&c=d#e",
        "%",
        "%zz",
        "%00",
        "/%2e%2e/",
        "..",
        "?",
        "#",
    ])
}

fn styles() -> Vec<String> {
    owned(&[
        "red",
        "#abc",
        "12px",
        "1px solid red",
        "rgb(1,2,3)",
        "red;color:blue",
        "red}#last{color:red}",
        "red}</style><img src=x onerror=hit()>",
        "*/#last{color:red}/*",
        "/*",
        "\\",
        "\\3b color:blue",
        "\\7d #last{color:red}",
        "\"",
        "'",
        "\";color:blue;x:\"",
        "');color:blue;x:url('",
        "\"){}#last{color:red}",
        "url(javascript:hit())",
        "url('javascript:hit()')",
        "url(//evil.example/x)",
        "expression(hit())",
        "e/**/xpression(hit())",
        "-moz-binding:url(x)",
        "behavior:url(x)",
        "@import '//evil.example/x';",
        "{}",
        "}",
        "{",
        ";",
        ":",
        "(",
        ")",
        "[",
        "]",
        "red!important",
        "var(--x)",
        "attr(x)",
        "calc(1px)",
        "image-set('//evil.example/x' 1x)",
        "a\nb",
        "a\u{c}b",
        "a\r}#last{color:red}",
        "<!--",
        "-->",
        "U+26",
        "1e9",
        "--x",
        "-",
        "+1",
        "env(x)",
        "red,blue",
        "initial",
        "\u{0}\\",
    ])
}

fn scripts() -> Vec<String> {
    owned(&[
        "\";hit();\"",
        "';hit();'",
        "\\\";hit();//",
        "\\",
        "\\\\\";hit()//",
        "`${hit()}`",
        "${hit()}",
        "</script><script>hit()</script>",
        "</ScRiPt >hit()",
        "<!--<script>",
        "<!--<script>hit()</script>-->",
        "<script>",
        "-->hit()",
        "*/hit()/*",
        "//",
        "\u{2028}hit()//",
        "\u{2029}hit()//",
        "\\u2028",
        "\\u0022;hit()//",
        "\\x22;hit()//",
        "]]>",
        "\"}];hit();[{\"",
        "null",
        "true",
        "1",
        "-0",
        "__proto__",
        "constructor",
        "{\"a\":1}",
        "[1]",
        "'",
        "\"",
        "\n",
        "\u{8}\u{c}\u{b}",
        "\u{1f}",
    ])
}

fn twice() -> Vec<String> {
    owned(&[
        "<svg><style><img src=x onerror=hit()></style></svg>",
        "<math></br><style><b title=\"</style><img src=y onerror=hit()>\">",
        "<svg><desc><table><title><style><!--</style><b title=\"--&gt;&lt;img src=y onerror=hit()&gt;\">",
        "<noscript><b id=\"</noscript><img src=y onerror=hit()>\">",
        "<template><script>hit()</script></template>",
        "&lt;img src=x onerror=hit()&gt;",
        "&amp;lt;img src=x onerror=hit()&amp;gt;",
        "<<img src=x onerror=hit()>",
        "<img/src=x/onerror=hit()>",
        "%3Cscript%3Ehit()%3C/script%3E",
        "+ADw-script+AD4-hit()+ADw-/script+AD4-",
        "<scr<script>ipt>hit()</scr</script>ipt>",
        "<details open ontoggle=hit()>",
        "<marquee onstart=hit()>",
        "<input autofocus onfocus=hit()>",
        "<video><source onerror=hit()></video>",
        "<iframe srcdoc='<script>parent.hit()</script>'>",
        "<meta http-equiv=refresh content='0;url=javascript:hit()'>",
        "<base href=//evil.example/>",
        "<form><button formaction=javascript:hit()>",
        "<isindex action=javascript:hit()>",
        "<svg><animate onbegin=hit() attributeName=x dur=1s>",
        "<a href=javascript:hit()>",
        "<x onclick=hit()>",
        "+{raw 1}",
        "+{hit()}",
        "++{x}",
        "{{hit()}}",
        "<%hit()%>",
        "#{hit()}",
    ])
}
