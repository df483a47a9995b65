// Answers a built site's search in the browser. The page has a field named "q"; results stand in the element
// with the id "search-results", or else at the end of <main>. Its data-more, data-titles and data-failed are the words
// of the button for more results, of the note that short words are only looked for in titles, and of what is said
// where the index can't be loaded.
(() => {
  const query = new URLSearchParams(location.search).get("q") ?? "";
  for (const field of document.querySelectorAll('input[name="q"]')) field.value = query;
  const fold = (text) => text.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();
  const words = (text) => fold(text).match(/[\p{Alphabetic}\p{N}]+/gu) ?? [];
  // Of a query, 200 characters and 16 different words count.
  const wanted = [...new Set(words([...query].slice(0, 200).join("")))].slice(0, 16);
  if (wanted.length === 0) return;
  const here = document.currentScript.src;
  const load = async (name) => {
    const answer = await fetch(new URL(name + new URL(here).search, here));
    if (!answer.ok) throw new Error(`${name}: ${answer.status}`);
    return answer.json();
  };
  const atOnce = 20, weights = [12, 4, 1];
  // Less than three letters of the Latin alphabet, or as many bytes of another one.
  const isShort = (word) => new TextEncoder().encode(word).length < 3;

  // What each entry counts for, of lists of rising numbers, each among those that no list before it has. They are written as
  // the distances between them in Golomb-Rice codes: zeros for the upper bits, a one, the lower bits. A digit is six bits, the
  // first one the lowest; the first digit says how many lower bits there are.
  const digits = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz-_";
  const counted = (lists, weights) => {
    const found = new Map();
    lists.forEach((list, place) => {
      const low = digits.indexOf(list[0]);
      let next = 0, distance = 0, lower = -1;
      for (const character of list.slice(1)) {
        const digit = digits.indexOf(character);
        for (let at = 0; at < 6; at++) {
          const bit = (digit >> at) & 1;
          if (lower >= 0) distance += bit * 2 ** lower++;
          else if (bit) lower = 0;
          else distance += 2 ** low;
          if (lower < low) continue;
          for (; distance > 0 || found.has(next); next++) {
            if (!found.has(next)) distance--;
          }
          found.set(next++, weights[place]);
          lower = -1;
        }
      }
    });
    return found;
  };

  const fileName = (name) =>
    name.replace(/[^a-z0-9]/gu, (character) => `_${character.codePointAt(0).toString(16)}_`);

  // What each entry counts for that has a word, or one that begins so.
  const counts = async (word, parts) => {
    const characters = [...word];
    const short = isShort(word);
    const names = new Set(short ? parts.titles : parts.words);
    let name = null;
    for (let length = 0; length <= characters.length; length++) {
      const beginning = characters.slice(0, length).join("");
      if (names.has(beginning)) name = beginning;
    }
    if (name === null) return new Map();
    const part = await load(`index/${short ? "t" : "w"}-${fileName(name)}.json`);
    // Twice as much where it is the whole word.
    if (part.all) return name === word ? counted(part.all, weights.flatMap((weight) => [2 * weight, weight])) : new Map();
    const found = new Map();
    for (const [other, lists] of Object.entries(part.words)) {
      if (!other.startsWith(word)) continue;
      const times = other === word ? 2 : 1;
      for (const [number, count] of counted(lists, weights.map((weight) => times * weight))) {
        found.set(number, Math.max(found.get(number) ?? 0, count));
      }
    }
    return found;
  };

  const place = () => {
    let found = document.getElementById("search-results");
    if (!found) {
      found = document.createElement("div");
      found.id = "search-results";
      (document.querySelector("main") ?? document.body).append(found);
    }
    found.setAttribute("role", "status");
    return found;
  };

  const line = (text) => {
    const made = document.createElement("p");
    made.textContent = text;
    return made;
  };

  const failed = (error) => {
    const results = place();
    results.replaceChildren(line(results.dataset.failed ?? "The search can't be loaded. Try again later."));
    console.error(error);
  };

  const show = (found, parts) => {
    const results = place();
    const list = document.createElement("ol");
    const more = document.createElement("button");
    more.type = "button";
    more.textContent = results.dataset.more ?? "More results";
    const blocks = new Map();
    const block = (number) => {
      const at = Math.floor(number / parts.block);
      if (!blocks.has(at)) blocks.set(at, load(`index/e-${at}.json`));
      return blocks.get(at);
    };
    const next = async () => {
      const numbers = found.splice(0, atOnce);
      const shown = await Promise.all(numbers.map(async (number) => (await block(number))[number % parts.block]));
      let first = null;
      for (const [address, title, summary] of shown) {
        const item = document.createElement("li");
        const link = document.createElement("a");
        link.href = address;
        link.textContent = title;
        item.append(link, line(summary));
        list.append(item);
        first ??= link;
      }
      if (found.length === 0) more.remove();
      return first;
    };
    // Who works with a keyboard goes on with the first of them.
    more.addEventListener("click", () => next().then((first) => first?.focus(), failed));
    const parted = [line(`${query}: ${found.length}`)];
    if (wanted.some(isShort)) {
      parted.push(line(results.dataset.titles ?? "Words of one or two letters are only looked for in titles."));
    }
    results.replaceChildren(...parted, list);
    if (found.length > atOnce) results.append(more);
    return next();
  };

  const answer = async () => {
    const parts = await load("index.json");
    const [first, ...others] = await Promise.all(wanted.map((word) => counts(word, parts)));
    const ranked = [];
    for (const [number, count] of first) {
      if (others.every((found) => found.has(number))) {
        ranked.push([others.reduce((total, found) => total + found.get(number), count), number]);
      }
    }
    ranked.sort(([a, left], [b, right]) => b - a || left - right);
    await show(ranked.map(([, number]) => number), parts);
  };
  answer().catch(failed);
})();
