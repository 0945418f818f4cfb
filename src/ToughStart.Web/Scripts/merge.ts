// Two tablets on one survey: parts of the document by the names the server uses for them.
export interface Merging {
  house: Record<string, string>;
  zones: { zone: string }[];
  [key: string]: unknown;
}

export const same = (a: unknown, b: unknown): boolean => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

const copy = <T>(v: T): T => (v === undefined ? v : (JSON.parse(JSON.stringify(v)) as T));

/** A zone, a house rule ("house.clay") or a field of the document. */
export function partOf(doc: Merging, what: string): unknown {
  if (what.startsWith("house.")) return doc.house[what.slice(6)];
  const zone = doc.zones.find((z) => z.zone === what);
  return zone ?? (what === "zones" ? undefined : doc[what]);
}

export function setPart(doc: Merging, what: string, value: unknown): void {
  if (what.startsWith("house.")) {
    if (value === undefined) delete doc.house[what.slice(6)];
    else doc.house[what.slice(6)] = value as string;
  } else if (isField(doc, what)) {
    if (value === undefined) delete doc[what];
    else doc[what] = copy(value);
  } else {
    doc.zones = doc.zones.filter((z) => z.zone !== what);
    if (value !== undefined) doc.zones.push(copy(value) as { zone: string });
    doc.zones.sort((a, b) => (a.zone < b.zone ? -1 : 1));
  }
}

const fields = ["goal", "vehicle", "history", "site", "shelf", "kit", "lean", "stockOnly", "declines", "crew"];

function isField(doc: Merging, what: string): boolean {
  return fields.includes(what) || (what in doc && what !== "zones");
}

/** A document with their version of the parts that it has not touched since it was sent. */
export function rebase<T extends Merging>(doc: T, sent: Merging, theirs: Merging, parts: string[]): T {
  const next = copy(doc);
  for (const what of parts) if (same(partOf(next, what), partOf(sent, what))) setPart(next, what, partOf(theirs, what));
  return next;
}
