import type { Schemas } from "../api/client";
import { STATE_WORDS, StateMark } from "./StateMark";

type MachineMap = Schemas["MachineMap"];
type Spot = Schemas["SpotNow"];
type Props = {
  map: MachineMap;
  name: string;
  chosen: string | null;
  /** The keys of the positions that are offered to this tablet now. */
  next?: string | undefined;
  onChoose: (key: string) => void;
};

const PARTS: Record<Schemas["Shape"]["what"], string> = {
  body: "fill-base-200 stroke-base-content/50",
  cab: "fill-base-100 stroke-base-content/40",
  engine: "fill-base-300 stroke-base-content/50",
  axle: "fill-base-content/30 stroke-none",
  hitch: "fill-base-content/50 stroke-none",
  boom: "fill-base-content/15 stroke-base-content/40",
  counterweight: "fill-base-content/40 stroke-none",
};
const MARK_MM = 760;

/** A machine from above, its front at the top; every place with the worst of its joints, by shape, number and colour. */
export function MachinePicture({ map, name, chosen, next, onChoose }: Props) {
  const { drawing, spots } = map;
  if (!drawing) return null;
  const said = new Map(spots.map((spot) => [spot.key, spot]));
  const numbers = new Map(spots.map((spot, place) => [spot.key, place + 1]));
  const [wide, tall] = [drawing.width_mm + 2 * MARK_MM, drawing.height_mm + 750];
  return (
    <svg
      viewBox={`${-wide / 2} ${drawing.top_mm - 550} ${wide} ${tall}`}
      className="h-full max-h-full w-full"
      role="group"
      aria-label={`${name} from above`}
    >
      <path
        d={`M -260 ${drawing.top_mm - 160} l 260 -260 l 260 260`}
        className="stroke-base-content/60 fill-none"
        strokeWidth={70}
      />
      {drawing.shapes.map((shape, place) => (
        <rect
          // biome-ignore lint/suspicious/noArrayIndexKey: the parts of a drawing do not change places
          key={place}
          x={shape.x_mm - shape.width_mm / 2}
          y={shape.y_mm - shape.height_mm / 2}
          width={shape.width_mm}
          height={shape.height_mm}
          rx={shape.what === "body" ? 260 : 80}
          className={PARTS[shape.what]}
          strokeWidth={40}
        />
      ))}
      {drawing.spots.map((place) => {
        const spot = said.get(place.key);
        if (!spot) return place.wheel ? <Wheel key={place.key} place={place} /> : null;
        return (
          <Place
            key={place.key}
            place={place}
            spot={spot}
            number={numbers.get(place.key) ?? 0}
            chosen={chosen === place.key}
            next={next === place.key}
            onChoose={() => onChoose(place.key)}
          />
        );
      })}
    </svg>
  );
}

function Wheel({ place }: { place: Schemas["Spot"] }) {
  return (
    <rect
      x={place.x_mm - place.width_mm / 2}
      y={place.y_mm - place.height_mm / 2}
      width={place.width_mm}
      height={place.height_mm}
      rx={70}
      className="fill-base-content/60"
    />
  );
}

type PlaceProps = {
  place: Schemas["Spot"];
  spot: Spot;
  number: number;
  chosen: boolean;
  next: boolean;
  onChoose: () => void;
};

/** A place that can be touched: the wheel, its mark beside it, its number. */
function Place({ place, spot, number, chosen, next, onChoose }: PlaceProps) {
  const outward = place.x_mm < 0 ? -1 : 1;
  const isInner = place.wheel && place.key.endsWith("/inner");
  const mark = place.wheel
    ? { x: place.x_mm + outward * (isInner ? -1 : 1) * (place.width_mm / 2 + MARK_MM * 0.52), y: place.y_mm }
    : { x: place.x_mm, y: place.y_mm };
  const words = `${spot.words}: ${STATE_WORDS[spot.state]}`;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={words}
      aria-pressed={chosen}
      className="group cursor-pointer focus:outline-none"
      onClick={onChoose}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        onChoose();
      }}
    >
      {place.wheel && <Wheel place={place} />}
      <rect
        x={Math.min(place.x_mm - place.width_mm / 2, mark.x - MARK_MM / 2)}
        y={place.y_mm - Math.max(place.height_mm, MARK_MM) / 2}
        width={Math.max(place.width_mm, place.wheel ? place.width_mm + MARK_MM : MARK_MM)}
        height={Math.max(place.height_mm, MARK_MM)}
        fill="transparent"
      />
      {(chosen || next) && (
        <circle
          cx={mark.x}
          cy={mark.y}
          r={MARK_MM * 0.56}
          className="stroke-primary fill-none"
          strokeWidth={chosen ? 90 : 60}
          strokeDasharray={chosen ? undefined : "150 110"}
        />
      )}
      <circle
        cx={mark.x}
        cy={mark.y}
        r={MARK_MM * 0.56}
        className="stroke-base-content fill-none opacity-0 group-focus-visible:opacity-100"
        strokeWidth={60}
      />
      <StateMark state={spot.state} x={mark.x} y={mark.y} size={MARK_MM * 0.84} label={String(number)} />
    </g>
  );
}
