// Keeps this page up to date, and shows what made it. Everything drawn is in a shadow root of its own.
"use strict";
(() => {
  const data = document.currentScript.dataset;
  const query = `address=${encodeURIComponent(data.address)}`;
  let shown = data.shown;

  /** Whether this page is in a frame of the workbench, which loads it again with itself. */
  function isInWorkbench() {
    try {
      return window.top !== window && window.top.location.pathname.startsWith("/~/");
    } catch {
      return false;
    }
  }

  // A page that is not looked at keeps no connection: browsers have only a few for each site.
  let events = null;
  let isSending = false;
  function listen() {
    if (document.hidden || events || isInWorkbench()) return;
    events = new EventSource(`/~/events?${query}&shown=${shown}`);
    // A page that sends a form is about to be another one: what the form writes must not call it back.
    events.addEventListener("page", () => {
      if (!isSending) location.reload();
    });
    events.addEventListener("styles", (event) => {
      shown = event.data;
      renewStyles();
    });
  }
  function stop() {
    events?.close();
    events = null;
  }
  document.addEventListener("visibilitychange", () => (document.hidden ? stop() : listen()));
  addEventListener("submit", (event) => {
    isSending = !event.defaultPrevented && event.target.method === "post";
  });
  addEventListener("pagehide", stop);
  addEventListener("pageshow", () => {
    isSending = false;
    listen();
  });
  listen();

  /** Loads each style sheet of this site once more; the old one goes when the new one is there. */
  function renewStyles() {
    for (const link of document.querySelectorAll('link[rel~="stylesheet"]')) {
      const address = new URL(link.href, location.href);
      if (address.origin !== location.origin) continue;
      address.searchParams.set("shown", shown);
      const fresh = link.cloneNode();
      fresh.href = address.href;
      fresh.addEventListener("load", () => link.remove(), { once: true });
      fresh.addEventListener("error", () => fresh.remove(), { once: true });
      link.after(fresh);
    }
  }

  /** Shows the values whose names or texts have the word in them, opened as far as it takes. */
  function findValues(field) {
    const word = field.value.trim().toLowerCase();
    const search = (item) => {
      let within = false;
      for (const inner of item.querySelectorAll(":scope > details > ul > li")) within = search(inner) || within;
      const head = item.querySelector(":scope > details > summary") ?? item;
      const found = within || head.textContent.toLowerCase().includes(word);
      item.hidden = !found;
      const details = item.querySelector(":scope > details");
      if (details) details.open = word !== "" && within;
      return found;
    };
    for (const item of field.closest(".values").querySelectorAll(":scope > ul > li")) search(item);
  }
  const findIn = (place) =>
    place.addEventListener("input", (event) => event.target.matches("[data-values]") && findValues(event.target));

  if (location.pathname.startsWith("/~/")) findIn(document);
  if ("quiet" in data || window.top !== window) return;

  /** The parts of the page that files made, as the comments in it say. */
  function findParts() {
    const walker = document.createTreeWalker(document, NodeFilter.SHOW_COMMENT);
    const parts = [];
    const open = [];
    while (walker.nextNode()) {
      const comment = walker.currentNode;
      const mark = /^ ([+-]) (.*) $/.exec(comment.data);
      if (!mark) continue;
      const [, sign, path] = mark;
      if (sign === "+") {
        const part = { path, start: comment, end: null, depth: open.length };
        parts.push(part);
        open.push(part);
      } else {
        const at = open.findLastIndex((part) => part.path === path);
        if (at < 0) continue;
        for (const part of open.splice(at)) part.end = comment;
      }
    }
    return parts.filter((part) => part.end);
  }

  /** Where a part is on the page, around all that it shows; null if it shows nothing. */
  function areaOf(part) {
    const range = document.createRange();
    range.setStartAfter(part.start);
    range.setEndBefore(part.end);
    const rects = [...range.getClientRects()].filter((rect) => rect.width > 0 && rect.height > 0);
    if (!rects.length) return null;
    const left = Math.min(...rects.map((rect) => rect.left));
    const top = Math.min(...rects.map((rect) => rect.top));
    const right = Math.max(...rects.map((rect) => rect.right));
    const bottom = Math.max(...rects.map((rect) => rect.bottom));
    return { left, top, width: right - left, height: bottom - top };
  }

  /** The innermost part that an element of the page belongs to. */
  function partAt(element, parts) {
    const follows = (node) => node.compareDocumentPosition(element) & Node.DOCUMENT_POSITION_FOLLOWING;
    const precedes = (node) => node.compareDocumentPosition(element) & Node.DOCUMENT_POSITION_PRECEDING;
    return parts.findLast((part) => follows(part.start) && precedes(part.end)) ?? null;
  }

  const make = (name, properties = {}, ...children) => {
    const element = document.createElement(name);
    for (const [key, value] of Object.entries(properties)) {
      if (key in element) element[key] = value;
      else element.setAttribute(key, value);
    }
    element.append(...children);
    return element;
  };

  const host = make("hausblatt-badge");
  const root = host.attachShadow({ mode: "open" });
  const sheet = new CSSStyleSheet();
  sheet.replaceSync(`
    :host { all: initial; position: fixed; inset: auto 0 0 0; z-index: 2147483647; pointer-events: none; color-scheme: light dark;
      --ground: light-dark(#fbfaf7, #20241d); --text: light-dark(#23291f, #e6e8e0); --faint: light-dark(#5d6557, #a3ab9b);
      --line: light-dark(#c9c8bf, #4a5145); --leaf: light-dark(#2f6b2f, #8fcf85); --link: light-dark(#1d5c8f, #8cc4f0);
      --bad: light-dark(#a62a1d, #ff9d8f); --note: light-dark(#7d5200, #f0c274); --mark: light-dark(#ffe3a3, #5f4a12); }
    * { box-sizing: border-box; }
    [hidden] { display: none !important; }
    .frame { position: relative; z-index: 1; display: flex; flex-direction: column; align-items: flex-end; font: 14px/1.45 system-ui, sans-serif; color: var(--text); }
    button, a { pointer-events: auto; }
    button { font: inherit; color: inherit; background: none; border: 0; padding: 4px 10px; cursor: pointer; border-radius: 4px; }
    :focus-visible { outline: 3px solid var(--leaf); outline-offset: -1px; }
    .badge { margin: 0 10px 10px 10px; max-width: calc(100vw - 20px); overflow: hidden; text-overflow: ellipsis; white-space: nowrap;
      background: var(--ground); border: 1px solid var(--line); border-radius: 6px; box-shadow: 0 1px 6px #0004; }
    .badge b { font-weight: 600; }
    .badge .faint, .faint { color: var(--faint); }
    .count { margin-left: 8px; padding: 0 6px; border-radius: 8px; background: var(--note); color: var(--ground); font-weight: 600; }
    .panel { pointer-events: auto; width: 100%; height: min(46vh, 460px); display: flex; flex-direction: column; background: var(--ground);
      border-top: 1px solid var(--line); box-shadow: 0 -2px 12px #0003; }
    .tabs { display: flex; flex-wrap: wrap; gap: 2px 4px; align-items: center; padding: 4px 10px; border-bottom: 1px solid var(--line); }
    .tabs [role=tablist] { display: flex; flex-wrap: wrap; }
    .tabs [aria-selected=true] { font-weight: 600; color: var(--leaf); box-shadow: inset 0 -2px; border-radius: 0; }
    .tabs .end { margin-left: auto; }
    .body { flex: 1; overflow: auto; padding: 8px 16px 16px; }
    .body:focus-visible { outline-offset: -3px; }
    p { margin: 6px 0; } ul { list-style: none; padding-left: 18px; margin: 4px 0; } .top { padding-left: 0; }
    a { color: var(--link); } code, pre { font: 13px/1.45 ui-monospace, "DejaVu Sans Mono", monospace; } code { overflow-wrap: anywhere; }
    table { border-collapse: collapse; } th, td { text-align: left; padding: 3px 18px 3px 0; border-bottom: 1px solid var(--line); font-weight: 400; white-space: nowrap; }
    thead th, .faint { color: var(--faint); } .wins { background: color-mix(in srgb, var(--leaf) 14%, transparent); } .wins th { font-weight: 700; }
    dl { display: grid; grid-template-columns: max-content 1fr; gap: 2px 16px; margin: 8px 0; } dt { color: var(--faint); } dd { margin: 0; overflow-wrap: anywhere; }
    .scroll { overflow-x: auto; } .note { border-left: 3px solid var(--note); padding-left: 10px; }
    .problem { border-left: 4px solid var(--note); padding: 2px 12px; margin: 8px 0; } .problem.error { border-color: var(--bad); }
    .what b { color: var(--note); } .error .what b { color: var(--bad); } .help b { color: var(--link); } .code { color: var(--faint); }
    .excerpt { margin: 4px 0; overflow-x: auto; } .number { display: inline-block; width: 3.5em; padding-right: 1em; text-align: right; color: var(--faint); }
    mark { background: var(--mark); color: inherit; }
    input { font: inherit; color: inherit; background: transparent; border: 1px solid var(--faint); border-radius: 4px; padding: 3px 8px; }
    summary { cursor: pointer; }
    .part { display: flex; gap: 8px; align-items: baseline; } .part button { text-align: left; padding: 2px 6px; }
    .part button:hover, .part.here button { background: var(--mark); }
    .area { position: fixed; pointer-events: none; border: 2px solid var(--leaf); background: color-mix(in srgb, var(--leaf) 14%, transparent); border-radius: 3px; }
    .area span { position: absolute; left: -2px; top: -2px; background: var(--leaf); color: var(--ground); font: 600 12px/1.4 ui-monospace, monospace; padding: 1px 6px; white-space: nowrap; }
    @media (max-width: 560px) { dl { grid-template-columns: 1fr; } dd { margin-bottom: 6px; } }
    @media print { :host { display: none; } }
  `);
  root.adoptedStyleSheets = [sheet];
  findIn(root);

  const area = make("div", { className: "area", hidden: true }, make("span"));
  const panel = make("section", { className: "panel", hidden: true, ariaLabel: "What made this page" });
  const badge = make("button", { className: "badge", type: "button", ariaExpanded: "false" });
  badge.append(make("b", { textContent: data.template }));
  if (data.theme) badge.append(make("span", { className: "faint", textContent: ` · ${data.theme}` }));
  if (data.status !== "200") badge.append(make("span", { className: "count", textContent: data.status }));
  const problems = Number(data.problems);
  if (problems) badge.append(make("span", { className: "count", textContent: problems === 1 ? "1 warning" : `${problems} warnings` }));
  badge.setAttribute("aria-label", `${badge.textContent}: what made this page`);
  root.append(area, make("div", { className: "frame" }, panel, badge));

  /** Draws a frame around a part; null takes it away. */
  function outlinePart(part, scroll = false) {
    if (part && scroll) {
      const place = areaOf(part);
      const free = innerHeight - panel.offsetHeight;
      if (place && (place.top < 0 || place.top > free - 40)) scrollBy({ top: place.top - 60 });
    }
    const place = part && areaOf(part);
    area.hidden = !place;
    if (!place) return;
    for (const side of ["left", "top", "width", "height"]) area.style[side] = `${place[side]}px`;
    area.firstChild.textContent = part.path;
  }

  const fileLink = (path) => make("a", { href: `/~/file?path=${encodeURIComponent(path)}`, target: "_blank", textContent: "read" , ariaLabel: `Read ${path}`});

  let pointing = null;
  function pointAt(parts, items, button) {
    if (pointing) {
      removeEventListener("mousemove", pointing.move, true);
      removeEventListener("click", pointing.click, true);
      pointing = null;
      button.setAttribute("aria-pressed", "false");
      return;
    }
    const find = (event) => {
      const element = document.elementFromPoint(event.clientX, event.clientY);
      return element && element !== host ? partAt(element, parts) : null;
    };
    const show = (part) => {
      outlinePart(part);
      items.forEach((item, at) => item.classList.toggle("here", parts[at] === part));
      if (part) items[parts.indexOf(part)].scrollIntoView({ block: "nearest" });
    };
    pointing = {
      move: (event) => show(find(event)),
      click: (event) => {
        const part = find(event);
        if (!part) return;
        event.preventDefault();
        event.stopPropagation();
        pointAt(parts, items, button);
        show(part);
        items[parts.indexOf(part)].querySelector("button").focus();
      },
    };
    addEventListener("mousemove", pointing.move, true);
    addEventListener("click", pointing.click, true);
    button.setAttribute("aria-pressed", "true");
  }

  function outlineTab(body) {
    const parts = findParts();
    if (!parts.length) {
      body.append(make("p", { textContent: "No theme file has a part in this page." }));
      return;
    }
    const items = parts.map((part) => {
      const go = make("button", { type: "button", textContent: part.path });
      go.addEventListener("mouseenter", () => outlinePart(part));
      go.addEventListener("mouseleave", () => outlinePart(null));
      go.addEventListener("focus", () => outlinePart(part));
      go.addEventListener("blur", () => outlinePart(null));
      go.addEventListener("click", () => outlinePart(part, true));
      const line = make("li", { className: "part" }, go, fileLink(part.path));
      line.style.paddingLeft = `${part.depth * 18}px`;
      return line;
    });
    const point = make("button", { type: "button", textContent: "Point at the page", ariaPressed: "false" });
    point.style.border = "1px solid var(--faint)";
    point.addEventListener("click", () => pointAt(parts, items, point));
    body.append(make("p", {}, point, make("span", { className: "faint", textContent: "  or at a file to see its part" })));
    body.append(make("ul", { className: "top" }, ...items));
  }

  async function pieceTab(body, piece) {
    try {
      const answer = await fetch(`/~/${piece}?${query}`);
      if (!answer.ok) throw new Error(answer.statusText);
      // The server has escaped whatever comes from the site.
      body.innerHTML = await answer.text();
    } catch {
      body.append(make("p", { textContent: "The server does not answer." }));
    }
    for (const link of body.querySelectorAll('a[href^="/~/"]')) link.target = "_blank";
  }

  const tabs = [
    ["Ladder", (body) => pieceTab(body, "ladder")],
    ["Outline", outlineTab],
    ["Values", (body) => pieceTab(body, "values")],
    ["Problems", (body) => pieceTab(body, "faults")],
  ];
  const body = make("div", { className: "body", role: "tabpanel", tabIndex: 0, id: "body" });
  const buttons = tabs.map(([name]) =>
    make("button", { type: "button", role: "tab", textContent: name, ariaSelected: "false", tabIndex: -1, id: `tab-${name}` }));
  const list = make("div", { role: "tablist", ariaLabel: "What made this page" }, ...buttons);
  const close = make("button", { type: "button", textContent: "Close" });
  const bench = make("a", { className: "end", href: `/~/address?${query}`, textContent: "Workbench" });
  panel.append(make("div", { className: "tabs" }, list, bench, close), body);

  function choose(at) {
    buttons.forEach((button, other) => {
      button.setAttribute("aria-selected", String(other === at));
      button.tabIndex = other === at ? 0 : -1;
    });
    body.setAttribute("aria-labelledby", buttons[at].id);
    body.replaceChildren();
    body.scrollTop = 0;
    outlinePart(null);
    tabs[at][1](body);
    sessionStorage.setItem("hausblatt-badge", String(at));
  }
  buttons.forEach((button, at) => {
    button.addEventListener("click", () => choose(at));
    button.addEventListener("keydown", (event) => {
      const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
      if (!step) return;
      const next = (at + step + buttons.length) % buttons.length;
      choose(next);
      buttons[next].focus();
    });
  });

  function toggle(open) {
    panel.hidden = !open;
    badge.hidden = open;
    badge.setAttribute("aria-expanded", String(open));
    if (open) {
      choose(Number(sessionStorage.getItem("hausblatt-badge")) || 0);
      return;
    }
    if (pointing) pointAt([], [], panel);
    outlinePart(null);
    sessionStorage.removeItem("hausblatt-badge");
  }
  badge.addEventListener("click", () => {
    toggle(true);
    buttons.find((button) => button.tabIndex === 0)?.focus();
  });
  close.addEventListener("click", () => {
    toggle(false);
    badge.focus();
  });
  root.addEventListener("keydown", (event) => {
    if (event.key !== "Escape") return;
    toggle(false);
    badge.focus();
  });
  document.documentElement.append(host);
  // What was open before a reload is open again; and a link can ask for it.
  if (sessionStorage.getItem("hausblatt-badge") !== null || location.hash === "#hausblatt-badge") toggle(true);
})();
