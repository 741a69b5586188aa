import { useEffect, useRef } from "react";

const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && target.matches("input, textarea, select, [contenteditable=true]");

/** The space bar, and a foot switch that sends one: works whatever has focus, except while typing; no key repeat. */
export function usePullKey(pull: (() => void) | null): void {
  const latest = useRef(pull);
  latest.current = pull;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.code !== "Space" || typing(event.target)) return;
      event.preventDefault();
      event.stopPropagation();
      if (event.type === "keydown" && !event.repeat) latest.current?.();
    };
    window.addEventListener("keydown", onKey, { capture: true });
    window.addEventListener("keyup", onKey, { capture: true });
    return () => {
      window.removeEventListener("keydown", onKey, { capture: true });
      window.removeEventListener("keyup", onKey, { capture: true });
    };
  }, []);
}
