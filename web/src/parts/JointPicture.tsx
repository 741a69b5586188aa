import type { Schemas } from "../api/client";

type Advised = Schemas["Advised"];
const LINE = "stroke-base-content fill-none";
const STEEL = "fill-base-300 stroke-base-content";
const NAMES: Readonly<Record<string, string>> = {
  hub: "the hub nut with its lock positions",
  "take-up": "the pinion with its sleeve and bearings, in section",
  sleeve: "the pinion with its sleeve and bearings, in section",
  spacer: "the pinion with its spacer and bearings, in section",
  carrier: "the gear pair with the dial's tip at a tooth",
  stretch: "the bolt with the gauge in its dimples",
  thrust: "the crankshaft between its washers, with the dial at its end",
};

/** What is adjusted, drawn as it is; nothing where no adjustment uses the reading. */
export function JointPicture({ prompt }: { prompt: Schemas["Prompt"] }) {
  const advised = prompt.advised;
  const name = advised ? NAMES[advised.by] : undefined;
  if (!advised || !name) return null;
  return (
    <svg viewBox="-120 -80 240 160" className="h-full w-full" role="img" aria-label={name} strokeWidth={2}>
      {advised.by === "hub" && <HubNut advised={advised} />}
      {(advised.by === "sleeve" || advised.by === "take-up") && <Pinion between="sleeve" />}
      {advised.by === "spacer" && <Pinion between="spacer" />}
      {advised.by === "carrier" && <GearPair />}
      {advised.by === "stretch" && <Bolt />}
      {advised.by === "thrust" && <Crankshaft />}
    </svg>
  );
}

function HubNut({ advised }: { advised: Advised }) {
  const count = advised.positions || 12;
  const turned = ((advised.at % count) / count) * 360;
  return (
    <g>
      <circle r={72} className={STEEL} />
      <g transform={`rotate(${-turned})`}>
        <path d={hexagon(50)} className="fill-base-100 stroke-base-content" />
        <path d="M 0 -50 v 12" className="stroke-primary" strokeWidth={5} />
      </g>
      {Array.from({ length: count }, (_, place) => (place / count) * 360).map((turn) => (
        <path key={turn} d="M 0 -70 v 7" transform={`rotate(${turn})`} className={LINE} strokeWidth={1.5} />
      ))}
      <path d="M 0 -78 l -5 -2 h 10 Z" className="fill-primary stroke-primary" />
      <circle r={20} className={STEEL} />
      <text y={5} textAnchor="middle" fontSize={13} strokeWidth={0} className="fill-base-content">
        {count}
      </text>
    </g>
  );
}

const hexagon = (radius: number) =>
  `${Array.from({ length: 6 }, (_, corner) => {
    const turn = (corner * Math.PI) / 3;
    return `${corner ? "L" : "M"} ${(radius * Math.sin(turn)).toFixed(1)} ${(-radius * Math.cos(turn)).toFixed(1)}`;
  }).join(" ")} Z`;

/** Half above, half below the middle: two taper bearings, and what keeps them apart. */
function Pinion({ between }: { between: "sleeve" | "spacer" }) {
  return (
    <g>
      <path d="M -110 0 H 110" className="stroke-base-content/50" strokeDasharray="12 4 3 4" strokeWidth={1} />
      <path d="M -100 -34 L -74 -18 V 18 L -100 34 Z" className={STEEL} />
      <path d="M -74 -16 H 104 V 16 H -74 Z" className="fill-base-100 stroke-base-content" />
      {[-1, 1].map((side) => (
        <g key={side} transform={`scale(1 ${side})`}>
          <path d="M -66 -18 H -40 L -44 -30 H -66 Z M 34 -18 H 60 V -30 H 38 Z" className={STEEL} />
          <path
            d="M -70 -50 H -36 L -40 -36 H -70 Z M 30 -50 H 64 V -36 H 34 Z"
            className="fill-base-200 stroke-base-content"
          />
          <path d="M -64 -36 L -44 -32 M 38 -32 L 58 -36" className={LINE} strokeWidth={4} />
          <path
            d={
              between === "sleeve"
                ? "M -38 -20 C -20 -20 -18 -36 -3 -36 C 12 -36 14 -20 32 -20"
                : "M -38 -18 H 32 V -28 H -38 Z"
            }
            className={between === "sleeve" ? "stroke-primary fill-none" : "fill-primary/40 stroke-primary"}
            strokeWidth={between === "sleeve" ? 6 : 2}
          />
          <path d="M 70 -18 H 84 V -34 H 70 Z" className={STEEL} />
        </g>
      ))}
      <text x={-3} y={-48} textAnchor="middle" fontSize={13} strokeWidth={0} className="fill-base-content">
        {between}
      </text>
      <text x={78} y={-44} textAnchor="middle" fontSize={13} strokeWidth={0} className="fill-base-content">
        nut
      </text>
    </g>
  );
}

function GearPair() {
  const teeth = Array.from({ length: 36 }, (_, tooth) => tooth * 10);
  return (
    <g>
      <g transform="translate(-30 20)">
        <circle r={66} className={STEEL} />
        {teeth.map((turn) => (
          <path key={turn} d="M -4 -66 L -2.5 -74 H 2.5 L 4 -66" transform={`rotate(${turn})`} className={STEEL} />
        ))}
        <circle r={34} className="fill-base-100 stroke-base-content" />
      </g>
      <path d="M 44 -2 L 96 -18 V 58 L 44 42 Z" className="fill-base-100 stroke-base-content" />
      <path d="M 52 0 V 40 M 64 -4 V 44 M 76 -8 V 48 M 88 -12 V 54" className={LINE} />
      <circle cx={40} cy={-58} r={16} className="fill-base-100 stroke-primary" strokeWidth={3} />
      <path d="M 26 -52 L -4 -52" className="stroke-primary" strokeWidth={3} />
      <circle cx={-5} cy={-52} r={3.5} className="fill-primary stroke-primary" />
      <path d="M 40 -58 L 46 -66" className="stroke-primary" />
    </g>
  );
}

function Bolt() {
  return (
    <g>
      <path d="M -78 -22 H -54 V 22 H -78 Z" className={STEEL} />
      <path d="M -54 -12 H 74 V 12 H -54 Z" className="fill-base-100 stroke-base-content" />
      <path d="M 30 -12 L 36 12 M 40 -12 L 46 12 M 50 -12 L 56 12 M 60 -12 L 66 12" className={LINE} />
      <path d="M -40 -34 H 20 V -14 H -40 Z M -40 14 H 20 V 34 H -40 Z" className="fill-base-200 stroke-base-content" />
      <path d="M -78 0 l -10 -5 v 10 Z M 74 0 l 10 -5 v 10 Z" className="fill-primary stroke-primary" />
      <path d="M -88 0 H -104 V -58 H 104 V 0 H 84" className="stroke-primary fill-none" strokeWidth={5} />
      <circle cx={60} cy={-58} r={15} className="fill-base-100 stroke-primary" strokeWidth={3} />
      <path d="M 60 -58 L 68 -66" className="stroke-primary" />
    </g>
  );
}

function Crankshaft() {
  return (
    <g>
      <path d="M -110 0 H 100" className="stroke-base-content/50" strokeDasharray="12 4 3 4" strokeWidth={1} />
      <path d="M -104 -14 H -40 V 14 H -104 Z M 4 -14 H 60 V 14 H 4 Z" className="fill-base-100 stroke-base-content" />
      <path d="M -40 -40 H -22 V 40 H -40 Z M -14 -52 H 4 V 30 H -14 Z" className={STEEL} />
      <path d="M -22 -52 H -14 V -34 H -22 Z" className={STEEL} />
      <path
        d="M -82 -34 H -56 V -14 H -82 Z M -82 14 H -56 V 34 H -82 Z"
        className="fill-base-200 stroke-base-content"
      />
      <path
        d="M -54 -30 V -15 M -54 15 V 30 M -84 -30 V -15 M -84 15 V 30"
        className="stroke-primary"
        strokeWidth={5}
      />
      <path d="M 62 0 H 76" className="stroke-primary" strokeWidth={3} />
      <circle cx={92} cy={0} r={16} className="fill-base-100 stroke-primary" strokeWidth={3} />
      <path d="M 92 0 L 100 -8" className="stroke-primary" />
    </g>
  );
}
