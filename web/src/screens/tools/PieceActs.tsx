import { useState } from "react";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { Field } from "../../parts/Field";
import { Trouble } from "../../parts/Trouble";

/** A shim, spacer, washer or sleeve: used, back again, or measured. */
export function PieceActs({ now, id }: { now: Schemas["PieceNow"]; id: string }) {
  const [typed, setTyped] = useState("");
  const say = useCommand({
    body: (pressed, act: Schemas["PieceSaid"]["act"]) => ({
      id: pressed.id,
      act,
      measured_mm: act === "sized" ? Number(typed.replace(",", ".")) || null : null,
    }),
    to: address("/api/tools/{tool_id}/piece", { path: { tool_id: id } }),
    changes: touched.tools,
    done: () => setTyped(""),
  });
  return (
    <section aria-label="this piece" className="flex flex-col gap-4">
      <p className="text-2xl font-bold">{now.at_hand ? "At hand" : "Not at hand"}</p>
      <button
        type="button"
        className="btn min-h-14 self-start"
        onClick={() => say.press(now.at_hand ? "used_up" : "returned")}
      >
        {now.at_hand ? "It was fitted, or is gone" : "It is back"}
      </button>
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          say.press("sized");
        }}
      >
        <Field
          label="By micrometer, mm"
          inputMode="decimal"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        <button type="submit" className="btn" disabled={typed === ""}>
          It measures this
        </button>
      </form>
      <Trouble error={say.error} />
    </section>
  );
}
