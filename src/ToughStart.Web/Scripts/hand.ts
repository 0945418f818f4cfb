/** Before and after on one drawing: the range says how much of the second is seen. */
export function sliders(): void {
  for (const box of document.querySelectorAll<HTMLElement>("[data-slider]")) {
    const range = box.querySelector<HTMLInputElement>("input[type=range]");
    const after = box.querySelector<HTMLElement>(".report-after");
    if (!range || !after) continue;
    const show = (): void => {
      after.style.clipPath = `inset(0 0 0 ${100 - Number(range.value)}%)`;
    };
    range.addEventListener("input", show);
    show();
  }
}

/** Films that wait for a hand: minutes and seconds until they must be levelled, once a second while any runs. */
export function countdowns(): void {
  const running = [...document.querySelectorAll<HTMLElement>("[data-until]")];
  if (running.length === 0) return;
  const words = running.map((r) => r.textContent ?? "");
  const tick = (): void => {
    running.forEach((r, i) => {
      const left = Math.max(0, Math.round((Number(r.dataset.until) - Date.now()) / 1000));
      r.textContent = left > 0 ? `${words[i]}, ${Math.floor(left / 60)}:${String(left % 60).padStart(2, "0")} left` : "level it now";
    });
    if (running.some((r) => Number(r.dataset.until) > Date.now())) setTimeout(tick, 1000);
  };
  tick();
}
