import { mergedFields, type Survey, type Zone } from "./survey-document";

// Two tablets on one survey: parts of the document by the names the server uses for them.
type Fields = Record<string, unknown>;

/** A document by the names of its fields; the names come from the server. */
const fieldsOf = (doc: Survey): Fields => doc as unknown as Fields;
const rulesOf = (doc: Survey): Fields => doc.house as unknown as Fields;

export const same = (a: unknown, b: unknown): boolean => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

const copy = <T>(v: T): T => (v === undefined ? v : (JSON.parse(JSON.stringify(v)) as T));

/** A zone, a house rule ("house.clay") or a field of the document. */
export function partOf(doc: Survey, what: string): unknown {
  if (what.startsWith("house.")) return rulesOf(doc)[what.slice(6)];
  const zone = doc.zones.find((z) => z.zone === what);
  return zone ?? (what === "zones" ? undefined : fieldsOf(doc)[what]);
}

export function setPart(doc: Survey, what: string, value: unknown): void {
  if (what.startsWith("house.")) {
    if (value === undefined) delete rulesOf(doc)[what.slice(6)];
    else rulesOf(doc)[what.slice(6)] = value;
  } else if (isField(doc, what)) {
    if (value === undefined) delete fieldsOf(doc)[what];
    else fieldsOf(doc)[what] = copy(value);
  } else {
    doc.zones = doc.zones.filter((z) => z.zone !== what);
    if (value !== undefined) doc.zones.push(copy(value) as Zone);
    doc.zones.sort((a, b) => (a.zone < b.zone ? -1 : 1));
  }
}

const fields: readonly string[] = mergedFields;

function isField(doc: Survey, what: string): boolean {
  return fields.includes(what) || (what in doc && what !== "zones");
}

/** A document with their version of the parts that it has not touched since it was sent. */
export function rebase(doc: Survey, sent: Survey, theirs: Survey, parts: string[]): Survey {
  const next = copy(doc);
  for (const what of parts) if (same(partOf(next, what), partOf(sent, what))) setPart(next, what, partOf(theirs, what));
  return next;
}
