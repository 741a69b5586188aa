import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { cribQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { Waiting } from "../../parts/Waiting";
import { CoveragePicture } from "./CoveragePicture";

/** The crib: what it reaches of the shop's specs, what it does not, and what to buy first. */
export function CribScreen() {
  const { data: crib, error } = useQuery(cribQuery);
  if (!crib) return <Waiting error={error} />;
  const { purchase } = crib.coverage;
  return (
    <Frame title="Crib">
      <div className="mx-auto flex max-w-6xl flex-col gap-5 p-4">
        <p className="text-xl">
          {crib.specs} specs are worked to; {crib.coverage.missing.length || "none"} of them{" "}
          {crib.coverage.missing.length === 1 ? "is" : "are"} out of reach of the {crib.wrenches.length} wrenches here.
        </p>
        <CoveragePicture coverage={crib.coverage} />
        <p className="text-base-content/80 text-sm">
          Solid: verified, from a fifth of the highest mark up. Hatched: it can be set there, and nobody has verified
          it. The number is how many of the specs a wrench can pull.
        </p>
        {purchase && (
          <p className="border-primary border-l-8 pl-4 text-lg">
            One wrench more would reach {purchase.more} of them: {purchase.offer.drive}, {purchase.offer.lowest} to{" "}
            {purchase.offer.highest} {purchase.offer.unit}, marks {purchase.offer.graduation} apart.
          </p>
        )}
        {crib.out_of_reach.length > 0 && (
          <section aria-label="out of reach">
            <h2 className="text-lg font-bold">Out of reach</h2>
            <ul>
              {crib.out_of_reach.map((one) => (
                <li key={one.spec} className="border-base-300 border-b">
                  <Link className="block py-3" to={`/specs/${one.spec}`}>
                    <b>{one.title}</b>, {one.maker_model}
                  </Link>
                </li>
              ))}
            </ul>
          </section>
        )}
        <Link className="btn self-start" to="/add/wrench">
          Add a wrench
        </Link>
      </div>
    </Frame>
  );
}
