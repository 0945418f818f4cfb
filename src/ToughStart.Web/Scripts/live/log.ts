/** Entries of a live log, toughstart.log/1, as the server writes and reads them. Times in ms. */

export type Kind =
  | "taken" | "left" | "cautioned" | "applied" | "rewetted" | "rinsed" | "rescaled" | "worked" | "seen" | "observed" | "measured"
  | "used" | "skipped" | "happened" | "paused" | "resumed" | "undone"
  | "started" | "replanned" | "judged" | "closed" | "corrected";

/** Kinds that change what counts from here: made with the server alone, never queued. */
const DECISIONS: readonly Kind[] = ["started", "replanned", "judged", "closed", "corrected"];
const UNDOABLE: readonly Kind[] = [
  "applied", "rewetted", "rinsed", "worked", "seen", "observed", "measured", "skipped", "used", "taken",
];
const NEWS: readonly Kind[] = ["applied", "rewetted", "rinsed", "worked", "seen", "observed", "skipped", "undone"];
const ON_ZONES: readonly Kind[] = [
  "applied", "rewetted", "rinsed", "worked", "seen", "observed", "skipped", "rescaled", "measured", "happened",
];

export const isDecision = (kind: Kind): boolean => DECISIONS.includes(kind);
export const canBeUndone = (kind: Kind): boolean => UNDOABLE.includes(kind);
export const isNews = (kind: Kind): boolean => NEWS.includes(kind);
export const isOnZones = (kind: Kind): boolean => ON_ZONES.includes(kind);

/** How long a film may stay: worked, to be rinsed by, first dry spots, the label's longest from the first application. */
export interface Win {
  dwell: number;
  usable: number;
  dry: number;
  max: number;
}

export interface Moment {
  at: number;
  lo: number;
  hi: number;
}

export interface Body {
  zones?: string[];
  step?: string;
  test?: string;
  treatment?: string;
  strength?: number;
  round?: number;
  mix?: number;
  product?: string;
  ml?: number;
  win?: Win;
  perMille?: number;
  there?: boolean;
  observe?: string;
  result?: string;
  because?: string;
  spot?: string;
  elsewhere?: boolean;
  what?: string;
  value?: number;
  reason?: string;
  of?: string[];
  cautions?: string[];
  plan?: number;
  from?: number;
  hash?: string;
  answer?: string;
  upTo?: number;
  verdict?: string;
  need?: string[];
  crew?: string[];
  rounds?: number;
}

export interface Entry {
  id: string;
  device: string;
  seq?: number;
  epoch?: string;
  mono?: number;
  after?: number;
  rev?: number;
  who?: string;
  kind: Kind;
  body?: Body;
  when: Moment;
  number?: number;
  received?: number;
  byOwner?: boolean;
}
