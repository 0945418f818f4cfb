/** Options of a quote: each is worked out when its turn comes, so that the first stand while the last are still to come. */
export const quote = () => ({
  print() {
    window.print();
  },
  async init() {
    const root = (this as any).$root as HTMLElement;
    const says = (this as any).$refs.says as HTMLElement | undefined;
    const rows = [...root.querySelectorAll<HTMLElement>("[data-option]")];
    const leave = new AbortController();
    addEventListener("pagehide", () => leave.abort(), { once: true });
    for (const [i, row] of rows.entries()) {
      if (says) says.textContent = `Working the same jobs with and without: ${i + 1} of ${rows.length}`;
      try {
        const answer = await fetch(row.dataset.option!, { signal: leave.signal, headers: { Accept: "text/html" } });
        if (!answer.ok) throw new Error(String(answer.status));
        row.innerHTML = await answer.text();
      } catch {
        if (leave.signal.aborted) return;
        row.append(" not worked out now; load the page again");
      }
    }
    if (says) says.textContent = "";
  },
});
