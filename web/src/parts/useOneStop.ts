import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";

type Fastener = Schemas["Fastener"];
/** Which way each arrow key goes, x to the right and y upward as the layout has them. */
const ARROWS: Record<string, readonly [x: number, y: number]> = {
  ArrowRight: [1, 0],
  ArrowLeft: [-1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

/** The nearest fastener in a direction: sideways counts double, so that an arrow leads where it points. */
function nearest(from: Fastener, all: readonly Fastener[], [x, y]: readonly [number, number]): Fastener | null {
  let best: Fastener | null = null;
  let least = Number.POSITIVE_INFINITY;
  for (const to of all) {
    const ahead = (to.x_mm - from.x_mm) * x + (to.y_mm - from.y_mm) * y;
    const aside = Math.abs((to.x_mm - from.x_mm) * y) + Math.abs((to.y_mm - from.y_mm) * x);
    if (ahead > 0.5 && ahead + 2 * aside < least) {
      best = to;
      least = ahead + 2 * aside;
    }
  }
  return best;
}

/** A drawing of many fasteners as one stop of the tab key; the arrow keys move within it. */
export function useOneStop(fasteners: readonly Fastener[], coming: string) {
  const [here, setHere] = useState(coming);
  const places = useRef(new Map<string, SVGGElement>());
  useEffect(() => setHere(coming), [coming]);
  return {
    here,
    at: (label: string) => (element: SVGGElement | null) => {
      if (element) places.current.set(label, element);
      else places.current.delete(label);
    },
    /** Move the focus by an arrow key; whether it was one that leads somewhere. */
    move: (key: string): boolean => {
      const way = ARROWS[key];
      const from = fasteners.find((each) => each.label === here);
      const to = way && from ? nearest(from, fasteners, way) : null;
      if (!to) return false;
      setHere(to.label);
      places.current.get(to.label)?.focus();
      return true;
    },
  };
}
