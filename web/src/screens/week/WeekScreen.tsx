import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { weekQuery } from "../../api/queries";
import { BayLines } from "../../parts/BayLines";
import { Frame } from "../../parts/Frame";
import { calendarDay, inOneLine, moment, procedureWords } from "../../parts/format";
import { NoticeStrip } from "../../parts/NoticeStrip";
import { Waiting } from "../../parts/Waiting";
import { DayBars } from "./DayBars";

const OUTCOMES = [
  { name: "good", fill: "fill-success", say: "good" },
  { name: "released", fill: "fill-secondary", say: "released by a lead" },
  { name: "abandoned", fill: "fill-warning", say: "abandoned" },
  { name: "do not move", fill: "url(#ended-badly)", say: "do not move" },
];
const PULLS = [{ name: "pulls", fill: "fill-primary", say: "pulls and checks" }];
const AHEAD = [{ name: "re-torques", fill: "fill-primary", say: "re-torques by their last day" }];

const days = (monday: string, many: number): string => {
  const at = new Date(`${monday}T12:00:00Z`);
  at.setUTCDate(at.getUTCDate() + many);
  return at.toISOString().slice(0, 10);
};

/** The week: what was done and how it ended; what stands open, is due, is in doubt, waits; each leads to the thing. */
export function WeekScreen() {
  const [search] = useSearchParams();
  const day = search.get("day");
  const { data: week, error } = useQuery(weekQuery(day));
  if (!week) return <Waiting error={error} />;
  const query = day ? `?day=${day}` : "";
  return (
    <Frame
      title={`Week of ${calendarDay(week.monday, { day: "numeric", month: "long", year: "numeric" })}`}
      aside={
        <span className="flex gap-1">
          <Link
            className="btn btn-ghost max-sm:hidden"
            to={`/records?since=${week.monday}&until=${days(week.monday, 6)}`}
          >
            Records
          </Link>
          <Link className="btn btn-ghost" to={`/week?day=${days(week.monday, -7)}`}>
            Before
          </Link>
          <Link className="btn btn-ghost" to={`/week?day=${days(week.monday, 7)}`}>
            After
          </Link>
          <a className="btn btn-ghost" href={`/api/week.pdf${query}`} target="_blank" rel="noreferrer">
            PDF
          </a>
          <a className="btn btn-ghost" href={`/api/week.csv${query}`} download>
            CSV
          </a>
        </span>
      }
    >
      <svg className="absolute h-0 w-0" aria-hidden="true">
        <defs>
          <pattern id="ended-badly" width={6} height={6} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width={6} height={6} className="fill-error" />
            <line y2={6} className="stroke-base-100" strokeWidth={2} />
          </pattern>
        </defs>
      </svg>
      <div className="mx-auto flex max-w-7xl flex-col gap-6 p-4">
        <div className="grid gap-x-8 gap-y-6 lg:grid-cols-2">
          <div className="flex min-w-0 flex-col gap-6">
            <Counted heading="Machines that need somebody" many={week.bay.length}>
              <BayLines lines={week.bay} />
            </Counted>
            <Counted heading="Notices" many={week.notices.length}>
              <NoticeStrip notices={week.notices} />
            </Counted>
            <DayBars caption="How the work ended" title="runs [number]" days={week.outcomes} parts={OUTCOMES} />
            <Counted heading="Wrenches in doubt" many={week.in_doubt.length}>
              <ul>
                {week.in_doubt.map((tool) => (
                  <li key={tool.id} className="border-base-300 border-b">
                    <Link className="block py-3" to={`/crib/${tool.id}`}>
                      <b>{tool.name}</b> {tool.care?.words}
                    </Link>
                  </li>
                ))}
              </ul>
            </Counted>
          </div>
          <div className="flex min-w-0 flex-col gap-6">
            <DayBars caption="What is due when" title="re-torques [number]" days={week.ahead} parts={AHEAD} />
            <DayBars caption="Pulls" title="pulls [number]" days={week.pulls} parts={PULLS} />
            <Counted heading="Specs that wait" many={week.to_check.length}>
              <ul>
                {week.to_check.map((spec) => (
                  <li key={`${spec.spec}${spec.revision}`} className="border-base-300 border-b">
                    <Link className="block py-3" to={`/specs/${spec.spec}?revision=${spec.revision}`}>
                      <b>{spec.title}</b>, {spec.maker_model}
                    </Link>
                  </li>
                ))}
              </ul>
            </Counted>
          </div>
        </div>
        <section aria-label="done">
          <h2 className="mb-2 text-lg font-bold">Done: {week.done.length}</h2>
          <Done lines={week.done} />
        </section>
      </div>
    </Frame>
  );
}

function Counted({ heading, many, children }: { heading: string; many: number; children: React.ReactNode }) {
  return (
    <section aria-label={heading} className="flex flex-col gap-2">
      <h2 className="text-lg font-bold">
        {heading}: {many === 0 ? "nothing" : many}
      </h2>
      {many > 0 && children}
    </section>
  );
}

function Done({ lines }: { lines: readonly Schemas["DoneLine"][] }) {
  return (
    <ul>
      {lines.map((line) => (
        <li key={line.run} className="border-base-300 border-b">
          <Link className="flex flex-wrap gap-x-4 gap-y-1 py-2" to={`/runs/${line.run}/card`}>
            <b className={`w-28 ${line.standing === "do not move" ? "text-error" : ""}`}>{line.standing}</b>
            <span className="w-56">{inOneLine(line.fleet_number, line.position)}</span>
            <span className="min-w-40 flex-1">
              {line.title}
              {line.procedure !== "tighten" && `, ${procedureWords(line.procedure)}`}
              {line.reasons.length > 0 && <span className="block text-sm">{line.reasons.join("; ")}</span>}
            </span>
            <span>{line.people.join(", ")}</span>
            <span>{inOneLine(moment(line.at), line.shift)}</span>
          </Link>
        </li>
      ))}
    </ul>
  );
}
