import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { tonightQuery, toolsQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { Waiting } from "../../parts/Waiting";
import { CoveragePicture } from "./CoveragePicture";
import { Tonight } from "./Tonight";

const SHELVES: readonly { say: string; holds: readonly string[] }[] = [
  { say: "Wrenches", holds: ["wrench"] },
  { say: "On a wrench's end", holds: ["crowfoot", "extension", "step", "universal", "socket", "multiplier"] },
  { say: "Gauges", holds: ["gauge"] },
  { say: "Jacks and stands", holds: ["support"] },
  { say: "Shims, spacers, washers, sleeves", holds: ["piece"] },
];

/** The crib: what is in it and how it stands, what it reaches of the shop's specs, and what to buy first. */
export function CribScreen() {
  const { data: crib, error } = useQuery(toolsQuery);
  const { data: tonight } = useQuery(tonightQuery);
  if (!crib || !tonight) return <Waiting error={error} />;
  const { purchase } = crib.coverage;
  return (
    <Frame title="Crib">
      <div className="mx-auto flex max-w-6xl flex-col gap-6 p-4">
        <Tonight />
        <div className="gap-x-10 lg:columns-2">
          {SHELVES.map(({ say, holds }) => (
            <Shelf key={say} say={say} tools={crib.tools.filter((tool) => holds.includes(tool.kind))} />
          ))}
        </div>
        <Link className="btn self-start" to="/add/tool">
          Add a tool
        </Link>
        <section aria-label="reach" className="flex flex-col gap-4">
          <h2 className="text-lg font-bold">What it reaches</h2>
          <p className="text-xl">
            {crib.specs} specs are worked to; {crib.coverage.missing.length || "none"} of them{" "}
            {crib.coverage.missing.length === 1 ? "is" : "are"} out of reach of the {crib.in_use} wrenches that are fit
            for use.
          </p>
          <CoveragePicture coverage={crib.coverage} />
          {purchase && (
            <p className="border-primary border-l-8 pl-4 text-lg">
              One wrench more would reach {purchase.more} of them: {purchase.offer.drive}, {purchase.offer.lowest} to{" "}
              {purchase.offer.highest} {purchase.offer.unit}, marks {purchase.offer.graduation} apart.
            </p>
          )}
        </section>
        {crib.out_of_reach.length > 0 && (
          <section aria-label="out of reach">
            <h2 className="text-lg font-bold">Out of reach</h2>
            <ul>
              {crib.out_of_reach.map((spec) => (
                <li key={spec.spec} className="border-base-300 border-b">
                  <Link className="block py-3" to={`/specs/${spec.spec}`}>
                    <b>{spec.title}</b>, {spec.maker_model}
                  </Link>
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
    </Frame>
  );
}

function Shelf({ say, tools }: { say: string; tools: readonly Schemas["ToolLine"][] }) {
  return (
    <section aria-label={say} className="mb-6 break-inside-avoid-column">
      <h2 className="mb-1 text-lg font-bold">{say}</h2>
      <ul>
        {tools.map(({ id, name, words, care, piece }) => (
          <li key={id} className="border-base-300 border-b">
            <Link className="flex min-h-14 items-center gap-x-3 py-2" to={`/crib/${id}`}>
              {care && <Mark standing={care.standing} />}
              <span>
                <b className="mr-3">{name}</b>
                <span className="text-base-content/80">{words}</span>
                {piece && !piece.at_hand && <b className="ml-3">not at hand</b>}
                {care && care.standing !== "good" && <span className="block">{care.words}</span>}
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {tools.length === 0 && <p>None yet.</p>}
    </section>
  );
}

const SIGN: Record<Schemas["Care"]["standing"], [string, string]> = {
  good: ["✓", "border-success"],
  soon: ["◔", "border-warning"],
  due: ["!", "border-error bg-error text-error-content"],
  quarantined: ["×", "border-error bg-error text-error-content"],
  "no check on file": ["?", "border-base-content"],
};

/** How a tool stands, told by a sign as well as a colour. */
export function Mark({ standing }: { standing: Schemas["Care"]["standing"] }) {
  const [sign, look] = SIGN[standing];
  return (
    <span
      role="img"
      aria-label={standing}
      className={`grid size-6 shrink-0 place-items-center border-2 text-sm font-bold ${look}`}
    >
      {sign}
    </span>
  );
}
