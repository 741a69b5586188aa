import type { Schemas } from "../../../api/client";
import { Choice } from "../../../parts/Choice";
import { Frame } from "../../../parts/Frame";
import { inOneLine, procedureWords } from "../../../parts/format";
import { EndPanel } from "./EndPanel";
import { HeldBy } from "./HeldBy";
import { MeterFields } from "./MeterFields";
import { PositionChoice } from "./PositionChoice";
import { Reaction } from "./Reaction";
import { RowTabs } from "./RowTabs";
import { SetTheWrench } from "./SetTheWrench";
import { Shares } from "./Shares";
import { StartPanel } from "./StartPanel";
import { rowsOf } from "./tooling";
import { useBegin } from "./useBegin";
import type { Preparing } from "./usePreparing";
import { RefusedWrenches, WrenchList } from "./WrenchList";

/** What is chosen before the first pull: where, the meter, the wrenches, what holds the machine, and the proof. */
export function Prepare({ preparing }: { preparing: Preparing }) {
  const { file, machine, crib, offered, procedure, row, change, choice } = preparing;
  const { spec } = file;
  const begins = useBegin(preparing);
  const take = ({ wrench }: Schemas["Choice"], override = "") =>
    change({ wrench: wrench.id, unit: wrench.unit, override });
  return (
    <Frame
      title={inOneLine(machine.machine.fleet_number, spec.title, procedureWords(procedure))}
      dock={false}
      guide={file.sheet.guide}
    >
      <div className="grid gap-6 p-4 max-md:pb-36 md:grid-cols-[1fr_minmax(0,22rem)]">
        <div className="flex min-w-0 flex-col gap-6">
          {preparing.retool === null && <Where preparing={preparing} begins={begins} />}
          <div className="grid gap-6 lg:grid-cols-[1.3fr_1fr]">
            <div className="flex min-w-0 flex-col gap-4">
              <WrenchList choices={offered.choices} value={row.wrench} unit={row.unit} onChange={take} />
              <Shares
                offered={offered}
                onTake={() => {
                  const made = offered.shares.flatMap((share) => rowsOf(share, spec.layout.fasteners.length));
                  preparing.setRows(made, made[0]?.key ?? "");
                }}
              />
            </div>
            {preparing.retool === null && <Machine preparing={preparing} asksMeter={begins.asks?.ask === "meter"} />}
          </div>
          {choice && <SetTheWrench key={`${choice.wrench.id}${choice.wrench.unit}`} choice={choice} />}
          <RowTabs
            rows={preparing.rows}
            active={row.key}
            offered={offered}
            layout={spec.layout}
            onActive={preparing.setActive}
            onRows={preparing.setRows}
          />
          <EndPanel
            row={row}
            shelf={crib.tools}
            lever={choice?.wrench.lever_mm ?? null}
            choice={choice}
            onChange={change}
          />
          {choice?.reaction && <Reaction reaction={choice.reaction} />}
          <RefusedWrenches choices={offered.choices} onChange={take} />
        </div>
        <StartPanel preparing={preparing} begins={begins} />
      </div>
    </Frame>
  );
}

/** Where on the machine, and the proof that it is the right spec. */
function Where({ preparing, begins }: { preparing: Preparing; begins: ReturnType<typeof useBegin> }) {
  const { file, proof } = preparing;
  const { spec } = file;
  const sides = [...new Set(preparing.positions.map((each) => each.side ?? null))];
  const left = sides.filter((side) => ((side && spec.hand_by_side[side]) || spec.thread_hand) === "left");
  return (
    <>
      <PositionChoice places={file.places} chosen={preparing.places} single={false} onChange={preparing.setPlaces} />
      {left.length > 0 && (
        <p className="bg-warning text-warning-content rounded-box p-3 text-lg font-bold">
          Left-hand thread {left.length < sides.length ? `on the ${left.join(" and ")}` : "here"}: it tightens
          anticlockwise.
        </p>
      )}
      <Choice
        label={begins.answerBegins ? `${spec.proof.ask} Your answer starts it.` : spec.proof.ask}
        options={spec.proof.options.map((option) => ({ value: option, say: option }))}
        value={proof}
        onChange={(seen) => {
          preparing.setProof(seen);
          if (begins.answerBegins) begins.begin([], seen);
        }}
      />
    </>
  );
}

/** The machine's meters, and what holds it. */
function Machine({ preparing, asksMeter }: { preparing: Preparing; asksMeter: boolean }) {
  const { machine, offered, position, readings, supports, load } = preparing;
  return (
    <div className="flex min-w-0 flex-col gap-4">
      <MeterFields machine={machine} readings={readings} onChange={preparing.setReadings} asks={asksMeter} />
      {offered.supports.length > 0 && (
        <HeldBy
          offered={offered}
          axle={position.axle ?? ""}
          load={load}
          supports={supports}
          onLoad={preparing.setLoad}
          onSupports={preparing.setSupports}
        />
      )}
    </div>
  );
}
