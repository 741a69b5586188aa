import { X } from "lucide-react";
import type { Schemas } from "../../../api/client";
import { CrowfootPicture } from "./CrowfootPicture";
import type { Put } from "./tooling";

type Props = {
  put: Put;
  /** From the crib; undefined for a crowfoot that is not in it. */
  tool: Schemas["ToolLine"] | undefined;
  lever: number | null;
  onChange: (part: Partial<Put>) => void;
  onOff: () => void;
};

/** A piece on the wrench's end, and how far it is turned. */
export function PutOn({ put, tool, lever, onChange, onOff }: Props) {
  const length = tool?.tool.kind === "crowfoot" ? tool.tool.length_mm : (put.length_mm ?? 0);
  const crowfoot = !tool || tool.kind === "crowfoot";
  return (
    <li className="flex flex-col gap-2">
      <p className="flex items-center gap-3">
        <span className="flex-1">
          {tool ? <b>{tool.name}</b> : <b>crowfoot of {put.length_mm} mm</b>} {tool?.words}
        </span>
        <button
          type="button"
          className="btn btn-square btn-ghost"
          aria-label={`take ${tool?.name ?? "the crowfoot"} off`}
          onClick={onOff}
        >
          <X aria-hidden="true" />
        </button>
      </p>
      {(crowfoot || tool?.kind === "universal") && (
        <label className="flex flex-wrap items-center gap-3">
          <span className="font-bold">
            {crowfoot ? "Angle to the handle" : "Bent by"}: {put.turned_deg}°
          </span>
          <input
            type="range"
            className="range range-primary max-w-md"
            min={0}
            max={crowfoot ? 180 : 60}
            step={5}
            value={put.turned_deg}
            onChange={(event) => onChange({ turned_deg: Number(event.target.value) })}
          />
        </label>
      )}
      {crowfoot && lever && length > 0 && (
        <CrowfootPicture
          lever={lever}
          length={length}
          angle={put.turned_deg}
          onAngle={(turned_deg) => onChange({ turned_deg })}
        />
      )}
    </li>
  );
}
