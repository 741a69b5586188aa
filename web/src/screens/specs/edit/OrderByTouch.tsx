import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { FastenerMap } from "../../../parts/FastenerMap";

type Props = {
  layout: Schemas["Layout"];
  ways: readonly Schemas["Way"][];
  hand: string;
  onOrder: (order: string) => void;
  onPropose: () => void;
};

/** The map with the place of each fastener in the order; touched one after the other, they make a new one. */
export function OrderByTouch({ layout, ways, hand, onOrder, onPropose }: Props) {
  const [touched, setTouched] = useState<string[] | null>(null);
  const main = (layout.orders.main ?? []).flat();
  const order = touched ?? main;
  const turns = Object.fromEntries(order.map((label, place) => [label, place + 1]));
  const touch = (label: string) => {
    if (!touched || touched.includes(label)) return;
    const now = [...touched, label];
    if (now.length === layout.fasteners.length) {
      setTouched(null);
      onOrder(now.join(" "));
    } else setTouched(now);
  };
  return (
    <div className="flex flex-col gap-2">
      <div className="flex max-h-80 flex-col">
        <FastenerMap
          layout={layout}
          clockwise={hand === "right"}
          turns={layout.fasteners.length > 1 ? turns : {}}
          chosen={touched ? (touched.at(-1) ?? null) : null}
          {...(touched ? { onChoose: touch } : {})}
        />
      </div>
      {layout.fasteners.length > 1 &&
        (touched ? (
          <p className="flex flex-wrap items-center gap-2" aria-live="polite">
            <span>
              Touch them in order: {touched.length} of {layout.fasteners.length}.
            </span>
            <button type="button" className="btn" onClick={() => setTouched([])}>
              From the beginning
            </button>
            <button type="button" className="btn" onClick={() => setTouched(null)}>
              Leave it as it was
            </button>
          </p>
        ) : (
          <p className="flex flex-wrap gap-2">
            <button type="button" className="btn" onClick={() => setTouched([])}>
              Set the order by touching
            </button>
            <button type="button" className="btn" onClick={onPropose}>
              Take the one that the layout proposes
            </button>
            {ways.map((way) => (
              <button
                key={way.name}
                type="button"
                className="btn btn-ghost h-auto flex-wrap justify-start py-2 text-left"
                title={way.why}
                onClick={() => onOrder(way.order.join(" "))}
              >
                {way.name}
                {way.measured && <span className="text-sm font-normal">{way.measured}</span>}
              </button>
            ))}
          </p>
        ))}
    </div>
  );
}
