import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { api, ask, Problem, type Schemas } from "../../api/client";
import { machineQuery, specQuery, wrenchesQuery } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { FastenerMap } from "../../parts/FastenerMap";
import { Frame } from "../../parts/Frame";
import { atDevice, newId } from "../../parts/ids";
import { Trouble } from "../../parts/Trouble";
import { Waiting } from "../../parts/Waiting";
import { type Crowfoot, CrowfootPanel } from "./CrowfootPanel";
import { MeterFields, type Readings } from "./MeterFields";
import { PositionChoice } from "./PositionChoice";
import { SetTheWrench } from "./SetTheWrench";
import { RefusedWrenches, WrenchList } from "./WrenchList";

type Position = Schemas["Position"];

/** What is chosen before the first pull: where, the meter, the wrench, and the proof that the spec is the right one. */
export function PrepareScreen() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const machineId = search.get("machine") ?? "";
  const procedure = search.get("procedure") ?? "tighten";
  const file = useQuery(specQuery(id));
  const machine = useQuery(machineQuery(machineId));
  const [crowfoot, setCrowfoot] = useState<Crowfoot>({ length: "", angle: 0 });
  const wrenches = useQuery(wrenchesQuery(id, procedure, Number(crowfoot.length) || null, crowfoot.angle));
  if (!file.data || !machine.data || !wrenches.data)
    return <Waiting error={file.error ?? machine.error ?? wrenches.error} />;
  return (
    <Prepare
      file={file.data}
      machine={machine.data}
      wrenches={wrenches.data}
      procedure={procedure}
      place={search.get("place")}
      crowfoot={crowfoot}
      onCrowfoot={setCrowfoot}
    />
  );
}

type Props = {
  file: Schemas["SpecFile"];
  machine: Schemas["MachineNow"];
  wrenches: readonly Schemas["Choice"][];
  procedure: string;
  place: string | null;
  crowfoot: Crowfoot;
  onCrowfoot: (crowfoot: Crowfoot) => void;
};

function fromKey(key: string | null): Position {
  const [axle = "", side = "", place = ""] = key?.split("/") ?? [];
  return { axle, side: side === "left" || side === "right" ? side : null, place };
}

function Prepare({ file, machine, wrenches, procedure, place, crowfoot, onCrowfoot }: Props) {
  const { spec } = file;
  const navigate = useNavigate();
  const queries = useQueryClient();
  const only = { axle: spec.positions.axles.length === 1 ? (spec.positions.axles[0] ?? "") : "" };
  const [position, setPosition] = useState<Position>({ ...fromKey(place), ...(place ? {} : only) });
  const [readings, setReadings] = useState<Readings>({});
  const [wrench, setWrench] = useState<string | null>(null);
  const [proof, setProof] = useState<string | null>(null);
  const [runId] = useState(newId);
  const start = useMutation({
    mutationFn: (affirmed: string[]) =>
      ask(
        api.POST("/api/runs", {
          body: {
            id: runId,
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
            wrench: wrench ?? "",
            crowfoot_mm: Number(crowfoot.length) || null,
            angle_deg: crowfoot.angle,
            proof: proof ?? "",
            at_device: atDevice(),
            affirmed,
          },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries();
      navigate(`/runs/${runId}`, { replace: true });
    },
  });
  const chosen = wrenches.find((one) => one.wrench.id === wrench);
  const missing =
    (spec.positions.axles.length > 0 && !position.axle && "Which axle?") ||
    (spec.positions.sides.length > 0 && !position.side && "Which side?") ||
    (spec.positions.places.length > 0 && !position.place && "Inner or outer?") ||
    (!wrench && "Which wrench?") ||
    (chosen?.refused && "This wrench cannot do it.") ||
    (!proof && spec.proof.ask) ||
    null;
  const asksMeter = start.error instanceof Problem && start.error.ask === "meter";
  const hand = (position.side && spec.hand_by_side[position.side]) || spec.thread_hand;
  return (
    <Frame title={`${machine.machine.fleet_number} · ${spec.title} · ${procedure}`} dock={false}>
      <div className="grid gap-6 p-4 md:grid-cols-[1fr_minmax(0,22rem)]">
        <div className="flex flex-col gap-6">
          <PositionChoice positions={spec.positions} value={position} onChange={setPosition} />
          {hand === "left" && (
            <p className="bg-warning text-warning-content rounded-box p-3 text-lg font-bold">
              Left-hand thread here: it tightens anticlockwise.
            </p>
          )}
          <Choice
            label={spec.proof.ask}
            options={spec.proof.options.map((option) => ({ value: option, say: option }))}
            value={proof}
            onChange={setProof}
          />
          <MeterFields machine={machine} readings={readings} onChange={setReadings} asks={asksMeter} />
          <WrenchList wrenches={wrenches} value={wrench} onChange={setWrench} />
          {chosen && <SetTheWrench key={chosen.wrench.id} choice={chosen} />}
          {chosen?.wrench.lever_mm && (
            <CrowfootPanel lever={chosen.wrench.lever_mm} value={crowfoot} notes={chosen.notes} onChange={onCrowfoot} />
          )}
          <RefusedWrenches wrenches={wrenches} />
        </div>
        <aside className="flex flex-col gap-4 self-start md:sticky md:top-4">
          <div className="h-72">
            <FastenerMap layout={spec.layout} />
          </div>
          <p className="text-xl font-bold">{file.sheet.figures[0]?.written}</p>
          {asksMeter ? (
            <div role="alert" className="bg-warning text-warning-content rounded-box flex flex-col gap-3 p-4">
              <p className="text-lg">{start.error instanceof Problem && start.error.fault}</p>
              <button type="button" className="btn" onClick={() => start.mutate(["meter"])}>
                It is as I read it: start
              </button>
            </div>
          ) : (
            <Trouble error={start.error} />
          )}
          <button
            type="button"
            className="btn btn-primary min-h-24 text-2xl"
            disabled={missing !== null || start.isPending}
            onClick={() => start.mutate([])}
          >
            {missing ?? "Start"}
          </button>
        </aside>
      </div>
    </Frame>
  );
}
