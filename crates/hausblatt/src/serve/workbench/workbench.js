// Forms whose answer shows while one types. Without this script the same pages work by their buttons.
"use strict";

/** Asks for the page of a form and puts in the parts that the form says are live. */
async function refresh(form) {
  const address = `${form.getAttribute("action")}?${new URLSearchParams(new FormData(form))}`;
  const answer = await fetch(address);
  if (!answer.ok) return;
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  for (const id of form.dataset.live.split(" ")) {
    const old = document.getElementById(id);
    const now = page.getElementById(id);
    if (!old || !now) continue;
    if (old.localName !== "iframe") old.replaceWith(now);
    else if (old.getAttribute("src") !== now.getAttribute("src")) old.src = now.getAttribute("src");
  }
  history.replaceState(null, "", address);
}

for (const form of document.querySelectorAll("form[data-live]")) {
  let waiting = 0;
  form.addEventListener("input", () => {
    clearTimeout(waiting);
    waiting = setTimeout(refresh, 120, form);
  });
}

/** Looks again at what takes seconds and says how far it is, until it is done. */
async function again(id) {
  const answer = await fetch(location.href);
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  const now = page.getElementById(id);
  if (!answer.ok || !now) return;
  document.getElementById(id).replaceWith(now);
  if (now.querySelector("[data-again]")) setTimeout(again, 1000, id);
}

const unfinished = document.querySelector("[data-again]");
if (unfinished) setTimeout(again, 1000, unfinished.dataset.again);
