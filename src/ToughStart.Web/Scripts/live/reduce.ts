import { canBeUndone, isNews, isOnZones, type Entry } from "./log";
import { deriveZone, knew, sorted, type Zone } from "./zone";

/** The other reducer of live runs: Core's Live.Reduce, rule by rule. Both answer to the same vectors, byte by byte. */

export interface Totals {
  ml: Record<string, number>;
  rounds: Record<string, Record<string, number>>;
}

interface Pour {
  product: string;
  ml: number;
  zones: string[];
}

export interface Verdict {
  number: number;
  verdict: string;
  upTo: number;
  overtaken: boolean;
}

export interface State {
  number: number;
  plan: number;
  planUpTo: number;
  started: string | null;
  closed: ({ number: number } & Totals) | null;
  stops: Record<string, { what: string; who: string }>;
  paused: Record<string, string>;
  crew: Record<string, { step: string; zones: string[] }>;
  cautions: Record<string, number>;
  facts: Record<string, readonly Entry[]>;
  zones: Record<string, Zone>;
  undone: Record<string, number>;
  verdicts: Record<string, Verdict>;
  poured: Record<string, Pour>;
  news: number[];
  refused: string[];
  late: string[];
  ignored: { id: string; why: string }[];
  known: Record<string, number>;
  entries: Record<string, Entry>;
}

export const START: State = {
  number: 0,
  plan: 0,
  planUpTo: 0,
  started: null,
  closed: null,
  stops: {},
  paused: {},
  crew: {},
  cautions: {},
  facts: {},
  zones: {},
  undone: {},
  verdicts: {},
  poured: {},
  news: [],
  refused: [],
  late: [],
  ignored: [],
  known: {},
  entries: {},
};

export const zoneOf = (piece: string): string => piece.split(":")[0];

const without = <T>(map: Record<string, T>, ids: readonly string[]): Record<string, T> =>
  Object.fromEntries(Object.entries(map).filter(([id]) => !ids.includes(id)));

/** A zone with the parts of it that are known. */
const piecesOf = (s: State, zone: string): string[] =>
  zone.includes(":") ? [zone] : [zone, ...Object.keys(s.facts).filter((k) => k.startsWith(zone + ":")).sort()];

const factsOn = (s: State, zones: readonly string[]): Entry[] =>
  zones.flatMap((z) => piecesOf(s, z)).flatMap((z) => s.facts[z] ?? []);

export function totalsOf(s: State): Totals {
  const ml: Record<string, number> = {};
  for (const [id, pour] of Object.entries(s.poured)) {
    const twice = pour.zones.filter((z) => s.zones[z]?.joined.includes(id)).length;
    const counts =
      pour.zones.length === 0 ? pour.ml : Math.floor((pour.ml * (pour.zones.length - twice)) / pour.zones.length);
    ml[pour.product] = (ml[pour.product] ?? 0) + counts;
  }
  return { ml: sorted(ml), rounds: sorted(Object.fromEntries(Object.entries(s.zones).map(([z, x]) => [z, x.rounds]))) };
}

function notUndone(s: State, e: Entry): string | null {
  const id = e.body?.of?.length === 1 ? e.body.of[0] : null;
  if (id === null || s.known[id] === undefined) return "names no entry of this run";
  const entry = s.entries[id];
  if (entry === undefined) return `${id} is nothing that can be taken back`;
  if (s.undone[id] !== undefined) return `${id} was taken back already`;
  // A paper card is typed in by one for many.
  if (entry.kind !== "observed" && entry.who !== e.who && !(e.byOwner && e.body?.reason?.trim())) {
    return `${id} is another's: an owner can take it back, with a reason`;
  }
  const later = factsOn(s, entry.body?.zones ?? [])
    .filter((f) => f.kind !== "rescaled" && f.id !== id && knew(f, entry))
    .reduce<Entry | null>((a, f) => (a === null || (f.number ?? 0) < (a.number ?? 0) ? f : a), null);
  return later === null ? null : `${later.id} builds on it`;
}

function refused(s: State, e: Entry): string | null {
  const b = e.body ?? {};
  switch (e.kind) {
    case "started":
      return s.started === null ? null : `the run began with ${s.started}`;
    case "replanned":
      return b.from === s.plan ? null : `made from plan ${b.from}, plan ${s.plan} counts`;
    case "judged": {
      const later = factsOn(s, b.zones ?? []).find((f) => (f.number ?? 0) > (b.upTo ?? 0));
      return later ? `${later.id} came to the zone since` : null;
    }
    case "closed":
      if (s.closed) return "is closed already";
      return b.upTo === (e.number ?? 0) - 1 ? null : `made up to ${b.upTo}, ${(e.number ?? 0) - 1} is the last`;
    case "corrected":
      return s.closed ? null : "is not closed";
    case "undone":
      return notUndone(s, e);
    case "applied":
    case "rewetted":
      return b.win === undefined || b.treatment === undefined ? "says not what is on, or for how long" : null;
    default:
      return null;
  }
}

const after = (a: Entry, b: Entry): boolean =>
  a.when.at > b.when.at || (a.when.at === b.when.at && (a.number ?? 0) > (b.number ?? 0));

function overtake(s: State, zones: readonly string[], number: number): State {
  const verdicts = { ...s.verdicts };
  for (const z of new Set(zones.map(zoneOf))) {
    if (verdicts[z] && number > verdicts[z].upTo) verdicts[z] = { ...verdicts[z], overtaken: true };
  }
  return { ...s, verdicts };
}

function derived(s: State, zones: readonly string[]): State {
  const now = { ...s.zones };
  for (const z of zones) now[z] = deriveZone(s.facts[z]);
  return { ...s, zones: now };
}

function onZones(s: State, e: Entry): State {
  const facts = { ...s.facts };
  const touched = [...new Set((e.body?.zones ?? []).flatMap((z) => piecesOf(s, z)))];
  for (const z of touched) {
    // What was rinsed whole was rinsed in all its parts.
    const whole = zoneOf(z) !== z ? (facts[zoneOf(z)] ?? []).filter((f) => f.kind === "rinsed") : [];
    const list = [...(facts[z] ?? whole)];
    let at = list.length;
    while (at > 0 && after(list[at - 1], e)) at--;
    list.splice(at, 0, e);
    facts[z] = list;
  }
  return overtake(derived({ ...s, facts }, touched), touched, e.number ?? 0);
}

function undo(s: State, e: Entry): State {
  const id = e.body!.of![0];
  const entry = s.entries[id];
  const touched = Object.keys(s.facts).filter((z) => s.facts[z].some((f) => f.id === id));
  const facts = { ...s.facts };
  for (const z of touched) facts[z] = facts[z].filter((f) => f.id !== id);
  const now: State = {
    ...s,
    undone: { ...s.undone, [id]: e.number ?? 0 },
    facts,
    poured: without(s.poured, [id]),
    crew: entry.kind === "taken" ? without(s.crew, [entry.who ?? ""]) : s.crew,
  };
  return overtake(derived(now, touched), touched, e.number ?? 0);
}

function proves(zone: Zone | undefined, need: readonly string[], whole: boolean): boolean {
  if (zone === undefined) return !whole || need.length === 0;
  const doubtful = zone.last?.verdict === "dried" || zone.last?.verdict === "unsure";
  const says = (look: string): boolean => {
    const l = zone.looks[look];
    return l !== undefined && !l.void && l.result !== "inconclusive";
  };
  return Object.keys(zone.lines).length === 0 && !doubtful && (!whole || need.every(says));
}

function judge(s: State, e: Entry): State {
  const b = e.body ?? {};
  const verdicts = { ...s.verdicts };
  for (const z of b.zones ?? []) {
    const overtaken = b.verdict === "ready" && piecesOf(s, z).some((p) => !proves(s.zones[p], b.need ?? [], p === z));
    verdicts[z] = { number: e.number ?? 0, verdict: b.verdict ?? "", upTo: b.upTo ?? 0, overtaken };
  }
  return { ...s, verdicts };
}

function taken(before: State, e: Entry): State {
  const b = e.body ?? {};
  const number = e.number ?? 0;
  let s = before;
  if (canBeUndone(e.kind)) s = { ...s, entries: { ...s.entries, [e.id]: e } };
  if (isNews(e.kind)) s = { ...s, news: [...s.news, number] };
  const product = b.product ?? b.treatment;
  if ((b.ml ?? 0) > 0 && product !== undefined) {
    const zones = e.kind === "applied" ? (b.zones ?? []) : [];
    s = { ...s, poured: { ...s.poured, [e.id]: { product, ml: b.ml!, zones } } };
  }
  if (isOnZones(e.kind)) s = onZones(s, e);
  switch (e.kind) {
    case "started":
      return { ...s, started: e.id, plan: b.plan ?? 0, planUpTo: number };
    case "replanned": {
      if (b.plan === undefined) {
        const kept = b.hash === undefined || s.refused.includes(b.hash);
        return kept ? s : { ...s, refused: [...s.refused, b.hash!] };
      }
      const upTo = b.upTo ?? s.planUpTo;
      return { ...s, plan: b.plan ?? s.plan, planUpTo: upTo, news: s.news.filter((n) => n > upTo) };
    }
    case "taken":
      return { ...s, crew: { ...s.crew, [e.who ?? ""]: { step: b.step ?? "", zones: b.zones ?? [] } } };
    case "left":
      return { ...s, crew: without(s.crew, [e.who ?? ""]) };
    case "cautioned": {
      const cautions = { ...s.cautions };
      for (const c of b.cautions ?? []) cautions[c] ??= number;
      return { ...s, cautions };
    }
    case "happened":
      return b.what === "gas" || b.what === "hurt"
        ? { ...s, stops: { ...s.stops, [e.id]: { what: b.what, who: e.who ?? "" } } }
        : s;
    case "paused":
      return { ...s, paused: { ...s.paused, [e.id]: b.reason ?? "" } };
    case "resumed":
      return { ...s, paused: without(s.paused, b.of ?? []), stops: without(s.stops, b.of ?? []) };
    case "undone":
      return undo(s, e);
    case "judged":
      return judge(s, e);
    case "closed":
    case "corrected":
      return { ...s, closed: { number, ...totalsOf(s) } };
    default:
      return s;
  }
}

/** Takes in one entry; one that is known changes nothing, nonsense is kept aside with why. */
export function reduce(s: State, e: Entry): State {
  if (s.known[e.id] !== undefined) return s;
  const now: State = {
    ...s,
    number: Math.max(s.number, e.number ?? 0),
    known: { ...s.known, [e.id]: e.number ?? 0 },
    late: s.closed && e.kind !== "corrected" ? [...s.late, e.id] : s.late,
  };
  const why = refused(s, e);
  return why === null ? taken(now, e) : { ...now, ignored: [...now.ignored, { id: e.id, why }] };
}

/** The state as both reducers write it. */
export function write(s: State): string {
  return JSON.stringify({
    number: s.number,
    plan: s.plan,
    planUpTo: s.planUpTo,
    started: s.started,
    closed: s.closed,
    stops: sorted(s.stops),
    paused: sorted(s.paused),
    crew: sorted(s.crew),
    cautions: sorted(s.cautions),
    facts: sorted(Object.fromEntries(Object.entries(s.facts).map(([z, facts]) => [z, facts.map((f) => f.id)]))),
    zones: sorted(s.zones),
    undone: sorted(s.undone),
    verdicts: sorted(s.verdicts),
    totals: totalsOf(s),
    news: s.news,
    refused: s.refused,
    late: s.late,
    ignored: s.ignored,
    known: sorted(s.known),
  });
}
