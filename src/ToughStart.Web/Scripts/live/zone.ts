import type { Entry, Win } from "./log";

export type RoundEnd = "ok" | "short" | "dried" | "unsure";

/** A film on a panel that nobody has surely rinsed; times in ms. */
export interface Line {
  id: string;
  last: string;
  who: string;
  round: number;
  first: number;
  start: number;
  dwell: number;
  usable: number;
  dry: number;
  max: number;
  dried: boolean;
  perhaps: string | null;
}

export interface Look {
  number: number;
  result: string;
  void: boolean;
}

/** What follows of one zone's list of facts. */
export interface Zone {
  rounds: Record<string, number>;
  /** Of the rounds, those that dried on the panel: they count as not done. */
  dried: Record<string, number>;
  lines: Record<string, Line[]>;
  last: { number: number; treatment: string; verdict: RoundEnd } | null;
  looks: Record<string, Look>;
  skipped: Record<string, string>;
  marks: string[];
  joined: string[];
  orphans: number;
}

/** Had the maker of an entry seen another? */
export const knew = (entry: Entry, other: Entry): boolean =>
  (entry.device === other.device && (entry.seq ?? 0) > (other.seq ?? 0) && (other.seq ?? 0) > 0) ||
  ((other.number ?? 0) > 0 && (entry.after ?? 0) >= (other.number ?? 0));

/** The latest moment at which it must be off. */
export const rinseBy = (line: Line): number => Math.min(line.usable, line.max);

/** Looks that read what chemistry does on the panel: after a round that dried or of which nobody knows they say nothing. */
const READS = ["bleed"];

interface Film {
  head: Entry;
  last: Entry;
  all: Entry[];
  line: Line;
  treatment: string;
}

interface Ended {
  first: Entry;
  end: Entry;
  treatment: string;
  round: number;
}

type Span = { from: number; to: number };

/** Time between two facts: by one clock where it is one, else by what both surely lie between. */
function between(a: Entry, b: Entry): Span {
  if (a.device === b.device && (a.epoch ?? "") === (b.epoch ?? "")) {
    const ms = (b.mono ?? 0) - (a.mono ?? 0);
    return { from: ms, to: ms };
  }
  return { from: b.when.lo - a.when.hi, to: b.when.hi - a.when.lo };
}

function verdictOf(film: Film, rinse: Entry): RoundEnd {
  if (film.line.dried) return "dried";
  const wet = between(film.last, rinse);
  const dry = film.line.dry - film.line.start;
  const stayed = between(film.head, rinse);
  if (wet.from >= dry) return "dried";
  if (wet.to >= dry) return "unsure";
  if (stayed.to < film.line.dwell) return "short";
  return stayed.from < film.line.dwell ? "unsure" : "ok";
}

/** Names in their order, as the other reducer has them. */
export function sorted<T>(map: Record<string, T>): Record<string, T> {
  return Object.fromEntries(Object.entries(map).sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0)));
}

/** Works out what follows of one zone's facts, in the order in which they happened. */
export function deriveZone(facts: readonly Entry[]): Zone {
  let films: Film[] = [];
  const rinses: Entry[] = [];
  let ended: Ended[] = [];
  const works: Ended[] = [];
  const zone: Zone = { rounds: {}, dried: {}, lines: {}, last: null, looks: {}, skipped: {}, marks: [], joined: [], orphans: 0 };

  const count = (treatment: string, rounds: number): void => {
    if (rounds > 0) zone.rounds[treatment] = (zone.rounds[treatment] ?? 0) + rounds;
  };

  function wet(f: Entry): void {
    const b = f.body!;
    const win = b.win as Win;
    const known = films.filter((x) => x.treatment === b.treatment && knew(f, x.last));
    films = films.filter((x) => !known.includes(x));
    const oldest = known.reduce<Film | null>((a, x) => (a === null || x.line.first < a.line.first ? x : a), null);
    const head = oldest?.head ?? f;
    const rinsed = rinses.find((r) => r.when.hi >= f.when.lo && !knew(f, r) && !knew(r, f));
    const line: Line = {
      id: head.id,
      last: f.id,
      who: head.who ?? "",
      round: known[0]?.line.round ?? b.round ?? 1,
      first: oldest?.line.first ?? f.when.lo,
      start: f.when.lo,
      dwell: head.body!.win!.dwell,
      usable: f.when.lo + win.usable,
      dry: f.when.lo + win.dry,
      max: known.length === 0 ? f.when.lo + win.max : Math.min(...known.map((x) => x.line.max)),
      dried: known.some((x) => x.line.dried || f.when.hi > x.line.dry),
      perhaps: known.length > 0 ? null : (rinsed?.id ?? null),
    };
    films.push({ head, last: f, all: [...known.flatMap((x) => x.all), f], line, treatment: b.treatment! });
  }

  function rinse(f: Entry): void {
    rinses.push(f);
    if (films.length === 0) {
      zone.orphans++;
      return;
    }
    const off = films.filter((x) => knew(f, x.last) || f.when.lo > x.last.when.hi);
    films = films.filter((x) => !off.includes(x));
    for (const x of films) x.line = { ...x.line, perhaps: x.line.perhaps ?? f.id };
    for (const treatment of new Set(off.map((x) => x.treatment))) {
      const group = off
        .filter((x) => x.treatment === treatment)
        .sort((a, b) => a.line.first - b.line.first || (a.head.number ?? 0) - (b.head.number ?? 0));
      const verdicts = new Set(group.map((x) => verdictOf(x, f)));
      let verdict: RoundEnd = verdicts.size === 1 ? [...verdicts][0] : "unsure";
      const first = group[0];
      const before = ended.find(
        (e) =>
          e.treatment === treatment &&
          e.round === first.line.round &&
          first.all.every((a) => !knew(a, e.first) && !knew(a, e.end) && !knew(e.first, a) && !knew(e.end, a)) &&
          first.head.when.lo <= e.end.when.hi,
      );
      zone.joined.push(...(before ? group : group.slice(1)).flatMap((x) => x.all).map((a) => a.id));
      if (before) {
        verdict = "unsure";
        ended = ended.filter((e) => e !== before);
      } else {
        count(treatment, 1);
      }
      ended.push({ first: before?.first ?? first.head, end: f, treatment, round: first.line.round });
      zone.last = { number: f.number ?? 0, treatment, verdict };
      if (verdict === "dried") zone.dried[treatment] = (zone.dried[treatment] ?? 0) + 1;
    }
  }

  function work(f: Entry): void {
    const b = f.body!;
    const round = b.round ?? 1;
    const treatment = b.treatment ?? "";
    if (works.some((e) => e.treatment === treatment && e.round === round && !knew(f, e.end) && !knew(e.end, f))) {
      zone.joined.push(f.id);
      return;
    }
    count(treatment, 1);
    works.push({ first: f, end: f, treatment, round });
  }

  function see(f: Entry): void {
    const { observe, result } = f.body!;
    if (observe === undefined || result === undefined) return;
    const doubtful = zone.last?.verdict === "dried" || zone.last?.verdict === "unsure";
    zone.looks[observe] = { number: f.number ?? 0, result, void: READS.includes(observe) && doubtful };
  }

  function rescale(f: Entry): void {
    const { there, perMille = 1000 } = f.body!;
    const by = there ? perMille : Math.min(1000, perMille);
    const at = (deadline: number): number =>
      deadline <= f.when.lo ? deadline : f.when.lo + Math.floor(((deadline - f.when.lo) * by) / 1000);
    for (const x of films) {
      if (x.line.dry > f.when.lo) x.line = { ...x.line, usable: at(x.line.usable), dry: at(x.line.dry) };
    }
  }

  for (const f of facts) {
    const b = f.body!;
    switch (f.kind) {
      case "applied":
      case "rewetted":
        wet(f);
        break;
      case "rinsed":
        rinse(f);
        break;
      case "worked":
        work(f);
        break;
      case "observed":
        count(b.treatment ?? "", b.rounds ?? 0);
        see(f);
        break;
      case "seen":
        see(f);
        break;
      case "rescaled":
        rescale(f);
        break;
      case "skipped":
        if (b.step !== undefined) zone.skipped[b.step] = b.reason ?? "";
        break;
      case "happened":
        if (b.what === "dried-on") for (const x of films) x.line = { ...x.line, dried: true };
        if (b.what === "mark") zone.marks.push(f.id);
        break;
      default:
        break;
    }
  }

  for (const x of films) (zone.lines[x.treatment] ??= []).push(x.line);
  return {
    ...zone,
    rounds: sorted(zone.rounds),
    dried: sorted(zone.dried),
    lines: sorted(zone.lines),
    looks: sorted(zone.looks),
    skipped: sorted(zone.skipped),
  };
}
