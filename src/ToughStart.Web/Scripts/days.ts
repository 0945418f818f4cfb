/** The days ahead: vehicles are worked out one by one, laid out together, and dragged. */
export const days = () => ({
  async init() {
    const root = (this as any).$root as HTMLElement;
    const one = <T extends Element>(css: string): T => root.querySelector<T>(css)!;
    const [hold, says, answer] = [one<HTMLElement>("[data-hold]"), one<HTMLElement>("[data-says]"), one<HTMLElement>("[data-answer]")];
    const numbers = hold.dataset.vehicles!.split(",").filter(Boolean);
    const pins = new Map<string, number>();
    let moved: { number: string; at: number } | null = null;
    const leave = new AbortController();
    addEventListener("pagehide", () => leave.abort(), { once: true });
    const get = async (query: string): Promise<string | null> => {
      try {
        const got = await fetch(`/days?${query}`, { signal: leave.signal });
        return got.ok ? await got.text() : null;
      } catch {
        return null;
      }
    };
    const set = (): string => [...pins].map(([n, at]) => `${n}:${at}`).join(",");

    const lay = async (): Promise<void> => {
      const html = await get(`handler=Lay&pins=${set()}`);
      if (html === null) {
        says.textContent = "The days could not be laid out now. Load the page again.";
        return;
      }
      says.textContent = "";
      hold.innerHTML = html;
      answer.hidden = true;
      wire();
    };

    const ask = async (number: string, at: number): Promise<void> => {
      moved = { number, at };
      answer.hidden = false;
      one<HTMLElement>("[data-answer-says]").textContent =
        (await get(`handler=Moved&number=${number}&at=${at}&pins=${set()}`)) ?? "That could not be worked out now.";
    };

    const wire = (): void => {
      const svg = hold.querySelector<SVGSVGElement>("svg.days");
      if (!svg) return;
      const d = svg.dataset;
      const perPixel = (): number => (Number(d.full) / svg.getBoundingClientRect().width / Number(d.width)) * Number(d.span);
      for (const g of svg.querySelectorAll<SVGGElement>("[data-vehicle]")) {
        const start = Number(g.dataset.start);
        let [held, by] = [false, 0];
        const show = (): void => g.setAttribute("transform", `translate(${(by * Number(d.width)) / Number(d.span)})`);
        const at = (): number => Math.max(0, Math.round((start + by) / 900) * 900);
        g.addEventListener("pointerdown", (e) => {
          held = true;
          g.setPointerCapture(e.pointerId);
        });
        g.addEventListener("pointermove", (e) => {
          if (!held) return;
          by += e.movementX * perPixel();
          show();
        });
        g.addEventListener("pointerup", () => {
          held = false;
          if (Math.abs(by) >= 450) void ask(g.dataset.vehicle!, at());
        });
        g.addEventListener("keydown", (e) => {
          if (e.key !== "ArrowLeft" && e.key !== "ArrowRight") return;
          e.preventDefault();
          by += e.key === "ArrowLeft" ? -900 : 900;
          show();
          void ask(g.dataset.vehicle!, at());
        });
      }
    };

    one("[data-around]").addEventListener("click", () => {
      if (moved) pins.set(moved.number, moved.at);
      void lay();
    });
    root.querySelector("[data-keep]")?.addEventListener("click", async () => {
      if (!moved) return;
      const csrf = document.querySelector<HTMLMetaElement>("meta[name=csrf]")!.content;
      const seen = hold.querySelector<SVGGElement>(`[data-vehicle="${moved.number}"]`)?.dataset.begins ?? "";
      const form = new URLSearchParams({ number: moved.number, at: String(moved.at), seen });
      const kept = await fetch("/days?handler=Begin", { method: "POST", body: form, headers: { "X-CSRF-Token": csrf } });
      if (!kept.ok) {
        one<HTMLElement>("[data-answer-says]").textContent = "Somebody else set it at the same moment; nothing was overwritten. Load the page again.";
        return;
      }
      pins.delete(moved.number);
      void lay();
    });
    one("[data-back]").addEventListener("click", () => {
      if (moved) pins.delete(moved.number);
      void lay();
    });
    for (const [i, number] of numbers.entries()) {
      says.textContent = `Working out how long each takes: ${i + 1} of ${numbers.length}`;
      await get(`handler=Vehicle&number=${number}`);
      if (leave.signal.aborted) return;
    }
    if (numbers.length > 0) await lay();
  },
});
