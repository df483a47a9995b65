// Forms whose answer shows while one types, and a few things that only a script can do. Without it the same pages work by
// their buttons.
"use strict";

/** The refresh that is under way; nothing is kept before it is done. */
let refreshing = null;
/** The refresh that is to come. */
let waiting = null;
let turn = 0;

/** Asks for the page of a form and puts in the parts that the form says are live. */
async function refresh(form) {
  const own = ++turn;
  const address = `${form.getAttribute("action")}?${new URLSearchParams(new FormData(form))}`;
  const answer = await fetch(address).catch(() => null);
  if (own !== turn) return;
  if (!answer?.ok) {
    // What is typed is not what the button would keep.
    const keep = document.getElementById("keep");
    if (keep) keep.textContent = answer ? `This can't be shown: ${(await answer.text()) || "it is too long."}` : "The server does not answer.";
    return;
  }
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  if (own !== turn) return;
  for (const id of form.dataset.live.split(" ")) {
    const old = document.getElementById(id);
    const now = page.getElementById(id);
    if (!old || !now) continue;
    if (old.localName !== "iframe") {
      old.replaceWith(now);
      enable(now);
    } else if (old.getAttribute("src") !== now.getAttribute("src")) {
      // A new frame, since another address of the old one would be a step of the history.
      const top = old.contentDocument?.scrollingElement?.scrollTop ?? 0;
      now.addEventListener("load", () => now.contentWindow.scrollTo(0, top), { once: true });
      old.replaceWith(now);
    }
  }
  later();
  history.replaceState(null, "", address);
  soon();
}

/** Looks at what takes longer than the rest of a page. */
async function later() {
  const waiting = document.querySelector("[data-later]");
  if (!waiting) return;
  const answer = await fetch(waiting.dataset.later).catch(() => null);
  if (!answer?.ok || !waiting.isConnected) return;
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  if (!waiting.isConnected) return;
  for (const id of ["effects", "difference"]) {
    const now = page.getElementById(id);
    if (now) document.getElementById(id)?.replaceWith(now);
  }
}
later();

/** Refreshes now what was to be refreshed in a moment. */
function catchUp() {
  if (waiting) {
    clearTimeout(waiting.timer);
    refreshing = refresh(waiting.form);
    waiting = null;
  }
  return refreshing;
}

for (const form of document.querySelectorAll("form[data-live]")) {
  form.addEventListener("input", () => {
    if (waiting) clearTimeout(waiting.timer);
    waiting = { form, timer: setTimeout(catchUp, 120) };
  });
}

// What is kept is what is typed, not what was typed a moment before.
document.addEventListener("submit", async (event) => {
  const kept = event.target.closest("#keep");
  if (!kept || (!waiting && !refreshing)) return;
  event.preventDefault();
  await catchUp();
  refreshing = null;
  const form = document.querySelector("#keep form");
  if (form) form.requestSubmit();
});

/** Shows what only a script can do. */
function enable(root) {
  for (const element of root.querySelectorAll("[data-script][hidden], input[type=color][hidden]")) element.hidden = false;
}
enable(document);

/** Gives a control a value as if it was typed. */
function fill(id, value) {
  const control = document.getElementById(id);
  if (!control) return;
  control.value = value;
  control.dispatchEvent(new Event("input", { bubbles: true }));
}

document.addEventListener("input", (event) => {
  if (event.target.dataset.fills) fill(event.target.dataset.fills, event.target.value);
});

document.addEventListener("click", async (event) => {
  const button = event.target.closest("button[data-fill], button[data-copy]");
  if (!button) return;
  if (button.dataset.fill) {
    fill(button.dataset.fill, button.dataset.value);
    return;
  }
  const text = document.querySelector(`#${button.dataset.copy} pre`).textContent;
  await navigator.clipboard.writeText(text);
  button.textContent = "Copied";
});

document.addEventListener("keydown", (event) => {
  const isTyped = event.target.closest("input, textarea, select, [contenteditable]");
  if (event.key !== "/" || isTyped || event.ctrlKey || event.metaKey || event.altKey) return;
  const search = document.getElementById("for") ?? document.getElementById("search");
  if (!search) return;
  event.preventDefault();
  search.focus();
});

// What explains a page is open at the first visit, and then as it was left.
for (const details of document.querySelectorAll("details[data-once]")) {
  const key = `hausblatt-${details.dataset.once}`;
  details.open = localStorage.getItem(key) !== "closed";
  if (details.open) localStorage.setItem(key, "closed");
  // Not at a toggle event: the parser sends one too for what is open from the start. A click comes before the change.
  details.firstElementChild.addEventListener("click", () => localStorage.setItem(key, details.open ? "closed" : "open"));
}

/** Two frames of the same page are looked at in the same place. */
function pair(frame) {
  const other = [...frame.closest(".pair").querySelectorAll("iframe")].find((one) => one !== frame);
  const scrolled = () => {
    const own = frame.contentDocument?.scrollingElement;
    const its = other?.contentDocument?.scrollingElement;
    if (own && its && Math.abs(own.scrollTop - its.scrollTop) > 1) its.scrollTop = own.scrollTop;
  };
  frame.contentWindow?.addEventListener("scroll", scrolled, { passive: true });
}
document.addEventListener("load", (event) => {
  if (event.target.localName === "iframe" && event.target.closest(".pair")) pair(event.target);
}, true);

/** Looks again at what takes seconds and says how far it is, until it is done. */
async function again() {
  const unfinished = document.querySelector("[data-again]");
  if (!unfinished) return;
  const answer = await fetch(location.href);
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  const now = page.getElementById(unfinished.dataset.again);
  const old = document.getElementById(unfinished.dataset.again);
  if (!answer.ok || !now || !unfinished.isConnected) return;
  old.replaceWith(now);
  soon();
}

/** Looks again in a second, if there is something to wait for. */
function soon() {
  if (document.querySelector("[data-again]")) setTimeout(again, 1000);
}
soon();
