import { useCallback, useEffect, useRef, useState } from "react";

/**
 * Something turns while a key is held: the space bar, a finger, a mouse. Told once, when it is let go, how far it went.
 */
export function useHold(perSecond: number, onRelease: (turned: number) => void, most = Number.POSITIVE_INFINITY) {
  const [turned, setTurned] = useState(0);
  const began = useRef<number | null>(null);
  const frame = useRef(0);
  const latest = useRef(onRelease);
  latest.current = onRelease;
  const soFar = useCallback(
    () => (began.current === null ? 0 : Math.min(((performance.now() - began.current) / 1_000) * perSecond, most)),
    [perSecond, most],
  );
  const hold = useCallback(() => {
    if (began.current !== null) return;
    began.current = performance.now();
    const turn = () => {
      setTurned(soFar());
      frame.current = requestAnimationFrame(turn);
    };
    turn();
  }, [soFar]);
  const release = useCallback(() => {
    if (began.current === null) return;
    const went = soFar();
    began.current = null;
    cancelAnimationFrame(frame.current);
    setTurned(0);
    latest.current(Math.round(went * 10) / 10);
  }, [soFar]);
  useEffect(() => () => cancelAnimationFrame(frame.current), []);
  const keys = {
    onPointerDown: (event: React.PointerEvent) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      hold();
    },
    onPointerUp: release,
    onPointerCancel: release,
    onKeyDown: (event: React.KeyboardEvent) => {
      if (event.code !== "Space") return;
      event.preventDefault();
      if (!event.repeat) hold();
    },
    onKeyUp: (event: React.KeyboardEvent) => {
      if (event.code === "Space") release();
    },
    onBlur: release,
  };
  return { turned, keys };
}
