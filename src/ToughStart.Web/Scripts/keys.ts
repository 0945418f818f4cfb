// What every page's menus, palettes and tabs do at the keyboard and under a finger.

/** Menus: one open at a time; Escape closes it and goes back to what opened it; so does a tap anywhere else. */
function menus(): void {
  const open = () => [...document.querySelectorAll<HTMLDetailsElement>("details.drop[open]")];
  document.addEventListener(
    "toggle",
    (e) => {
      const menu = e.target;
      if (!(menu instanceof HTMLDetailsElement) || !menu.matches("details.drop[open]")) return;
      open().forEach((other) => other !== menu && !other.contains(menu) && other.removeAttribute("open"));
      // Whoever opens it from the keyboard stands in it.
      if (document.activeElement === menu.querySelector("summary"))
        menu.querySelector<HTMLElement>(".drop-box :is(a[href],button,input,select,textarea):not([type=hidden])")?.focus();
    },
    true,
  );
  document.addEventListener("keydown", (e) => {
    if (e.key !== "Escape") return;
    const menu = open().at(-1);
    if (!menu) return;
    menu.removeAttribute("open");
    menu.querySelector("summary")?.focus();
    e.stopPropagation();
  });
  document.addEventListener("pointerdown", (e) => {
    open().forEach((menu) => !menu.contains(e.target as Node) && menu.removeAttribute("open"));
  });
}

const groups = "[role=radiogroup],[role=tablist]";
const parts = "button[role=radio],button[role=tab]";
const chosen = (b: HTMLElement) => b.getAttribute("aria-checked") === "true" || b.getAttribute("aria-selected") === "true";

/** Palettes, grades and tabs are one stop for Tab; arrow keys move within them. */
function arrows(): void {
  const rove = (group: Element, at?: HTMLElement) => {
    const all = [...group.querySelectorAll<HTMLElement>(parts)];
    const stop = at ?? all.find(chosen) ?? all[0];
    all.forEach((b) => b.setAttribute("tabindex", b === stop ? "0" : "-1"));
  };
  document.querySelectorAll(groups).forEach((g) => rove(g));
  document.addEventListener("focusin", (e) => {
    const part = e.target instanceof Element ? e.target.closest<HTMLElement>(parts) : null;
    const group = part?.closest(groups);
    if (part && group) rove(group, part);
  });
  document.addEventListener("keydown", (e) => {
    const part = e.target instanceof Element ? e.target.closest<HTMLElement>(parts) : null;
    const group = part?.closest(groups);
    if (!part || !group || e.ctrlKey || e.metaKey || e.altKey) return;
    const all = [...group.querySelectorAll<HTMLElement>(parts)].filter((b) => b.offsetParent !== null);
    const at = all.indexOf(part);
    const to =
      e.key === "ArrowRight" || e.key === "ArrowDown"
        ? all[(at + 1) % all.length]
        : e.key === "ArrowLeft" || e.key === "ArrowUp"
          ? all[(at + all.length - 1) % all.length]
          : e.key === "Home"
            ? all[0]
            : e.key === "End"
              ? all.at(-1)
              : undefined;
    if (!to) return;
    e.preventDefault();
    to.focus();
    // A palette of brushes only shows where it is; Enter picks one up.
    if (!group.hasAttribute("data-by-enter")) to.click();
  });
}

export function keys(): void {
  menus();
  arrows();
}
