import { useState } from "react";
import { Problem, type Schemas } from "../../../api/client";
import { Choice } from "../../../parts/Choice";
import { FastenerMap } from "../../../parts/FastenerMap";
import { Frame } from "../../../parts/Frame";
import { Trouble } from "../../../parts/Trouble";
import { EndPanel } from "./EndPanel";
import { HeldBy } from "./HeldBy";
import { MeterFields, type Readings } from "./MeterFields";
import { PositionChoice } from "./PositionChoice";
import { Reaction } from "./Reaction";
import { RowTabs } from "./RowTabs";
import { SetTheWrench } from "./SetTheWrench";
import { choiceOf, type Offered, type Row, rowsOf, taken } from "./tooling";
import { useRetool, useStart } from "./useStart";
import { RefusedWrenches, WrenchList } from "./WrenchList";

type Props = {
  file: Schemas["SpecFile"];
  machine: Schemas["MachineNow"];
  crib: Schemas["Crib"];
  offered: Offered;
  procedure: string;
  /** The run that goes on with other tools; null for one that starts. */
  retool: string | null;
  position: Schemas["Position"];
  onPosition: (position: Schemas["Position"]) => void;
  rows: readonly Row[];
  row: Row;
  onActive: (key: string) => void;
  onRows: (rows: Row[], active: string) => void;
  supports: string[];
  onSupports: (supports: string[]) => void;
  load: string;
  onLoad: (load: string) => void;
};

/** What is chosen before the first pull: where, the meter, the wrenches, what holds the machine, and the proof. */
export function Prepare(props: Props) {
  const { file, machine, crib, offered, procedure, position, rows, row, supports, load } = props;
  const { spec } = file;
  const [readings, setReadings] = useState<Readings>({});
  const [proof, setProof] = useState<string | null>(null);
  const start = useStart({
    spec: spec.id,
    revision: spec.revision,
    procedure,
    machine: machine.machine.id,
    position,
    meters: Object.entries(readings)
      .filter(([, reading]) => reading.figure !== "")
      .map(([kind, reading]) => ({
        kind: kind as Schemas["Meter"]["kind"],
        figure: Number(reading.figure),
        basis: reading.basis,
      })),
    tooling: taken(rows),
    supports,
    axle_load_kg: Number(load) || null,
    proof: proof ?? "",
  });
  const retool = useRetool(props.retool, taken(rows));
  const goes = props.retool !== null;
  const change = (part: Partial<Row>) =>
    props.onRows(
      rows.map((each) => (each.key === row.key ? { ...each, ...part } : each)),
      row.key,
    );
  const chosen = choiceOf(row, offered);
  const missing =
    (!goes && spec.positions.axles.length > 0 && !position.axle && "Which axle?") ||
    (!goes && spec.positions.sides.length > 0 && !position.side && "Which side?") ||
    (!goes && spec.positions.places.length > 0 && !position.place && "Which place?") ||
    (offered.asked.length > 0 && rows.some((each) => !each.wrench) && "Which wrench?") ||
    (chosen?.refused && !row.override && "This wrench cannot do it.") ||
    (offered.too_weak && "The stand is too weak.") ||
    (!goes && !proof && spec.proof.ask) ||
    null;
  const asksMeter = start.error instanceof Problem && start.error.ask === "meter";
  const hand = (position.side && spec.hand_by_side[position.side]) || spec.thread_hand;
  const take = (choice: Schemas["Choice"], override = "") =>
    change({ wrench: choice.wrench.id, unit: choice.wrench.unit, override });
  return (
    <Frame title={`${machine.machine.fleet_number} · ${spec.title} · ${procedure}`} dock={false}>
      <div className="grid gap-6 p-4 md:grid-cols-[1fr_minmax(0,22rem)]">
        <div className="flex flex-col gap-6">
          {!goes && <PositionChoice positions={spec.positions} value={position} onChange={props.onPosition} />}
          {hand === "left" && (
            <p className="bg-warning text-warning-content rounded-box p-3 text-lg font-bold">
              Left-hand thread here: it tightens anticlockwise.
            </p>
          )}
          {!goes && (
            <>
              <Choice
                label={spec.proof.ask}
                options={spec.proof.options.map((option) => ({ value: option, say: option }))}
                value={proof}
                onChange={setProof}
              />
              <MeterFields machine={machine} readings={readings} onChange={setReadings} asks={asksMeter} />
            </>
          )}
          {!goes && offered.supports.length > 0 && (
            <HeldBy
              offered={offered}
              axle={position.axle ?? ""}
              load={load}
              supports={supports}
              onLoad={props.onLoad}
              onSupports={props.onSupports}
            />
          )}
          <RowTabs
            rows={rows}
            active={row.key}
            offered={offered}
            layout={spec.layout}
            onActive={props.onActive}
            onRows={props.onRows}
          />
          <WrenchList choices={offered.choices} value={row.wrench} unit={row.unit} onChange={take} />
          <Shares
            offered={offered}
            onTake={() => {
              const made = offered.shares.flatMap((share) => rowsOf(share, spec.layout.fasteners.length));
              props.onRows(made, made[0]?.key ?? "");
            }}
          />
          {chosen && <SetTheWrench key={`${chosen.wrench.id}${chosen.wrench.unit}`} choice={chosen} />}
          <EndPanel
            row={row}
            shelf={crib.tools}
            lever={chosen?.wrench.lever_mm ?? null}
            choice={chosen}
            onChange={change}
          />
          {chosen?.reaction && <Reaction reaction={chosen.reaction} />}
          <RefusedWrenches choices={offered.choices} onChange={take} />
        </div>
        <aside className="flex flex-col gap-4 self-start md:sticky md:top-4">
          <div className="h-72">
            <FastenerMap layout={spec.layout} />
          </div>
          <ul className="text-lg font-bold">
            {file.sheet.figures.map((figure) => (
              <li key={figure.stages.named}>
                {file.sheet.figures.length > 1 && <span className="font-normal">{figure.stages.named}: </span>}
                {figure.stages.stages.map((stage) => stage.words).join(" → ")}
              </li>
            ))}
          </ul>
          {asksMeter ? (
            <div role="alert" className="bg-warning text-warning-content rounded-box flex flex-col gap-3 p-4">
              <p className="text-lg">{start.error instanceof Problem && start.error.fault}</p>
              <button type="button" className="btn" onClick={() => start.press(["meter"])}>
                It is as I read it: start
              </button>
            </div>
          ) : (
            <Trouble error={start.error ?? retool.error} />
          )}
          <button
            type="button"
            className="btn btn-primary min-h-24 text-2xl"
            disabled={missing !== null || start.isPending || retool.isPending}
            onClick={() => (goes ? retool.press(undefined) : start.press([]))}
          >
            {missing ?? (goes ? "Go on with it" : "Start")}
          </button>
        </aside>
      </div>
    </Frame>
  );
}

/** When no wrench does all of it: which for what, taken with one tap; and what nothing here can do. */
function Shares({ offered, onTake }: { offered: Offered; onTake: () => void }) {
  if (offered.shares.length === 0 && offered.left.length === 0) return null;
  return (
    <section aria-label="shared out" className="border-primary flex flex-col gap-2 border-l-8 pl-4">
      {offered.shares.map((share) => (
        <p key={`${share.wrench}${share.unit}`} className="text-lg">
          <b>{share.name}</b>: {share.words}
        </p>
      ))}
      {offered.left.length > 0 && (
        <p className="text-lg font-bold">Nothing in the crib does {offered.left.join("; ")}.</p>
      )}
      {offered.shares.length > 0 && offered.left.length === 0 && (
        <button type="button" className="btn btn-primary self-start" onClick={onTake}>
          Take these {offered.shares.length} wrenches
        </button>
      )}
    </section>
  );
}
