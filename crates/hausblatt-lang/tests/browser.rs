//! What a real browser makes of hostile texts in every place that a value may be in. Needs Debian's chromium, so
//! the plain test command leaves it out; CI runs it with `--ignored`.

#![allow(clippy::unwrap_used, clippy::panic)]

#[path = "support/hostile.rs"]
mod hostile;
mod support;

use std::io::{BufRead, BufReader, Read, Write};
use std::net::{TcpListener, TcpStream};
use std::process::{Command, Stdio};
use std::sync::Arc;
use std::sync::mpsc::{Sender, channel};
use std::time::Duration;

/// Every place. `x` is the hostile text.
const PAGE: &str = r##"<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<script>window.hits = 0; window.hit = () => { window.hits += 1; }; window.alert = window.hit;</script>
<title>+{x}</title>
<style id="sheet">
#first { color: rgb(1, 2, 3) }
#second::before { content: "+{x}" }
#third { --v: +{x}; width: +{x}; background: url("+{x}") }
#fourth { background: url('/m/+{x}.png') no-repeat; color: +{x} }
#last { color: rgb(4, 5, 6) }
</style>
<meta name="description" content="+{x}">
<link rel="stylesheet" href="+{x}">
<link rel="icon" href="+{x}">
</head>
<body class="a +{x}">
<p id="text">+{x}</p>
<p id="twice">+{x}+{x}</p>
<p id="id-+{x}" title="+{x}" lang='+{x}' data-x="b+{x}"></p>
<pre id="pre">+{x}</pre>
<textarea id="area">+{x}</textarea>
<noscript><p title="+{x}">+{x}</p></noscript>
<template id="template"><p title="+{x}">+{x}</p></template>
<select><option value="+{x}">+{x}</option></select>
<table><tr><td id="cell">+{x}</td></tr></table>
<svg><title id="drawing">+{x}</title><text>+{x}</text><use href="+{x}"/><a xlink:href="+{x}" class="link"></a><style>a { --v: +{x} }</style></svg>
<math><mi id="math">+{x}</mi></math>
<a class="link" href="+{x}"></a>
<a class="link" href='+{x}+{x}'></a>
<a class="link" href="java+{x}"></a>
<a class="link" href=" +{x}"></a>
<a class="link" href="+{''}javascript:+{x}"></a>
<a class="link" href="+{each i in [1, 2]}+{if i == 1}java+{else}script:+{x}+{end}+{end}"></a>
<a class="link" href="+{if true}+{''}da+{end}ta:text/html,+{x}"></a>
<a class="link" +{let y = 1}href="+{nothing}+{x}"></a>
<link +{if true}rel="stylesheet"+{else}rel="icon"+{end} href="+{x}">
<link +{if true}rel="stylesheet"+{end} rel="icon" href="+{x}">
<textarea><b></b></textarea><p id="behind">+{x}</p>
<a class="path" href="/x/+{x}"></a>
<a class="path" href="/x?q=+{x}#+{x}"></a>
<img class="image" alt="+{x}" src="+{x}" srcset="+{x} 1x, /m/+{x} +{x}x">
<picture><source srcset="+{x}"><img alt="" class="image" src="/m/+{x}"></picture>
<video class="image" poster="+{x}" src="+{x}"></video>
<form class="stays" action="+{x}"><button formaction="+{x}" value="+{x}"></button><input id="input" value="+{x}"></form>
<iframe class="stays" src="+{x}"></iframe>
<object class="stays" data="+{x}"></object>
<embed class="stays" src="+{x}">
<blockquote cite="+{x}"></blockquote>
<div id="styled" style="--a: +{x}; color: +{x}; background: url('+{x}'); quotes: '+{x}' '+{x}'; top: 7px"></div>
<script type="application/json" id="whole">+{x}</script>
<script type="application/ld+json" id="inside">{"a": "b+{x}c", "d": [+{x}, "+{x}"]}</script>
<script>
const first = +{x};
let second = +{x};
window.got = [first, second];
</script>
<script class="stays" src="+{x}"></script>
<p id="first"></p><p id="second"></p><p id="third"></p><p id="fourth"></p><p id="last"></p>
"##;

/// Every place of a drawing, which is XML.
const DRAWING: &str = r##"<?xml version="1.0"?>
<!DOCTYPE svg [<!-- don't --><!ENTITY a "x>">]>
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:s="http://www.w3.org/2000/svg">
<title>+{x}</title>
<text class="+{x}" lang='+{x}'>+{x}</text>
<a href="+{x}" xlink:href="java+{x}"><text>+{x}</text></a>
<s:a href="+{''}javascript:+{x}"/>
<use href="+{x}"/><script href="+{x}"/><image href="+{x}"/>
<rect style="fill: +{x}; stroke: url('+{x}')"/>
<!-- +{if true}a+{end} --><![CDATA[ > ]]><text>+{x}</text>
</svg>
"##;

/// Looks at the page when it is loaded, and reports to the window around it what it found.
const CHECK: &str = r##"<script>
const given = new TextDecoder("utf-8", { ignoreBOM: true }).decode(Uint8Array.from(atob("GIVEN"), c => c.charCodeAt(0)));
const wanted = given.replaceAll("\0", "\uFFFD");
const problems = [];
const same = (what, a, b) => { if (a !== b) problems.push(what + ": " + JSON.stringify(a) + " is not " + JSON.stringify(b)); };
const id = name => document.getElementById(name);
function look() {
  same("hits", window.hits, 0);
  same("title", document.querySelector("head title").textContent, wanted);
  for (const name of ["text", "pre", "cell", "drawing", "math"]) same(name, id(name).textContent, wanted);
  same("twice", id("twice").textContent, wanted + wanted);
  same("template", id("template").content.querySelector("p").textContent, wanted);
  same("area", id("area").textContent, wanted);
  same("option", document.querySelector("option").getAttribute("value"), wanted);
  same("input", id("input").getAttribute("value"), wanted);
  same("description", document.querySelector("meta[name=description]").getAttribute("content"), wanted);
  const attributed = id("twice").nextElementSibling;
  same("title attribute", attributed.title, wanted);
  same("lang", attributed.getAttribute("lang"), wanted);
  same("data", attributed.dataset.x, "b" + wanted);
  same("whole", JSON.parse(id("whole").textContent), given);
  const inside = JSON.parse(id("inside").textContent);
  same("inside", inside.a, "b" + given + "c");
  same("list", inside.d.join("|"), given + "|" + given);
  same("script", window.got.join("|"), given + "|" + given);
  const schemes = ["http:", "https:", "mailto:", "tel:", "about:"];
  const scheme = (what, address) => {
    let url;
    try { url = new URL(address, "http://base.example/"); } catch { return; }
    if (!schemes.includes(url.protocol) && !(what === "image" && url.protocol === "data:" && /^data:image\//i.test(url.href)))
      problems.push(what + " leads to " + url.href);
  };
  const links = document.querySelectorAll(".link");
  for (const link of links) scheme("link", link.getAttribute("href") ?? link.getAttribute("xlink:href"));
  for (const link of document.querySelectorAll(".path")) {
    same("path's host", new URL(link.getAttribute("href"), "http://base.example/").host, "base.example");
    if (!link.getAttribute("href").startsWith("/x")) problems.push("path: " + link.getAttribute("href"));
  }
  same("query", [...new URL(document.querySelectorAll(".path")[1].getAttribute("href"), "http://base.example/").searchParams.keys()].join(), "q");
  for (const image of document.querySelectorAll(".image")) {
    for (const name of ["src", "poster"]) if (image.hasAttribute(name)) scheme("image", image.getAttribute(name));
  }
  const listed = document.querySelector(".image").getAttribute("srcset").trim().split(/\s+/);
  if (listed.length !== 4) problems.push("srcset: " + listed.join(" "));
  scheme("image", listed[0]);
  if (!/^[0-9.]+x$/.test(listed[3])) problems.push("srcset: " + listed.join(" "));
  const stays = address => {
    const url = new URL(address, "http://base.example/");
    if (!["http://base.example", "https://seeds.example"].includes(url.origin) && url.protocol !== "about:")
      problems.push("loads " + url.href);
  };
  for (const element of document.querySelectorAll(".stays, .stays button, use, link[rel=stylesheet]"))
    for (const name of ["src", "data", "action", "formaction", "href"])
      if (element.hasAttribute(name)) stays(element.getAttribute(name));
  same("rules", id("sheet").sheet.cssRules.length, 5);
  same("first", getComputedStyle(id("first")).color, "rgb(1, 2, 3)");
  same("last", getComputedStyle(id("last")).color, "rgb(4, 5, 6)");
  same("content", id("sheet").sheet.cssRules[1].style.length, 1);
  const allowed = /^(--a|--v|color|width|top|quotes|content|background(-[a-z-]+)?)$/;
  for (const style of [id("styled").style, ...[...id("sheet").sheet.cssRules].map(rule => rule.style)])
    for (const name of style) if (!allowed.test(name)) problems.push("style sets " + name);
  same("top", id("styled").style.top, "7px");
  for (const style of [id("styled").style, id("sheet").sheet.cssRules[2].style, id("sheet").sheet.cssRules[3].style]) {
    const address = /^url\("(.*)"\)/s.exec(style.backgroundImage);
    if (address) scheme("style", address[1].replace(/\\([0-9a-f]+) ?/g, (_, hex) => String.fromCodePoint(parseInt(hex, 16))).replace(/\\(.)/g, "$1"));
  }
  same("behind", id("behind").textContent, wanted);
  const utf8 = text => new TextDecoder("utf-8", { ignoreBOM: true }).decode(Uint8Array.from(atob(text), c => c.charCodeAt(0)));
  const drawing = new DOMParser().parseFromString(utf8("DRAWING"), "image/svg+xml");
  const drawn = [...drawing.querySelectorAll("*")].map(element => element.nodeName + "[" + [...element.attributes].map(a => a.name) + "]");
  if (drawing.querySelector("parsererror")) problems.push("drawing: " + drawing.querySelector("parsererror").textContent);
  for (const element of drawing.querySelectorAll("*")) {
    for (const attribute of element.attributes) {
      if (attribute.localName.startsWith("on")) problems.push("drawing has " + attribute.name);
      if (attribute.localName !== "href") continue;
      scheme("drawing", attribute.value);
      if (["use", "script"].includes(element.localName)) stays(attribute.value);
    }
  }
  const elements = [...document.querySelectorAll("*")].map(element => element.localName + "[" + [...element.attributes].map(a => a.name) + "]");
  parent.postMessage({ number: NUMBER, problems, elements: elements.join(" ") + " / " + drawn.join(" ") }, "*");
}
setTimeout(look, 25);
</script>
</body>
</html>
"##;

/// Opens one page after the other, and hands in what they reported.
const DRIVER: &str = r##"<!doctype html><meta charset="utf-8"><title>driver</title><iframe id="frame"></iframe><script>
const frame = document.getElementById("frame"), told = [];
let number = 0, timer = 0;
function next() {
  if (number === COUNT) return fetch("/done", { method: "POST", body: JSON.stringify(told) });
  clearTimeout(timer);
  timer = setTimeout(() => { told.push({ number, problems: ["told nothing"], elements: "" }); number += 1; next(); }, 8000);
  frame.src = "/page/" + number;
}
window.hit = () => told.push({ number, problems: ["ran in the window around it"], elements: "" });
addEventListener("message", event => {
  if (event.source !== frame.contentWindow || event.data.number !== number) return;
  told.push(event.data);
  number += 1;
  next();
});
next();
</script>
"##;

/// The page for a text, as the language renders it, with what looks at it.
fn page(number: usize, text: &str) -> String {
    let literal: String = text.chars().map(|c| format!("\\u{{{:x}}}", c as u32)).collect();
    let files = support::Files::new(&[("t", &format!("+{{let x = \"{literal}\"}}{PAGE}"))]);
    let rendered = files.page().0.unwrap();
    let drawing = support::Files::new(&[("t.xml", &format!("+{{let x = \"{literal}\"}}{DRAWING}"))]).page().0.unwrap();
    let check = CHECK.replace("GIVEN", &base64(text.as_bytes())).replace("NUMBER", &number.to_string());
    format!("{rendered}{}", check.replace("DRAWING", &base64(drawing.as_bytes())))
}

fn base64(bytes: &[u8]) -> String {
    const LETTERS: &[u8; 64] = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    let mut out = String::new();
    for chunk in bytes.chunks(3) {
        let word = chunk.iter().enumerate().fold(0u32, |word, (at, &byte)| word | u32::from(byte) << (16 - 8 * at));
        for at in 0..4 {
            let letter = LETTERS[(word >> (18 - 6 * at)) as usize & 63] as char;
            out.push(if at > chunk.len() { '=' } else { letter });
        }
    }
    out
}

fn answer(stream: TcpStream, pages: &[String], done: &Sender<String>) -> Option<()> {
    let mut reader = BufReader::new(stream.try_clone().ok()?);
    let mut line = String::new();
    reader.read_line(&mut line).ok()?;
    let path = line.split(' ').nth(1)?.to_owned();
    let mut length = 0;
    loop {
        let mut header = String::new();
        reader.read_line(&mut header).ok()?;
        if header.trim().is_empty() {
            break;
        }
        if let Some(value) = header.to_ascii_lowercase().strip_prefix("content-length:") {
            length = value.trim().parse().ok()?;
        }
    }
    let (status, body) = match path.strip_prefix("/page/").and_then(|number| number.parse::<usize>().ok()) {
        Some(number) => ("200 OK", pages.get(number)?.clone()),
        None if path == "/" => ("200 OK", DRIVER.replace("COUNT", &pages.len().to_string())),
        None if path == "/done" => {
            let mut told = vec![0; length];
            reader.read_exact(&mut told).ok()?;
            done.send(String::from_utf8_lossy(&told).into_owned()).ok()?;
            ("200 OK", String::new())
        }
        None => ("404 Not Found", String::new()),
    };
    let head = format!(
        "HTTP/1.1 {status}\r\nContent-Type: text/html; charset=utf-8\r\nContent-Length: {}\r\nConnection: close\r\n\r\n",
        body.len()
    );
    let mut stream = stream;
    stream.write_all(head.as_bytes()).ok()?;
    stream.write_all(body.as_bytes()).ok()
}

#[test]
#[ignore = "needs chromium; .ci/run runs it"]
fn a_browser_runs_nothing_and_reads_every_text_back() {
    let texts = hostile::texts();
    assert!(texts.len() > 400);
    let pages: Arc<Vec<String>> = Arc::new(texts.iter().enumerate().map(|(number, text)| page(number, text)).collect());
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let address = listener.local_addr().unwrap();
    let (done, told) = channel();
    std::thread::spawn(move || {
        for stream in listener.incoming().flatten() {
            let (pages, done) = (pages.clone(), done.clone());
            std::thread::spawn(move || answer(stream, &pages, &done));
        }
    });
    let profile = std::env::temp_dir().join(format!("hausblatt-browser-{}", std::process::id()));
    let mut browser = Command::new("chromium")
        .args(["--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run"])
        .args(["--disable-background-networking", "--disable-component-update", "--disable-sync"])
        .args(["--remote-debugging-port=0", "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1"])
        .arg(format!("--user-data-dir={}", profile.display()))
        .arg(format!("http://{address}/"))
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .expect("chromium, as in: apt-get install chromium");
    let told = told.recv_timeout(Duration::from_secs(600));
    browser.kill().unwrap();
    browser.wait().unwrap();
    let _ = std::fs::remove_dir_all(&profile);
    let told: Vec<serde_json::Value> = serde_json::from_str(&told.expect("the browser hands in what it saw")).unwrap();
    let elements = told[0]["elements"].as_str().unwrap();
    assert!(elements.contains("script[type,id]"), "{elements}");
    let mut wrong = Vec::new();
    for (one, text) in told.iter().map(|one| (one, &texts[one["number"].as_u64().unwrap() as usize])) {
        for problem in one["problems"].as_array().unwrap() {
            wrong.push(format!("{text:?}: {}", problem.as_str().unwrap()));
        }
        if one["elements"] != told[0]["elements"] {
            wrong.push(format!("{text:?}: other elements\n  {}\n  {elements}", one["elements"]));
        }
    }
    assert_eq!(told.len(), texts.len());
    assert!(wrong.is_empty(), "{} problems\n{}", wrong.len(), wrong.join("\n"));
}
