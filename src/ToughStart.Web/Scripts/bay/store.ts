import type { Entry } from "../live/log";
import type { Doc } from "./document";

/** An entry that waits to be stored: made on this phone, dated once the server was heard. */
export interface Waiting {
  job: number;
  seq: number;
  entry: Entry;
  /** It was sent once: its moment is frozen. */
  dated: boolean;
  /** The server can never take it, and why. */
  aside?: string;
}

export interface Own {
  job: number;
  /** This phone's name on this job; made with the store and lost with it. */
  device: string;
  seq: number;
  tickets: Record<string, string>;
}

const NAME = "tough-start-bay";

function asked<T>(request: IDBRequest<T>): Promise<T> {
  return new Promise((done, failed) => {
    request.onsuccess = () => done(request.result);
    request.onerror = () => failed(request.error ?? new Error("the phone's store does not answer"));
  });
}

/** What the phone keeps: its queue, the stored log, the document. All of it by job. */
export class Store {
  private constructor(private readonly db: IDBDatabase) {}

  static async open(): Promise<Store> {
    const request = indexedDB.open(NAME, 1);
    request.onupgradeneeded = () => {
      request.result.createObjectStore("own", { keyPath: "job" });
      request.result.createObjectStore("queue", { keyPath: ["job", "seq"] });
      request.result.createObjectStore("log", { keyPath: ["job", "number"] });
      request.result.createObjectStore("doc", { keyPath: "job" });
    };
    return new Store(await asked(request));
  }

  private all<T>(store: string, job: number): Promise<T[]> {
    return asked(
      this.db.transaction(store).objectStore(store).getAll(IDBKeyRange.bound([job, 0], [job, Infinity])) as IDBRequest<T[]>,
    );
  }

  private async put(store: string, ...values: unknown[]): Promise<void> {
    const tx = this.db.transaction(store, "readwrite", { durability: "strict" });
    for (const v of values) tx.objectStore(store).put(v);
    await new Promise<void>((done, failed) => {
      tx.oncomplete = () => done();
      tx.onabort = tx.onerror = () => failed(tx.error ?? new Error("the phone's store took nothing"));
    });
  }

  async own(job: number): Promise<Own> {
    const own = await asked(this.db.transaction("own").objectStore("own").get(job) as IDBRequest<Own | undefined>);
    return own ?? { job, device: crypto.randomUUID(), seq: 0, tickets: {} };
  }

  keepOwn = (own: Own): Promise<void> => this.put("own", own);
  queue = (job: number): Promise<Waiting[]> => this.all<Waiting>("queue", job);
  keep = (...waiting: Waiting[]): Promise<void> => this.put("queue", ...waiting);
  doc = (job: number): Promise<Doc | undefined> =>
    asked(this.db.transaction("doc").objectStore("doc").get(job) as IDBRequest<Doc | undefined>);
  keepDoc = (doc: Doc): Promise<void> => this.put("doc", doc);

  async log(job: number): Promise<Entry[]> {
    return (await this.all<{ entry: Entry }>("log", job)).map((l) => l.entry);
  }

  keepLog = (job: number, entries: Entry[]): Promise<void> =>
    this.put("log", ...entries.map((entry) => ({ job, number: entry.number, entry })));

  /** What was stored and is in the log leaves the queue. */
  async drop(waiting: readonly Waiting[]): Promise<void> {
    const tx = this.db.transaction("queue", "readwrite");
    for (const w of waiting) tx.objectStore("queue").delete([w.job, w.seq]);
    await new Promise<void>((done) => {
      tx.oncomplete = () => done();
    });
  }

  /** The stored log has another past: it is fetched anew. */
  async forgetLog(job: number): Promise<void> {
    const tx = this.db.transaction("log", "readwrite");
    tx.objectStore("log").delete(IDBKeyRange.bound([job, 0], [job, Infinity]));
    await new Promise<void>((done) => {
      tx.oncomplete = () => done();
    });
  }
}
