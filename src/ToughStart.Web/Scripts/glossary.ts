// Any word of the trade or of the house on a page opens what it means here.
type Entry = { word: string; also: string[]; meaning: string; id: string };

/** Marks the first place of every word on the page; what is pressed, typed or drawn is left alone. */
export async function glossary(): Promise<void> {
  const main = document.querySelector<HTMLElement>("main");
  if (!main || !document.body.dataset.page || document.body.dataset.page === "words") return;
  const kept = sessionStorage.getItem("words");
  const text = kept ?? (await fetch("/words?handler=List").then((a) => (a.ok ? a.text() : ""), () => ""));
  if (!text) return;
  if (!kept) sessionStorage.setItem("words", text);
  const entries = JSON.parse(text) as Entry[];
  const forms = new Map(entries.flatMap((e) => [e.word, ...e.also].map((w) => [w.toLowerCase(), e] as const)));
  const any = new RegExp(`\\b(${[...forms.keys()].sort((a, b) => b.length - a.length).join("|")})\\b`, "i");
  const says = document.createElement("div");
  says.className = "gloss-says";
  says.popover = "auto";
  document.body.append(says);
  const open = (e: Entry) => {
    const word = document.createElement("b");
    word.textContent = e.word;
    says.replaceChildren(word, e.meaning);
    says.showPopover();
  };
  const done = new Set<Entry>();
  const walk = document.createTreeWalker(main, NodeFilter.SHOW_TEXT);
  const places: Text[] = [];
  while (walk.nextNode()) {
    const at = (walk.currentNode as Text).parentElement!;
    if (at.matches("p,li,dd,dt,td,small,span,em") && !at.closest("a,button,label,summary,svg,select,fieldset.result,[x-text],[role],template,[aria-hidden],.page-h,.card"))
      places.push(walk.currentNode as Text);
  }
  for (const place of places) {
    const m = any.exec(place.data);
    const e = m && forms.get(m[1].toLowerCase());
    if (!m || !e || done.has(e)) continue;
    done.add(e);
    const rest = place.splitText(m.index);
    rest.data = rest.data.slice(m[1].length);
    const b = document.createElement("button");
    b.type = "button";
    b.className = "gloss";
    b.textContent = m[1];
    b.addEventListener("click", () => open(e));
    place.after(b);
  }
}
