import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { choicesQuery, signInQuery, touched } from "../../api/queries";
import { sendFile } from "../../api/send";
import { Choice } from "../../parts/Choice";
import { Field } from "../../parts/Field";
import { Frame } from "../../parts/Frame";
import { newId } from "../../parts/ids";
import { Trouble } from "../../parts/Trouble";
import { useMe } from "../../parts/useMe";
import { Waiting } from "../../parts/Waiting";

/** The shop: who works here, and what it chooses where mechanics disagree. */
export function ShopScreen() {
  const me = useMe();
  const { data: door } = useQuery(signInQuery);
  const { data: questions, error } = useQuery(choicesQuery);
  const choose = useCommand({
    body: ({ id }, chosen: Answer) => ({ id, ...chosen }),
    to: address("/api/shop/choices"),
    method: "PUT",
    changes: touched.shop,
  });
  if (!questions || !door) return <Waiting error={error} />;
  const may = me.rights.includes("shop");
  const asked = (question: Schemas["ShopChoice"]) => (
    <Asked key={`${question.field}${question.chosen}`} question={question} may={may} onChoose={choose.press} />
  );
  return (
    <Frame title={door.shop ?? "The shop"}>
      <div className="mx-auto grid max-w-6xl gap-8 p-4 lg:grid-cols-[1fr_18rem]">
        <section aria-label="choices" className="flex flex-col gap-6">
          {may && <Zone zone={door.time_zone} />}
          <h2 className="text-lg font-bold">Figures, dates, shifts</h2>
          {questions.filter(({ setting }) => setting).map(asked)}
          <h2 className="text-lg font-bold">Where mechanics disagree</h2>
          {!may && <p>A keeper may change these. A run keeps what was in force when it began.</p>}
          <Trouble error={choose.error} />
          {questions.filter(({ setting }) => !setting).map(asked)}
        </section>
        <section aria-label="people" className="flex flex-col gap-2 self-start">
          <h2 className="text-lg font-bold">People</h2>
          <ul>
            {door.people.map((person) => (
              <li key={person.id} className="border-base-300 flex justify-between border-b py-2">
                <span>{person.name}</span> <span>{person.roles.join(", ")}</span>
              </li>
            ))}
          </ul>
          <Link className="btn" to="/me">
            My PIN, and where I am signed in
          </Link>
          <Link className="btn" to="/people">
            Who may do what; who comes and leaves
          </Link>
          <Link className="btn" to="/tablets">
            Tablets
          </Link>
          <Link className="btn" to="/instruments">
            Wrenches and gauges on the line
          </Link>
          <h2 className="pt-4 text-lg font-bold">Labels to print</h2>
          {["machines", "tools", "stock"].map((of) => (
            <a key={of} className="btn" href={`/api/labels.pdf?of=${of}`} target="_blank" rel="noreferrer">
              {of}
            </a>
          ))}
          <h2 className="pt-4 text-lg font-bold">What is due</h2>
          <a className="btn" href="/api/followups.pdf" target="_blank" rel="noreferrer">
            As a list (PDF)
          </a>
          <a className="btn" href="/api/followups.ics" download>
            As a calendar file
          </a>
          <CalendarFeed />
          <LinesFile say="Meters from a CSV file: machine, meter, figure" to={(id) => `/api/meters/${id}`} />
          <h2 className="pt-4 text-lg font-bold">Shims, spacers, washers, sleeves</h2>
          <a className="btn" href="/api/stock.xlsx" download>
            As XLSX
          </a>
          <a className="btn" href="/api/stock.csv" download>
            As CSV
          </a>
          <LinesFile
            say="From such a file: new ones are added, the others measured anew"
            to={(id) => `/api/stock/${id}`}
          />
        </section>
      </div>
    </Frame>
  );
}

/** The shop's clock: every moment is told by it. */
function Zone({ zone }: { zone: string }) {
  const [typed, setTyped] = useState(zone);
  const move = useCommand({
    body: ({ id }) => ({ id, time_zone: typed }),
    to: address("/api/shop/zone"),
    method: "PUT",
    changes: touched.people,
  });
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        move.press(undefined);
      }}
    >
      <Field label="Time zone of the shop" value={typed} onChange={(event) => setTyped(event.target.value)} />
      {typed !== zone && (
        <button type="submit" className="btn btn-primary">
          Keep it
        </button>
      )}
      <Trouble error={move.error} />
    </form>
  );
}

/** An address that a calendar program follows; its key is shown once. */
function CalendarFeed() {
  const feed = useCommand({ body: ({ id }) => ({ id }), to: address("/api/feeds"), changes: [] });
  const end = useCommand({ body: () => undefined, to: address("/api/feeds/end"), changes: [] });
  if (!feed.data) {
    return (
      <>
        <button type="button" className="btn" onClick={() => feed.press(undefined)}>
          Address for a calendar program
        </button>
        <button type="button" className="btn btn-ghost" onClick={() => end.press(undefined)}>
          End all addresses that I made
        </button>
      </>
    );
  }
  return (
    <label className="flex flex-col gap-1">
      <span>Give it to the program; whoever has it reads what is due. It is shown once.</span>
      <input className="input w-full" readOnly value={feed.data.address} onFocus={(event) => event.target.select()} />
    </label>
  );
}

type Line = { row: number; ok: boolean; said: string; name?: string; fleet_number?: string };

/** A table of another program, read line by line: what became of each. */
function LinesFile({ say, to }: { say: string; to: (id: string) => string }) {
  const queries = useQueryClient();
  const [lines, setLines] = useState<readonly Line[]>([]);
  const [error, setError] = useState<unknown>(null);
  const send = async (file: File | undefined) => {
    if (!file) return;
    setError(null);
    try {
      setLines(await sendFile<Line[]>(to(newId()), file));
      queries.invalidateQueries();
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <label className="flex flex-col gap-2">
      <span>{say}</span>
      <input
        type="file"
        accept=".csv,.xlsx,text/csv"
        className="file-input w-full"
        onChange={(event) => send(event.target.files?.[0])}
      />
      <Trouble error={error} />
      {lines.map((line) => (
        <span key={line.row} className={line.ok ? "" : "text-error font-bold"}>
          Line {line.row}, {line.name ?? line.fleet_number}: {line.said}
        </span>
      ))}
    </label>
  );
}

const BETWEEN = " | ";

/** A question with any number of answers: each is a key that is on or off. */
function Several({ question, onChoose }: Omit<Props, "may">) {
  const on = question.chosen.split(BETWEEN).filter(Boolean);
  const toggle = (value: string) =>
    onChoose({
      field: question.field,
      value: (on.includes(value) ? on.filter((each) => each !== value) : [...on, value]).join(BETWEEN),
    });
  return (
    <fieldset>
      <legend className="mb-2 text-lg font-bold">{question.ask}</legend>
      <div className="flex flex-wrap gap-2">
        {question.answers.map(({ value, say }) => (
          <button
            key={value}
            type="button"
            aria-pressed={on.includes(value)}
            className={`btn h-auto py-2 ${on.includes(value) ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
            onClick={() => toggle(value)}
          >
            {say}
          </button>
        ))}
      </div>
    </fieldset>
  );
}

type Answer = { field: string; value: string };
type Props = { question: Schemas["ShopChoice"]; may: boolean; onChoose: (chosen: Answer) => void };

function Asked({ question, may, onChoose }: Props) {
  const [typed, setTyped] = useState(question.chosen);
  const { field, unit } = question;
  return (
    <div
      className={`flex flex-col gap-2 pl-4 ${question.chosen === question.default ? "" : "border-primary border-l-8"}`}
    >
      {!may ? (
        <p className="text-lg">
          <b>{question.ask}</b>{" "}
          {question.answers.find((answer) => answer.value === question.chosen)?.say ?? `${question.chosen} ${unit}`}
        </p>
      ) : question.several ? (
        <Several question={question} onChoose={onChoose} />
      ) : question.answers.length > 0 ? (
        <Choice
          label={question.ask}
          options={question.answers}
          value={question.chosen}
          onChange={(value) => onChoose({ field, value })}
        />
      ) : (
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            onChoose({ field, value: typed });
          }}
        >
          <Field
            label={`${question.ask} ${unit}`}
            inputMode={question.figure ? "decimal" : "text"}
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
          />
          {typed !== question.chosen && (
            <button type="submit" className="btn btn-primary">
              Keep it
            </button>
          )}
        </form>
      )}
      <p className="text-base-content/80">{question.why}</p>
    </div>
  );
}
