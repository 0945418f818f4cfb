import { isDecision, type Body, type Entry, type Kind } from "../live/log";
import { place } from "../live/place";
import { reduce, START, type State } from "../live/reduce";
import { Clock } from "./clock";
import type { Doc } from "./document";
import { Store, type Own, type Waiting } from "./store";

const MOST_SENT = 100;
const POLL_MS = 20_000;
const LIMIT_MS = 10_000;
const LONGEST_RETRY_MS = 30_000;
/** A proposal is asked for when nothing was said for so long. */
const QUIET_MS = 2000;

interface Synced {
  now: number;
  head: number;
  more: boolean;
  acks: [string, number][];
  events: Entry[];
  aside: { id: string; why: string }[];
  signIn: boolean;
  conflict: boolean;
  reset: boolean;
  want?: number;
}

export type Link = "live" | "waiting" | "offline" | "sign-in";

/**
 * One job on this phone: facts are queued and never lost, the stored log is folded by its numbers, and what waits is folded on top of it.
 */
export class Run {
  doc: Doc | null = null;
  state: State = START;
  /** Entries the server can never take, with why. */
  aside: Waiting[] = [];
  link: Link = "waiting";
  offlineSince: number | null = null;
  readonly clock: Clock;
  private confirmed: State = START;
  private lastId = "";
  private own!: Own;
  private queue: Waiting[] = [];
  private store!: Store;
  private busy = false;
  private again = false;
  private retry = 0;
  private timer = 0;
  private quiet = 0;

  constructor(
    readonly job: number,
    private readonly csrf: string,
    private readonly changed: () => void,
  ) {
    this.clock = new Clock(() => void this.sync());
  }

  get waiting(): number {
    return this.queue.filter((w) => w.aside === undefined).length;
  }

  get device(): string {
    return this.own.device;
  }

  async open(): Promise<void> {
    this.store = await Store.open();
    void navigator.storage?.persist?.();
    this.own = await this.store.own(this.job);
    await this.store.keepOwn(this.own);
    this.queue = await this.store.queue(this.job);
    this.aside = this.queue.filter((w) => w.aside !== undefined);
    for (const e of await this.store.log(this.job)) this.confirm(e);
    this.doc = (await this.store.doc(this.job)) ?? null;
    this.fold();
    addEventListener("online", () => void this.sync());
    document.addEventListener("visibilitychange", () => {
      if (document.visibilityState === "visible") void this.sync();
    });
    await this.first();
    void this.sync();
  }

  /** The document and the log in one answer, asked for while the script was still on its way. */
  private async first(): Promise<void> {
    const url = `/api/v1/jobs/${this.job}/bay`;
    try {
      const answer = await fetch(url, { signal: AbortSignal.timeout(LIMIT_MS) });
      if (!answer.ok) return;
      const { log, ...doc } = (await answer.json()) as Doc;
      const timing = performance.getEntriesByName(new URL(url, location.href).href).at(-1) as PerformanceResourceTiming | undefined;
      if (timing && timing.requestStart > 0) this.clock.sample(doc.now, timing.requestStart, timing.responseEnd);
      const before = this.confirmed.number;
      for (const e of log ?? []) this.confirm(e);
      this.doc = doc;
      await this.store.keepLog(this.job, (log ?? []).filter((e) => (e.number ?? 0) > before));
      await this.store.keepDoc(doc);
      this.fold();
    } catch {
      // Without a network the document that is kept goes on.
      this.offlineSince ??= Date.now();
    }
  }

  /** Writes down what happened; it is kept before anything is shown of it. */
  async say(kind: Kind, body: Body): Promise<Entry> {
    const mono = this.clock.mono();
    const seq = ++this.own.seq;
    const entry: Entry = {
      id: crypto.randomUUID(),
      device: this.own.device,
      seq,
      epoch: this.clock.epoch,
      mono,
      after: this.confirmed.number,
      rev: this.state.plan || this.doc?.plan || 0,
      who: this.doc?.me.who ?? "",
      kind,
      body,
      when: this.clock.claim(mono) ?? this.undated(),
    };
    const waiting: Waiting = { job: this.job, seq, entry, dated: false };
    this.queue.push(waiting);
    await this.store.keep(waiting);
    await this.store.keepOwn(this.own);
    this.fold();
    void this.sync();
    return entry;
  }

  /** Asks the server for a decision; it is never queued. */
  async decide(body: Record<string, unknown>): Promise<string | null> {
    try {
      const answer = await fetch(`/api/v1/jobs/${this.job}/decide`, {
        method: "POST",
        headers: { "Content-Type": "application/json", "X-CSRF-Token": this.doc?.csrf ?? this.csrf },
        body: JSON.stringify({
          id: crypto.randomUUID(),
          device: this.own.device,
          epoch: this.clock.epoch,
          mono: this.clock.mono(),
          ...body,
        }),
        signal: AbortSignal.timeout(LIMIT_MS),
      });
      const said = answer.ok ? null : ((await answer.json()) as { errors?: Record<string, string[]>; detail?: string; title?: string });
      await this.sync();
      await this.fetchDoc();
      return said === null ? null : (Object.values(said.errors ?? {}).flat()[0] ?? said.detail ?? said.title ?? "it was not taken");
    } catch {
      return "no network: a decision needs the server. What you do meanwhile is kept.";
    }
  }

  /** How long what a step puts on a zone may stay from now. */
  private undated(): Entry["when"] {
    const at = Date.now();
    return { at, lo: 0, hi: Number.MAX_SAFE_INTEGER };
  }

  private confirm(e: Entry): void {
    if ((e.number ?? 0) !== this.confirmed.number + 1) return;
    this.confirmed = reduce(this.confirmed, e);
    this.lastId = e.id;
  }

  /** The stored log, and on top of it what waits: anew at every number. */
  private fold(): void {
    let number = this.confirmed.number;
    let before: Entry["when"] | null = null;
    this.state = this.queue
      .filter((w) => w.aside === undefined && this.confirmed.known[w.entry.id] === undefined)
      .reduce((s, w) => {
        const when = place(w.entry.when, 0, before);
        before = when;
        return reduce(s, { ...w.entry, when, number: ++number });
      }, this.confirmed);
    this.changed();
  }

  async fetchDoc(): Promise<void> {
    try {
      const asked = performance.now();
      const answer = await fetch(`/api/v1/jobs/${this.job}/bay?device=${this.own.device}`, {
        headers: { Accept: "application/json" },
        signal: AbortSignal.timeout(LIMIT_MS),
      });
      if (!answer.ok) return;
      const doc = (await answer.json()) as Doc;
      this.clock.sample(doc.now, asked, performance.now());
      this.doc = doc;
      await this.store.keepDoc(doc);
      if (doc.me.ticket) {
        this.own.tickets[doc.me.who] = doc.me.ticket;
        await this.store.keepOwn(this.own);
      }
      this.changed();
    } catch {
      // Without a network the document that is kept goes on.
    }
  }

  /** One at a time; asked meanwhile, once more after it. */
  async sync(): Promise<void> {
    if (this.busy) {
      this.again = true;
      return;
    }
    this.busy = true;
    clearTimeout(this.timer);
    try {
      do {
        this.again = false;
        await this.exchange();
      } while (this.again);
      this.retry = 0;
      this.timer = window.setTimeout(() => void this.sync(), POLL_MS);
    } catch {
      this.offlineSince ??= Date.now();
      this.link = "offline";
      this.retry = Math.min(LONGEST_RETRY_MS, Math.max(2000, this.retry * 2));
      this.timer = window.setTimeout(() => void this.sync(), this.retry * (0.8 + Math.random() * 0.4));
    } finally {
      this.busy = false;
      this.changed();
    }
  }

  private async exchange(): Promise<void> {
    if (Object.keys(this.own.tickets).length === 0) {
      await this.fetchDoc();
      if (Object.keys(this.own.tickets).length === 0) {
        this.link = "sign-in";
        return;
      }
    }
    // Nothing is sent before this page has heard the server's time: it dates what was made before.
    const ready = this.clock.dated ? this.queue.filter((w) => w.aside === undefined) : [];
    const sent: Waiting[] = [];
    for (const w of ready.slice(0, MOST_SENT)) {
      if (!w.dated) {
        const same = w.entry.epoch === this.clock.epoch;
        const claim = same ? this.clock.claim(w.entry.mono ?? 0) : null;
        const now = Math.round(this.clock.now().at);
        w.entry = { ...w.entry, when: claim ?? { at: Math.min(w.entry.when.at, now), lo: 0, hi: now } };
        w.dated = true;
        await this.store.keep(w);
      }
      sent.push(w);
    }
    const asked = performance.now();
    const answer = await fetch(`/api/v1/jobs/${this.job}/sync`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({
        device: this.own.device,
        who: this.doc?.me.who,
        from: this.confirmed.number,
        fromId: this.lastId || undefined,
        gone: this.queue.filter((w) => w.aside !== undefined).map((w) => w.seq),
        events: sent.map((w) => w.entry),
        tickets: this.own.tickets,
      }),
      signal: AbortSignal.timeout(LIMIT_MS),
    });
    if (answer.status === 401) {
      this.own.tickets = {};
      await this.fetchDoc();
      this.link = Object.keys(this.own.tickets).length === 0 ? "sign-in" : "waiting";
      this.again = this.link === "waiting";
      return;
    }
    if (!answer.ok) throw new Error(`sync ${answer.status}`);
    const synced = (await answer.json()) as Synced;
    this.clock.sample(synced.now, asked, performance.now());
    await this.take(synced, sent);
  }

  private async take(synced: Synced, sent: readonly Waiting[]): Promise<void> {
    if (synced.conflict) {
      // This phone's store was copied, or put back: it goes on under a new name, with its entries' own ids.
      this.own = { ...this.own, device: crypto.randomUUID(), seq: 0 };
      const waiting = this.queue;
      await this.store.drop(waiting);
      this.queue = waiting.map((w) => ({
        ...w,
        seq: ++this.own.seq,
        entry: { ...w.entry, device: this.own.device, seq: this.own.seq },
      }));
      await this.store.keep(...this.queue);
      await this.store.keepOwn(this.own);
      await this.fetchDoc();
      this.again = true;
      return;
    }
    if (synced.reset) {
      this.confirmed = START;
      this.lastId = "";
      await this.store.forgetLog(this.job);
    }
    for (const { id, why } of synced.aside) {
      const w = this.queue.find((x) => x.entry.id === id);
      if (w) {
        w.aside = why;
        await this.store.keep(w);
      }
    }
    this.aside = this.queue.filter((w) => w.aside !== undefined);
    const before = this.confirmed.number;
    for (const e of synced.events) this.confirm(e);
    await this.store.keepLog(this.job, synced.events);
    // What stands in the stored log leaves the queue; an answer that was lost is made good by the next.
    const stored = this.queue.filter((w) => this.confirmed.known[w.entry.id] !== undefined);
    await this.store.drop(stored);
    this.queue = this.queue.filter((w) => !stored.includes(w));
    this.offlineSince = null;
    this.link = synced.signIn ? "sign-in" : this.waiting > 0 ? "waiting" : "live";
    this.again ||= synced.more || (this.waiting > 0 && !synced.signIn && (sent.length > 0 || !this.clock.dated));
    this.fold();
    if (this.confirmed.number > before) {
      clearTimeout(this.quiet);
      this.quiet = window.setTimeout(() => void this.fetchDoc(), QUIET_MS);
    }
    const replanned = synced.events.some((e) => isDecision(e.kind));
    if (replanned) await this.fetchDoc();
  }
}
