// Moving about on the unfolded vehicle: arrow keys go to the nearest zone that way.
export type ZoneElement = SVGGElement & { dataset: DOMStringMap };

export const zonesOf = (root: HTMLElement): ZoneElement[] => [...root.querySelectorAll<ZoneElement>("[data-zone]")];

export function zoneAt(target: EventTarget | null): ZoneElement | null {
  return target instanceof Element ? target.closest<ZoneElement>("[data-zone]") : null;
}

const steps: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** The zone an arrow key leads to, or null: nearest in that direction, straying sideways counts double. */
export function neighbour(root: HTMLElement, from: ZoneElement, key: string): ZoneElement | null {
  const dir = steps[key];
  if (!dir) return null;
  const [x, y] = [Number(from.dataset.cx), Number(from.dataset.cy)];
  let best: ZoneElement | null = null;
  let least = Infinity;
  for (const z of zonesOf(root)) {
    const dx = Number(z.dataset.cx) - x;
    const dy = Number(z.dataset.cy) - y;
    const ahead = dx * dir[0] + dy * dir[1];
    if (z === from || ahead < 0.02) continue;
    const aside = Math.abs(dx * dir[1]) + Math.abs(dy * dir[0]);
    const far = ahead + 2 * aside;
    if (far < least) {
      least = far;
      best = z;
    }
  }
  return best;
}

export function focusZone(root: HTMLElement, zone: ZoneElement): void {
  zonesOf(root).forEach((z) => z.setAttribute("tabindex", z === zone ? "0" : "-1"));
  zone.focus({ preventScroll: true });
}

/** A net to choose zones on: by click and tap, by arrows and Enter. */
export function chooseOn(net: HTMLElement, choose: (zone: ZoneElement) => void): void {
  net.addEventListener("click", (e) => {
    const z = zoneAt(e.target);
    if (!z) return;
    focusZone(net, z);
    choose(z);
  });
  net.addEventListener("keydown", (e) => {
    const z = zoneAt(e.target);
    const next = z && neighbour(net, z, e.key);
    if (next) focusZone(net, next);
    else if (z && (e.key === "Enter" || e.key === " ")) choose(z);
    else return;
    e.preventDefault();
  });
}
