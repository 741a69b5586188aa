import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { Field } from "../../../parts/Field";
import { PutOn } from "./PutOn";
import type { Put, Row } from "./tooling";

type Props = {
  row: Row;
  shelf: readonly Schemas["ToolLine"][];
  lever: number | null;
  choice: Schemas["Choice"] | undefined;
  onChange: (change: Partial<Row>) => void;
};

const ON_THE_END = new Set(["crowfoot", "extension", "step", "universal", "socket", "multiplier"]);

/** What is on the wrench's end: from the crib, piece by piece from the wrench outward; how far each is turned, the tilt. */
export function EndPanel({ row, shelf, lever, choice, onChange }: Props) {
  const [open, setOpen] = useState(row.end.length > 0 || row.tilt > 0);
  const named = new Map(shelf.map((tool) => [tool.id, tool]));
  const change = (place: number, part: Partial<Put>) =>
    onChange({ end: row.end.map((put, n) => (n === place ? { ...put, ...part } : put)) });
  const loose = row.end.findIndex((put) => !put.tool);
  return (
    <details
      open={open}
      onToggle={(event) => setOpen(event.currentTarget.open)}
      className="border-base-300 border-y py-2"
    >
      <summary className="min-h-14 cursor-pointer py-4 text-lg font-bold">On its end, and how it is held</summary>
      <div className="flex flex-col gap-4">
        <ol className="flex flex-col gap-3">
          {row.end.map((put, place) => (
            <PutOn
              // biome-ignore lint/suspicious/noArrayIndexKey: its place in the chain is what it is
              key={place}
              put={put}
              tool={put.tool ? named.get(put.tool) : undefined}
              lever={lever}
              onChange={(part) => change(place, part)}
              onOff={() => onChange({ end: row.end.filter((_, n) => n !== place) })}
            />
          ))}
        </ol>
        <fieldset>
          <legend className="mb-2 font-bold">Put on next</legend>
          <div className="flex flex-wrap gap-2">
            {shelf
              .filter((tool) => ON_THE_END.has(tool.kind) && !row.end.some((put) => put.tool === tool.id))
              .map((tool) => (
                <button
                  key={tool.id}
                  type="button"
                  className="btn bg-base-100 border-base-content/40 h-auto max-w-full flex-col items-start gap-0 py-2 text-left"
                  onClick={() => onChange({ end: [...row.end, { tool: tool.id, turned_deg: 0 }] })}
                >
                  <b>{tool.name}</b>
                  <span className="text-sm font-normal">{tool.words}</span>
                </button>
              ))}
          </div>
        </fieldset>
        <div className="flex flex-wrap items-end gap-6">
          <Field
            label="A crowfoot that is not here, mm"
            hint="from the drive to the middle of the fastener; empty for none"
            inputMode="decimal"
            value={loose >= 0 ? String(row.end[loose]?.length_mm ?? "") : ""}
            onChange={(event) => {
              const length_mm = Number(event.target.value);
              const kept = row.end.filter((put) => put.tool);
              const turned_deg = row.end[loose]?.turned_deg ?? 0;
              onChange({ end: length_mm > 0 ? [...kept, { length_mm, turned_deg }] : kept });
            }}
          />
          <label className="flex flex-col gap-1">
            <span className="font-bold">Handle tilted out of the plane: {row.tilt}°</span>
            <input
              type="range"
              className="range range-primary"
              min={0}
              max={30}
              step={5}
              value={row.tilt}
              onChange={(event) => onChange({ tilt: Number(event.target.value) })}
            />
          </label>
        </div>
        {choice?.notes.map((note) => (
          <p key={note} className="text-lg">
            {note}
          </p>
        ))}
        {choice?.cautions.map((caution) => (
          <p key={caution} className="border-warning border-l-8 pl-3 text-lg font-bold">
            {caution}
          </p>
        ))}
      </div>
    </details>
  );
}
