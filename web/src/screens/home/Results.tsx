import { Truck, X } from "lucide-react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Trouble } from "../../parts/Trouble";
import { hitPath } from "./HomeScreen";
import { OneQuestion } from "./OneQuestion";

type Props = { found: Schemas["Found"] | undefined; error: unknown; asked: string; at: number; onClear: () => void };

/** What fits the words, best first; nothing on file says so, with the way on. */
export function Results({ found, error, asked, at, onClear }: Props) {
  if (error) return <Trouble error={error} />;
  if (!found) return <p aria-busy="true">Looking …</p>;
  const machine = found.machine;
  return (
    <section aria-label="results" className="flex flex-col gap-3">
      {machine && (
        <button type="button" className="btn self-start" onClick={onClear}>
          {machine.fleet_number} · {machine.maker} {machine.model} only <X aria-label="all machines" size={20} />
        </button>
      )}
      {machine && found.question && <OneQuestion machine={machine} question={found.question} />}
      <ul className="flex flex-col">
        {found.hits.map((hit, index) => (
          <li key={hit.spec} className="border-base-300 border-b">
            <Link
              to={hitPath(hit, machine?.id ?? null)}
              aria-current={index === at}
              className={`block px-4 py-3 ${index === at ? "border-primary bg-base-200 border-l-8" : "border-l-8 border-transparent"}`}
            >
              <span className="flex flex-wrap items-baseline gap-x-3">
                <span className="text-xl font-bold">
                  {hit.machine ? `${hit.machine.fleet_number} · ` : ""}
                  {hit.title}
                </span>
                <span>{hit.maker_model}</span>
                {!hit.checked && (
                  <span className="bg-warning text-warning-content rounded-selector px-2">unchecked</span>
                )}
              </span>
              <span className="block text-lg">{hit.summary}</span>
              <span className="text-base-content/80 text-sm">
                {hit.positions}
                {hit.why.length > 0 && ` · matched ${hit.why.join(", ")}`}
                {hit.fleet.length > 0 && ` · ${hit.fleet.join(", ")}`}
              </span>
            </Link>
          </li>
        ))}
        {found.machines.map((one, index) => (
          <li key={one.id} className="border-base-300 border-b">
            <Link
              to={`/machines/${one.id}`}
              aria-current={found.hits.length + index === at}
              className={`flex items-center gap-3 px-4 py-4 text-lg ${found.hits.length + index === at ? "border-primary bg-base-200 border-l-8" : "border-l-8 border-transparent"}`}
            >
              <Truck aria-hidden="true" /> <b>{one.fleet_number}</b> {one.maker} {one.model}
              <span className="text-base-content/80 text-sm">{one.what || "machine"}</span>
            </Link>
          </li>
        ))}
      </ul>
      {found.hits.length === 0 && (
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
          </div>
        </div>
      )}
    </section>
  );
}
