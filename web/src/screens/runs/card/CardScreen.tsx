import { useQuery } from "@tanstack/react-query";
import { Flag, OctagonX, ShieldCheck } from "lucide-react";
import { Link, useParams } from "react-router";
import { address } from "../../../api/addresses";
import type { Schemas } from "../../../api/client";
import { useCommand } from "../../../api/command";
import { cardQuery, touched } from "../../../api/queries";
import { CurvesPicture } from "../../../parts/CurvesPicture";
import { FastenerMap } from "../../../parts/FastenerMap";
import { Frame } from "../../../parts/Frame";
import { inOneLine, moment, procedureWords } from "../../../parts/format";
import { TriesPicture } from "../../../parts/TriesPicture";
import { Trouble } from "../../../parts/Trouble";
import { useMe } from "../../../parts/useMe";
import { Waiting } from "../../../parts/Waiting";
import { EntryList } from "./EntryList";
import { NutTable } from "./NutTable";
import { Release } from "./Release";

const SAY: Record<NonNullable<Schemas["Now"]["standing"]>, string> = {
  good: "Good",
  released: "Released by the lead",
  "do not move": "Do not move",
  abandoned: "Abandoned",
};

/** The job card: how it ended and why, everything that was recorded, the signatures. */
export function CardScreen() {
  const { id = "" } = useParams();
  const { data: card, error } = useQuery(cardQuery(id));
  const me = useMe();
  if (!card) return <Waiting error={error} />;
  const { sheet, now } = card;
  const standing = now.standing ?? null;
  const bad = standing === "do not move" || standing === "abandoned";
  const Mark = standing === "do not move" ? OctagonX : bad ? Flag : ShieldCheck;
  return (
    <Frame
      title={inOneLine(sheet.machine.fleet_number, sheet.position_words, sheet.title)}
      guide="proof"
      foot={standing && !now.signed_by.includes(me.person.id) && <SignKey card={card} />}
      aside={
        <a className="btn" href={`/api/runs/${id}/card.pdf`} target="_blank" rel="noreferrer">
          Job card as PDF
        </a>
      }
    >
      <div className="grid gap-6 p-4 md:grid-cols-[1fr_minmax(0,22rem)]">
        <section aria-label="outcome" className="flex min-w-0 flex-col gap-4">
          <div
            className={`rounded-box flex items-center gap-4 p-5 ${standing === "do not move" ? "bg-error text-error-content" : bad || !standing ? "bg-warning text-warning-content" : "bg-success text-success-content"}`}
          >
            <Mark aria-hidden="true" size={52} />
            <div>
              <p className="text-4xl font-bold">{standing ? SAY[standing] : "Not finished"}</p>
              {now.reasons.map((reason) => (
                <p key={reason} className="text-lg">
                  {reason}
                </p>
              ))}
            </div>
          </div>
          <Facts card={card} />
          {standing === "do not move" && <Release card={card} />}
          <NutTable table={card.table} />
          <CurvesPicture run={id} />
          {card.adjustments.map((advised) => (
            <section key={`${advised.what}${advised.item}`} aria-label="adjustment" className="h-72">
              <h2 className="text-xl font-bold">{[advised.item, advised.what].filter(Boolean).join(": ")}</h2>
              <TriesPicture advised={{ ...advised, proposal: null }} />
            </section>
          ))}
          <EntryList entries={card.entries} />
        </section>
        <aside className="flex flex-col gap-4">
          <div className="h-80">
            <FastenerMap layout={sheet.layout} fasteners={now.fasteners.map((f) => ({ ...f, next: false }))} />
          </div>
          {standing ? (
            <SignOff card={card} />
          ) : (
            <Link className="btn btn-primary" to={`/runs/${id}`}>
              Go on with it
            </Link>
          )}
          <a className="btn" href={`/api/runs/${id}/card.json`} download>
            Data as JSON, to be checked by anybody
          </a>
          {sheet.job && (
            <a className="btn" href={`/api/jobs/${sheet.job}/cards.pdf`} target="_blank" rel="noreferrer">
              The whole job as PDF
            </a>
          )}
          <Covered card={card} />
          <p className="text-base-content/80 text-sm break-all">
            {card.seals_hold ? "Every entry's seal holds." : "The seals do not hold: this record was changed."} Last
            seal {card.last_seal.slice(0, 16)} …
          </p>
        </aside>
      </div>
    </Frame>
  );
}

/** The checkpoint that covers the record; its code is compared by eye with one that was printed. */
function Covered({ card }: { card: Schemas["Card"] }) {
  const point = card.checkpoint;
  if (!point) return <p className="border-warning border-l-8 pl-3">No checkpoint covers this record yet.</p>;
  return (
    <section aria-label="checkpoint" className="border-success border-l-8 pl-3">
      <p>Checkpoint {moment(point.at)}</p>
      <p className="text-lg font-bold tracking-wide">{point.code}</p>
      <p className="text-sm">
        {point.covers < card.now.seq
          ? `It covers entries 1 to ${point.covers}; later ones are not covered yet.`
          : "It covers every entry."}
      </p>
    </section>
  );
}

function Facts({ card }: { card: Schemas["Card"] }) {
  const { sheet } = card;
  const facts = [
    ["Machine", `${sheet.machine.maker} ${sheet.machine.model}`],
    ...(sheet.machine.vin || sheet.machine.registration
      ? [["VIN, registration", inOneLine(sheet.machine.vin, sheet.machine.registration)] as [string, string]]
      : []),
    [
      "Spec",
      `revision ${sheet.spec_revision}, ${procedureWords(sheet.procedure)}${sheet.checked ? "" : ", unchecked"} · ${sheet.source.document} ${sheet.source.page}`,
    ],
    ...sheet.tools.map((tool): [string, string] => [
      "Wrench",
      [
        tool.wrench.name,
        tool.wrench.serial && `serial ${tool.wrench.serial}`,
        tool.certificate && `certificate ${tool.certificate}`,
        tool.on_its_end,
        tool.meant_for && `for ${tool.meant_for}`,
        tool.overridden && `used all the same: ${tool.overridden}`,
      ]
        .filter(Boolean)
        .join("; "),
    ]),
    ...(sheet.supports.length > 0 ? [["Held by", sheet.supports.join("; ")] as [string, string]] : []),
    [sheet.proof_ask, sheet.proof],
    ["Meter", sheet.meters.map((meter) => `${meter.figure} ${meter.kind}`).join(", ") || "none read"],
    ["Started", moment(sheet.started_at)],
  ];
  return (
    <dl className="grid grid-cols-[minmax(10.5rem,auto)_1fr] gap-x-6 gap-y-1 text-lg max-sm:grid-cols-1">
      {facts.map(([name, text]) => (
        <div key={`${name}${text}`} className="contents">
          <dt className="text-base-content/80">{name}</dt>
          <dd>{text}</dd>
        </div>
      ))}
    </dl>
  );
}

function SignOff({ card }: { card: Schemas["Card"] }) {
  return (
    <section aria-label="signatures" className="flex flex-col gap-2">
      {card.signatures.map((signature) => (
        <p key={signature} className="border-primary border-l-4 pl-3">
          Signed: {signature}
        </p>
      ))}
      <div className="max-md:hidden">
        <SignKey card={card} />
      </div>
    </section>
  );
}

/** Signs the card, once for each person. */
function SignKey({ card }: { card: Schemas["Card"] }) {
  const me = useMe();
  const params = { path: { run_id: card.sheet.run } };
  const sign = useCommand({
    body: (pressed) => ({ ...pressed, seq: card.now.seq }),
    to: address("/api/runs/{run_id}/sign", params),
    changes: touched.run(card.sheet.run),
  });
  if (card.now.signed_by.includes(me.person.id)) return null;
  return (
    <div className="flex flex-col gap-2">
      <button type="button" className="btn btn-primary min-h-16 text-xl" onClick={() => sign.press(undefined)}>
        Sign as {me.person.name}
      </button>
      <Trouble error={sign.error} />
    </div>
  );
}
