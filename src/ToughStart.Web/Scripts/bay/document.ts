import type { Entry } from "../live/log";

/** What the server gives a phone to work with: see BayDesk. */

/** dwell, usable, dry, max in ms, one a quarter-hour. */
export type Quarter = [number, number, number, number];

export interface ZoneOfStep {
  id: string;
  rounds: number;
  ml: number;
  solution: number;
  win: Quarter[] | null;
}

export interface AnswerOf {
  word: string;
  look: string;
  say: string;
  stop: boolean;
  drawing: string;
}

export interface Step {
  key: string;
  number: string;
  stage: string;
  name: string;
  treatment: string;
  agent: string;
  agentName: string;
  water: boolean;
  look: "foam" | "iron" | "gel" | "film";
  strength: number;
  ratio: string;
  bottle: { name: string; colour: string | null; mix: number | null; left: number } | null;
  mixFirst: string | null;
  missing: string | null;
  product: string;
  tool: string;
  line: boolean;
  under: boolean;
  over: string | null;
  zones: ZoneOfStep[];
  sections: string[][];
  words: Record<string, string>;
  until: { observe: string; ask: string; how: string; most: number; then: string; answers: AnswerOf[] } | null;
  why: string;
  kit: string;
  kitPieces: string[];
  cautions: { id: string; words: string }[];
  avoid: string[];
  cool: string | null;
  minutes: number;
}

export interface ZoneOfNet {
  id: string;
  words: string;
  path: string;
  box: [number, number, number, number];
  glass: boolean;
}

/** A word of the log, as people say it. */
export interface Said {
  id: string;
  words: string;
}

export interface Doc {
  job: number;
  vehicle: string;
  plate: string;
  station: string;
  /** What is deployed; the page may be of another build. */
  build: string;
  csrf: string | null;
  me: { who: string; mayEdit: boolean; owner: boolean; ticket: string };
  people: Record<string, string>;
  plan: number;
  hash: string;
  referOnly: boolean;
  drying: string;
  opening: string[];
  now: number;
  from: number;
  quarterMs: number;
  net: { zones: ZoneOfNet[]; box: [number, number, number, number] };
  steps: Step[];
  /** When the run was begun, ms; null while it is not, as this document knows it. */
  begun: number | null;
  /** How the timeline has it, moments in ms: as it was laid out, as it stands, and what lies that nobody can be at in time. */
  turns: { due: Turn[]; next: Turn[]; late: { step: string; zones: string[]; by: number; seconds: number; who: string; words: string }[] } | null;
  done: string[];
  /** Number of the last entry that this document knows of. */
  head: number;
  /** The log from its beginning, for a page that has just begun. */
  log?: Entry[] | null;
  /** What the server holds of another round, zone by zone: more than the word of an answer. */
  loops: { zone: string; step: string; again: boolean; words: string }[];
  becauses: Said[];
  troubles: Said[];
  offer: { hash: string; because: string[]; changes: string[]; minutes: number } | null;
}

/** A step that is somebody's by the timeline, from when to when, ms. */
export interface Turn {
  step: string;
  who: string;
  from: number;
  to: number;
}
