/** Text as it may stand in a page. */
export const esc = (s: string): string => s.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

export const capital = (w: string): string => w.charAt(0).toUpperCase() + w.slice(1);

export const lower = (w: string): string => w.charAt(0).toLowerCase() + w.slice(1);

/** An element with what is in it, written already. */
export const el = (tag: string, cls: string, inside: string, more = ""): string =>
  `<${tag}${cls === "" ? "" : ` class="${cls}"`}${more === "" ? "" : ` ${more}`}>${inside}</${tag}>`;

/** Something to press: what it does, and to what. */
export function press(what: string, inside: string, about: { word?: string; piece?: string; cls?: string; pressed?: boolean } = {}): string {
  const more = [
    `data-do="${what}"`,
    about.word === undefined ? "" : `data-word="${esc(about.word)}"`,
    about.piece === undefined ? "" : `data-piece="${esc(about.piece)}"`,
    about.pressed === undefined ? "" : `aria-pressed="${about.pressed}"`,
  ];
  return el("button", about.cls ?? "", inside, more.filter((m) => m !== "").join(" "));
}
