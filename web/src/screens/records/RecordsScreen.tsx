import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { machinesQuery, recordsQuery, signInQuery, toolsQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { inOneLine, moment, standingWords } from "../../parts/format";
import { Trouble } from "../../parts/Trouble";
import { Waiting } from "../../parts/Waiting";
import { Holds } from "./Holds";
import { Proof } from "./Proof";

const OUTCOMES = ["good", "released", "do not move", "abandoned", "open"];

/** Every card by what somebody knows of it; and what proves the records. */
export function RecordsScreen() {
  const [search, setSearch] = useSearchParams();
  const asked = Object.fromEntries([...search].filter(([, value]) => value !== ""));
  const { data: found, error, isPlaceholderData } = useQuery(recordsQuery(asked));
  const { data: machines } = useQuery(machinesQuery);
  const { data: crib } = useQuery(toolsQuery);
  const { data: door } = useQuery(signInQuery);
  const say = (name: string, value: string) => {
    const next = new URLSearchParams(search);
    if (value) next.set(name, value);
    else next.delete(name);
    setSearch(next, { replace: true });
  };
  if (!found || !machines || !crib || !door) return <Waiting error={error} />;
  const query = new URLSearchParams(asked).toString();
  const picks: readonly { name: string; say: string; from: readonly (readonly [string, string])[] }[] = [
    { name: "machine", say: "Machine", from: machines.map((each) => [each.id, each.fleet_number] as const) },
    { name: "joint", say: "Joint", from: found.joints.map((each) => [each, each] as const) },
    { name: "person", say: "Person", from: door.people.map((each) => [each.id, each.name] as const) },
    {
      name: "tool",
      say: "Wrench or gauge",
      from: crib.tools.filter((each) => !each.piece).map((each) => [each.id, each.name] as const),
    },
    { name: "part", say: "Part", from: found.parts.map((each) => [each, each] as const) },
    { name: "outcome", say: "Outcome", from: OUTCOMES.map((each) => [each, each] as const) },
  ];
  return (
    <Frame
      title="Records"
      aside={
        <span className="flex gap-1">
          <a className="btn btn-ghost" href={`/api/records.csv?${query}`} download>
            CSV
          </a>
          {query && (
            <a className="btn btn-ghost" href={`/api/audit-pack.zip?${query}`} download>
              Audit pack
            </a>
          )}
        </span>
      }
    >
      <div className="mx-auto grid max-w-7xl gap-x-8 gap-y-4 p-4 lg:grid-cols-[1fr_minmax(0,20rem)]">
        <div className="flex min-w-0 flex-col gap-3">
          <section aria-label="what is known" className="grid grid-cols-2 gap-2 md:grid-cols-4">
            {picks.map((pick) => (
              <label key={pick.name} className="flex min-w-0 flex-col text-sm">
                {pick.say}
                <select
                  aria-label={pick.say}
                  className={`select min-h-14 w-full text-base ${asked[pick.name] ? "border-primary bg-base-100 border-2 font-bold" : "bg-base-100"}`}
                  value={asked[pick.name] ?? ""}
                  onChange={(event) => say(pick.name, event.target.value)}
                >
                  <option value="">any</option>
                  {pick.from.map(([value, words]) => (
                    <option key={value} value={value}>
                      {words}
                    </option>
                  ))}
                </select>
              </label>
            ))}
            {(["since", "until"] as const).map((name) => (
              <label key={name} className="flex min-w-0 flex-col text-sm">
                {name === "since" ? "Started from" : "Started until"}
                <input
                  type="date"
                  className="input bg-base-100 min-h-14 w-full text-base"
                  value={asked[name] ?? ""}
                  onChange={(event) => say(name, event.target.value)}
                />
              </label>
            ))}
          </section>
          <Trouble error={error} />
          <p role="status" className={isPlaceholderData ? "opacity-60" : ""}>
            {found.in_all === 1 ? "1 run fits" : `${found.in_all} runs fit`}
            {found.in_all > found.lines.length &&
              `; the newest ${found.lines.length} are shown, all of them are in the CSV`}
            .
          </p>
          <ol className="flex flex-col">
            {found.lines.map((line) => (
              <Line key={line.run} line={line} />
            ))}
          </ol>
        </div>
        <aside className="flex flex-col gap-6">
          <Proof />
          <Holds machine={asked.machine ?? ""} since={asked.since ?? ""} until={asked.until ?? ""} />
        </aside>
      </div>
    </Frame>
  );
}

function Line({ line }: { line: Schemas["RecordLine"] }) {
  return (
    <li className="border-base-300 border-b">
      <Link
        className="hover:bg-base-200 grid min-h-14 grid-cols-[5.5rem_1fr_auto] items-baseline gap-x-3 py-2"
        to={`/runs/${line.run}/card`}
      >
        <b>{line.fleet_number}</b>
        <span className="min-w-0">
          {inOneLine(line.position, line.title)}
          <span className="text-base-content/80 block text-sm">
            {inOneLine(moment(line.started_at), line.people.join(", "), line.wrenches.join(", "))}
          </span>
        </span>
        <b className={line.standing === "do not move" ? "bg-error text-error-content px-2" : ""}>
          {standingWords(line.standing)}
        </b>
      </Link>
    </li>
  );
}
