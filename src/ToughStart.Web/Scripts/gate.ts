/** A press on the drawing of a panel says where the next mark is drawn. */
export function gate(): void {
  const panel = document.querySelector<SVGSVGElement>("[data-mark]");
  const [x, y] = ["x", "y"].map((a) => document.querySelector<HTMLInputElement>(`[data-mark-${a}]`));
  const here = panel?.querySelector<SVGGElement>(".gate-here");
  if (!panel || !x || !y || !here) return;
  panel.addEventListener("click", (e) => {
    const at = new DOMPoint(e.clientX, e.clientY).matrixTransform(panel.getScreenCTM()!.inverse());
    const [x0, y0, x1, y1] = panel.dataset.box!.split(" ").map(Number);
    const share = (v: number, from: number, to: number): number => Math.min(1, Math.max(0, (v - from) / (to - from)));
    x.value = share(at.x, x0, x1).toFixed(3);
    y.value = share(at.y, y0, y1).toFixed(3);
    here.setAttribute("transform", `translate(${at.x} ${at.y})`);
    here.removeAttribute("hidden");
    x.closest("details")?.setAttribute("open", "");
  });
}
