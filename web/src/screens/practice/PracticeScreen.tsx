import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { practiceQuery, trainedQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { calendarDay, DAY } from "../../parts/format";
import { useMe } from "../../parts/useMe";
import { Waiting } from "../../parts/Waiting";
import { anySeed } from "./DrillScreen";

const LAB = [
  ["bolt", "Where does my torque go?"],
  ["scatter", "My wrench is good to four in a hundred. Is my bolt?"],
  ["reuse", "It was turned into yield. Can I use it again?"],
  ["joint", "Why in that order?"],
  ["wheel", "Why does the wheel want its re-torque?"],
  ["wrench", "What does the thing on the end do to my setting?"],
] as const;

/** Understand and practise: the lab's questions, the drills, what comes again. It is one's own page. */
export function PracticeScreen() {
  const me = useMe();
  const { data, error } = useQuery(practiceQuery);
  if (!data) return <Waiting error={error} />;
  return (
    <Frame title="Understand and practise">
      <div className="mx-auto grid max-w-6xl gap-8 p-4 lg:grid-cols-[minmax(0,1fr)_20rem]">
        <section aria-label="drills" className="flex flex-col gap-3">
          <h2 className="text-lg font-bold">
            Practise{data.due_now.length > 0 && `: ${data.due_now.length} missed before, due again`}
          </h2>
          <ul className="grid gap-3 sm:grid-cols-2">
            {data.drills.map((drill) => (
              <DrillLine
                key={drill.name}
                drill={drill}
                due={data.due_now.find((each) => each.drill === drill.name) ?? null}
              />
            ))}
          </ul>
          {data.by_eye_deg != null && (
            <p className="text-lg">
              Your own error by eye, the last time: within <b>{Math.round(data.by_eye_deg)}°</b>. This shop lets{" "}
              {data.shop_by_eye_deg}° pass.
            </p>
          )}
          <p className="text-base-content/80">
            On simulated tools, judged by the rules of real work; nothing of it enters the ledger. What was missed comes
            again after 1, 3 and 7 days. What you missed is for you alone; a lead sees which drills were passed, and
            when.
          </p>
          {me.rights.includes("training") && <People titles={data.drills} />}
        </section>
        <section aria-label="lab" className="flex flex-col gap-2 self-start">
          <h2 className="text-lg font-bold">Look inside a joint</h2>
          {LAB.map(([page, question]) => (
            <Link key={page} className="btn min-h-14 justify-start text-left" to={`/lab/${page}`}>
              {question}
            </Link>
          ))}
        </section>
      </div>
    </Frame>
  );
}

type LineProps = { drill: Schemas["DrillLine"]; due: Schemas["ComesAgain"] | null };

function DrillLine({ drill, due }: LineProps) {
  const [seed] = useState(anySeed);
  return (
    <li>
      <Link
        to={`/practice/${drill.name}?seed=${due?.seed ?? seed}`}
        className={`border-base-300 bg-base-200 flex h-full flex-col gap-1 rounded border-l-8 p-3 ${due ? "border-l-warning" : drill.passed_on ? "border-l-success" : ""}`}
      >
        <b className="text-xl">{drill.title}</b>
        <span>{drill.trains}</span>
        <span className="text-base-content/80">
          {due
            ? "missed before: due again"
            : drill.passed_on
              ? `passed ${calendarDay(drill.passed_on, DAY)}`
              : drill.done > 0
                ? `tried, not passed yet`
                : "not tried yet"}
        </span>
      </Link>
    </li>
  );
}

function People({ titles }: { titles: readonly Schemas["DrillLine"][] }) {
  const { data } = useQuery(trainedQuery);
  if (!data) return null;
  return (
    <section aria-label="who passed what" className="overflow-x-auto">
      <h2 className="text-lg font-bold">Who passed what, and when</h2>
      <table className="table">
        <thead>
          <tr>
            <th scope="col">name</th>
            {titles.map((drill) => (
              <th key={drill.name} scope="col">
                {drill.title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {data.map((person) => (
            <tr key={person.person}>
              <th scope="row">{person.name}</th>
              {titles.map((drill) => {
                const passed = person.passed[drill.name];
                return <td key={drill.name}>{passed ? calendarDay(passed, DAY) : "–"}</td>;
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
