// The day of a job under a moving line: who does what, what is wet; tasks are dragged, or moved by keys, and answered at once.
type Task = { key: string; who: string; from: number; to: number; says: string; where: string };
type Film = { from: number; to: number; latest: number; says: string; where: string; zones: string[] };
type Data = { begin: number; finish: number; revision: number; people: { id: string; name: string }[]; pinned: string[]; tasks: Task[]; films: Film[] };

const clock = (begin: number, s: number): string => {
  const m = (begin + Math.floor(s / 60)) % 1440;
  return `${String(Math.floor(m / 60)).padStart(2, "0")}:${String(m % 60).padStart(2, "0")}`;
};
const left = (s: number): string => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, "0")}`;

export const timeline = () => {
  let data: Data | null = null;
  let root: HTMLElement;
  let picked: string | null = null;
  let moved: number | null = null;
  let better: AbortController | null = null;

  const one = <T extends Element>(css: string): T | null => root.querySelector<T>(css);

  const show = (s: number): void => {
    const svg = one<SVGSVGElement>("svg.tl");
    if (!data || !svg) return;
    const d = svg.dataset;
    const x = Number(d.left) + ((Number(d.width) - Number(d.left) - Number(d.right)) * s) / Number(d.span);
    one("[data-now]")?.setAttribute("transform", `translate(${x})`);
    one("[data-at]")!.textContent = `At ${clock(data.begin, s)}`;
    const doing = one("[data-doing]")!;
    doing.replaceChildren(
      ...data.people.map((p) => {
        const t = data!.tasks.find((x) => x.who === p.id && x.from <= s && s < x.to);
        const next = data!.tasks.find((x) => x.who === p.id && x.from > s);
        const li = document.createElement("li");
        const b = document.createElement("b");
        b.textContent = `${p.name}: `;
        li.append(b, t ? `${t.says}, ${t.where}` : next ? `free until ${clock(data!.begin, next.from)}, then ${next.says}` : "done");
        return li;
      }),
    );
    const wet = data.films.filter((f) => f.from <= s && s < f.to);
    one("[data-wet]")!.replaceChildren(
      ...wet.slice(0, 4).map((f) => {
        const li = document.createElement("li");
        li.textContent = `${f.says}, ${f.where}: ${left(Math.max(0, f.latest - s))} left`;
        return li;
      }),
    );
    const zones = new Set(wet.flatMap((f) => f.zones));
    root.querySelectorAll<HTMLElement>(".tl-side [data-zone]").forEach((z) => z.classList.toggle("is-wet", zones.has(z.dataset.zone!)));
  };

  const read = (): void => {
    const said = one<HTMLScriptElement>("[data-timeline] > script");
    data = said ? (JSON.parse(said.textContent!) as Data) : null;
    const scrub = one<HTMLInputElement>("[data-scrub]");
    scrub?.addEventListener("input", () => show(Number(scrub.value)));
    show(Number(scrub?.value ?? 0));
    wire();
  };

  const seconds = (e: PointerEvent): number => {
    const svg = one<SVGSVGElement>("svg.tl")!;
    const d = svg.dataset;
    const box = svg.getBoundingClientRect();
    return (e.movementX / box.width) * (Number(d.width) / (Number(d.width) - Number(d.left) - Number(d.right))) * Number(d.span);
  };

  const pick = (key: string): void => {
    picked = key;
    moved = null;
    root.querySelectorAll(".is-picked").forEach((t) => t.classList.remove("is-picked"));
    const task = data!.tasks.find((t) => t.key === key)!;
    one(`[data-task="${CSS.escape(key)}"]`)?.classList.add("is-picked");
    const box = one<HTMLElement>("[data-pick]")!;
    box.hidden = false;
    one("[data-pick-says]")!.textContent = `${task.says}, ${task.where}: ${clock(data!.begin, task.from)}${data!.pinned.includes(task.key) ? ", set" : ""}`;
    one("[data-pick-why]")!.textContent = "";
    show(task.from);
  };

  const drag = (by: number): void => {
    const task = data!.tasks.find((t) => t.key === picked)!;
    moved = Math.max(0, (moved ?? task.from) + by);
    const svg = one<SVGSVGElement>("svg.tl")!;
    const d = svg.dataset;
    const dx = ((Number(d.width) - Number(d.left) - Number(d.right)) * (moved - task.from)) / Number(d.span);
    one(`[data-task="${CSS.escape(picked!)}"]`)?.setAttribute("transform", `translate(${dx})`);
    one("[data-pick-says]")!.textContent = `${task.says}: ${clock(data!.begin, moved)}`;
  };

  const put = async (at: number | null): Promise<void> => {
    better?.abort();
    const page = one<HTMLElement>("[data-timeline]")!.dataset.page!;
    const csrf = document.querySelector<HTMLMetaElement>("meta[name=csrf]")!.content;
    const form = new URLSearchParams({ key: picked!, seen: String(data!.revision) });
    if (at !== null) form.set("at", String(Math.round(at)));
    const answer = await fetch(`${page}?handler=Move`, { method: "POST", body: form, headers: { "X-CSRF-Token": csrf, Accept: "text/plain" } });
    const text = await answer.text();
    if (!answer.ok) {
      one(`[data-task="${CSS.escape(picked!)}"]`)?.removeAttribute("transform");
      one("[data-pick-why]")!.textContent = text;
      moved = null;
      return;
    }
    const key = picked!;
    hold().innerHTML = text;
    read();
    pick(key);
    await look();
  };

  const hold = (): HTMLElement => root.querySelector(".tl-hold") as HTMLElement;

  // What comes at once keeps the order; with time to look there may be a better one.
  const look = async (): Promise<void> => {
    const page = one<HTMLElement>("[data-timeline]")!.dataset.page!;
    const says = document.createElement("p");
    says.className = "page-sub";
    says.setAttribute("role", "status");
    const stop = document.createElement("button");
    stop.type = "button";
    stop.className = "tab";
    stop.textContent = "leave it so";
    const begun = Date.now();
    const words = document.createElement("span");
    says.append(words, stop);
    hold().append(says);
    better?.abort();
    better = new AbortController();
    const mine = better;
    stop.addEventListener("click", () => mine.abort());
    const tick = setInterval(() => {
      words.textContent = `Looking for a better order, ${Math.round((Date.now() - begun) / 1000)} s … `;
    }, 500);
    try {
      const more = await fetch(`${page}?handler=Better`, { signal: mine.signal });
      const html = await more.text();
      if (more.ok && !mine.signal.aborted) {
        const was = data!.finish;
        const key = picked;
        hold().innerHTML = html;
        read();
        if (key) pick(key);
        const note = document.createElement("p");
        note.className = "said";
        const by = Math.round((was - data!.finish) / 60);
        note.textContent = by > 0 ? `A better order was found: ${by} min sooner.` : "No better order was found.";
        hold().prepend(note);
      }
    } catch {
      says.remove();
    } finally {
      clearInterval(tick);
    }
  };

  const wire = (): void => {
    for (const g of root.querySelectorAll<SVGGElement>("[data-task]")) {
      let held = false;
      g.addEventListener("pointerdown", (e) => {
        pick(g.dataset.task!);
        held = Boolean(one("[data-free]"));
        if (held) g.setPointerCapture(e.pointerId);
      });
      g.addEventListener("pointermove", (e) => {
        if (held && e.movementX !== 0) drag(seconds(e));
      });
      g.addEventListener("pointerup", () => {
        held = false;
        if (moved !== null && Math.abs(moved - Number(g.dataset.start)) >= 30) void put(Math.round(moved / 30) * 30);
      });
      g.addEventListener("focus", () => pick(g.dataset.task!));
      g.addEventListener("keydown", (e) => {
        if (!one("[data-free]")) return;
        if (e.key === "ArrowLeft" || e.key === "ArrowRight") {
          e.preventDefault();
          drag(e.key === "ArrowLeft" ? -60 : 60);
        } else if (e.key === "Enter" && moved !== null) {
          e.preventDefault();
          void put(moved);
        }
      });
    }
  };

  return {
    init() {
      root = (this as any).$root as HTMLElement;
      if (!one("[data-timeline]")) return;
      root.querySelectorAll<HTMLButtonElement>("[data-by]").forEach((b) =>
        b.addEventListener("click", () => {
          const task = data!.tasks.find((t) => t.key === picked);
          if (task) void put(Math.max(0, task.from + Number(b.dataset.by)));
        }),
      );
      one("[data-free]")?.addEventListener("click", () => void put(null));
      one("[data-better]")?.addEventListener("click", () => void look());
      root.querySelectorAll<HTMLButtonElement>("[data-ask]").forEach((b) =>
        b.addEventListener("click", async () => {
          const says = one(`[data-answer="${b.dataset.ask}"]`)!;
          says.textContent = "Working it out …";
          const page = one<HTMLElement>("[data-timeline]")!.dataset.page!;
          const answer = await fetch(`${page}?handler=Ask&what=${b.dataset.ask}`);
          says.textContent = answer.ok ? await answer.text() : "That could not be worked out now.";
        }),
      );
      read();
    },
  };
};
