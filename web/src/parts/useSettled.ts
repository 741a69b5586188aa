import { useEffect, useState } from "react";

/** A value that has not changed for a moment. */
export function useSettled<T>(value: T, after_ms = 250): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), after_ms);
    return () => clearTimeout(timer);
  }, [value, after_ms]);
  return settled;
}
