import { useEffect, useRef } from "react";

const HAS_A_USE_FOR_SPACE = "input, textarea, select, [contenteditable=true], button, a[href], summary, [role=button]";

/** Whether the space bar means what has focus: a line that is typed in, a key that was reached with the keyboard. */
const isItsOwn = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest(HAS_A_USE_FOR_SPACE) !== null;

/**
 * The space bar, and a foot switch that sends one: presses the pull key, unless a key or a line has focus; then it is
 * that one's. No key repeat. A tap leaves no focus behind, so that the next space is the pull's again.
 */
export function usePullKey(pull: (() => void) | null): void {
  const latest = useRef(pull);
  latest.current = pull;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.code !== "Space" || isItsOwn(event.target)) return;
      event.preventDefault();
      event.stopPropagation();
      if (event.type === "keydown" && !event.repeat) latest.current?.();
    };
    const onTap = (event: PointerEvent) => {
      const tapped = event.target instanceof Element ? event.target.closest("button, a[href], [role=button]") : null;
      if (tapped && document.activeElement === tapped && tapped instanceof HTMLElement) tapped.blur();
      if (tapped && document.activeElement === tapped && tapped instanceof SVGElement) tapped.blur();
    };
    window.addEventListener("keydown", onKey, { capture: true });
    window.addEventListener("keyup", onKey, { capture: true });
    window.addEventListener("pointerup", onTap);
    return () => {
      window.removeEventListener("keydown", onKey, { capture: true });
      window.removeEventListener("keyup", onKey, { capture: true });
      window.removeEventListener("pointerup", onTap);
    };
  }, []);
}
