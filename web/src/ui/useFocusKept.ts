import { type RefObject, useEffect } from "react";

const HEADINGS = "h1, h2, h3, [role=heading]";

/**
 * Keep the focus in a part of the page: where what had it goes away, it goes to the heading of what came in its place,
 * else to that of the part it stood in, and is not lost to the top of the page.
 */
export function useFocusKept(part: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    const root = part.current;
    if (!root) return;
    let way: Element[] = []; // what had the focus last, and what it stands in
    const remember = (e: FocusEvent) => {
      way = [];
      for (let at = e.target as Element | null; at && at !== root; at = at.parentElement) way.push(at);
    };
    const gone = new MutationObserver((changes) => {
      if (document.activeElement !== document.body || !way.length || way[0]?.isConnected) return;
      const added = changes.flatMap((c) => [...c.addedNodes]).filter((n): n is Element => n instanceof Element);
      const near = way.find((at) => at.isConnected) ?? root;
      way = [];
      const to = headingIn(added) ?? near.querySelector<HTMLElement>(HEADINGS) ?? root;
      if (!to.hasAttribute("tabindex")) to.tabIndex = -1;
      to.focus({ preventScroll: true });
    });
    const left = (e: PointerEvent) => {
      if (!root.contains(e.target as Node)) way = []; // a person who pressed elsewhere is not fetched back
    };
    document.addEventListener("pointerdown", left);
    root.addEventListener("focusin", remember);
    gone.observe(root, { childList: true, subtree: true });
    return () => {
      document.removeEventListener("pointerdown", left);
      root.removeEventListener("focusin", remember);
      gone.disconnect();
    };
  }, [part]);
}

const headingIn = (added: readonly Element[]): HTMLElement | null => {
  for (const node of added) {
    if (!node.isConnected) continue;
    const found = node.matches(HEADINGS) ? node : node.querySelector(HEADINGS);
    if (found) return found as HTMLElement;
  }
  return null;
};
