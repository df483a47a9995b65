// Answers a built site's search in the browser. The page has a field named "q"; results stand in the element
// with the id "search-results", or else at the end of <main>.
(() => {
  const query = new URLSearchParams(location.search).get("q") ?? "";
  for (const field of document.querySelectorAll('input[name="q"]')) field.value = query;
  const fold = (text) => text.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();
  const words = (text) => fold(text).match(/[\p{Alphabetic}\p{N}]+/gu) ?? [];
  // Of a query, 200 characters and 16 different words count.
  const wanted = [...new Set(words([...query].slice(0, 200).join("")))].slice(0, 16);
  if (wanted.length === 0) return;
  const here = document.currentScript.src;

  const rank = (entry) => {
    const places = [[words(entry.title), 12], [words(entry.summary), 4], [entry.words.split(" "), 1]];
    let total = 0;
    for (const word of wanted) {
      let best = 0;
      for (const [found, weight] of places) {
        for (const other of found) {
          if (other.startsWith(word)) best = Math.max(best, other === word ? 2 * weight : weight);
        }
      }
      if (best === 0) return 0;
      total += best;
    }
    return total;
  };

  const show = (found) => {
    let place = document.getElementById("search-results");
    if (!place) {
      place = document.createElement("div");
      place.id = "search-results";
      (document.querySelector("main") ?? document.body).append(place);
    }
    place.setAttribute("role", "status");
    const list = document.createElement("ol");
    for (const entry of found) {
      const item = document.createElement("li");
      const link = document.createElement("a");
      link.href = entry.address;
      link.textContent = entry.title;
      const summary = document.createElement("p");
      summary.textContent = entry.summary;
      item.append(link, summary);
      list.append(item);
    }
    const count = document.createElement("p");
    count.textContent = `${query}: ${found.length}`;
    place.replaceChildren(count, list);
  };

  fetch(new URL("index.json" + new URL(here).search, here)).then((answer) => answer.json()).then((entries) => {
    const ranked = entries.map((entry) => [rank(entry), entry]).filter(([total]) => total > 0);
    ranked.sort(([a, left], [b, right]) => b - a || (left.address < right.address ? -1 : 1));
    show(ranked.map(([, entry]) => entry));
  });
})();
