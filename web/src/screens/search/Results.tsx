import { Truck, X } from "lucide-react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import type { Asking } from "../../api/queries";
import { Trouble } from "../../parts/Trouble";
import { Facets } from "./Facets";
import { HitLine, hitPath } from "./HitLine";
import { OneQuestion } from "./OneQuestion";

type Props = {
  found: Schemas["SearchAnswer"] | undefined;
  error: unknown;
  asking: Asking;
  fresh: boolean;
  at: number;
  onClear: () => void;
  onNarrow: (narrow: Record<string, string>) => void;
};

/** What fits the words, best first; nothing on file says so, with the way on. */
export function Results({ found, error, asking, fresh, at, onClear, onNarrow }: Props) {
  if (error) return <Trouble error={error} />;
  if (!found) return <p aria-busy="true">Looking …</p>;
  const { machine, vin } = found;
  const asked = asking.asked.trim();
  return (
    <section aria-label="results" className="flex flex-col gap-3">
      {machine && (
        <button type="button" className="btn self-start" onClick={onClear}>
          {machine.fleet_number} · {machine.maker} {machine.model} only <X aria-label="all machines" size={20} />
        </button>
      )}
      {vin && (
        <p className={`border-l-8 pl-4 ${vin.warning ? "border-warning" : "border-base-300"}`}>
          VIN {vin.vin}: {vin.years.length > 0 ? `model year ${vin.years.join(" or ")}` : "no model year"}.{" "}
          {vin.warning || (vin.check_digit_holds ? "Its check digit holds." : "")}
        </p>
      )}
      {machine && found.question && <OneQuestion machine={machine} question={found.question} />}
      <div className="grid items-start gap-x-6 gap-y-3 lg:grid-cols-[1fr_17rem]">
        <ul className="flex flex-col">
          {found.hits.map((hit, index) => (
            <li key={hit.spec} className="border-base-300 border-b">
              <HitLine hit={hit} to={hitPath(hit, machine?.id ?? null)} here={index === at} />
            </li>
          ))}
          {found.machines.map((each, index) => (
            <li key={each.id} className="border-base-300 border-b">
              <Link
                to={`/machines/${each.id}`}
                aria-current={found.hits.length + index === at}
                className={`flex items-center gap-3 px-4 py-4 text-lg ${found.hits.length + index === at ? "border-primary bg-base-200 border-l-8" : "border-l-8 border-transparent"}`}
              >
                <Truck aria-hidden="true" /> <b>{each.fleet_number}</b> {each.maker} {each.model}
                <span className="text-base-content/80 text-sm">{each.what || "machine"}</span>
              </Link>
            </li>
          ))}
        </ul>
        <Facets asking={asking} found={found} fresh={fresh} onNarrow={onNarrow} />
      </div>
      {found.more && <p>There are more. Add a word, or narrow.</p>}
      {found.unreadable && <p className="text-xl font-bold">There is no word and no figure in “{asked}”. Type some.</p>}
      {found.hits.length === 0 && !found.unreadable && (
        <div className="border-base-content/40 rounded-box border p-4">
          <p className="text-xl font-bold">No spec on file{asked && ` for “${asked}”`}.</p>
          <p className="mb-3">
            Nothing is guessed here. Use fewer words, or enter the spec from its document; it stays marked unchecked.
          </p>
          <div className="flex flex-wrap gap-2">
            <Link className="btn btn-primary" to={`/add/spec${machine ? `?machine=${machine.id}` : ""}`}>
              Enter a spec
            </Link>
            <Link className="btn" to="/add/machine">
              Add a machine
            </Link>
            <Link className="btn" to="/add/file">
              Bring specs in from a file
            </Link>
          </div>
        </div>
      )}
    </section>
  );
}
