import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../../api/client";
import { atDevice, newId } from "../../parts/ids";
import { Trouble } from "../../parts/Trouble";
import { useMe } from "../../parts/useMe";

/** The ways out of “do not move”: tighten again, or a lead releases it with a reason. */
export function Release({ card }: { card: Schemas["Card"] }) {
  const me = useMe();
  const queries = useQueryClient();
  const [text, setText] = useState("");
  const { sheet, now } = card;
  const release = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/runs/{run_id}/finish", {
          params: { path: { run_id: sheet.run } },
          body: { id: newId(), outcome: "released", text, seq: now.seq, at_device: atDevice() },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <section aria-label="resolve" className="border-error rounded-box flex flex-col gap-3 border-2 p-4">
      <p className="text-lg">It stays red until it is tightened again and good, or a lead releases it.</p>
      <Link className="btn btn-primary" to={`/specs/${sheet.spec}/prepare?machine=${sheet.machine.id}`}>
        Tighten it again
      </Link>
      {me.person.role === "lead" && (
        <form
          className="flex flex-wrap gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            release.mutate();
          }}
        >
          <input
            className="input bg-base-100 flex-1"
            aria-label="reason for the release"
            placeholder="Reason"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <button type="submit" className="btn" disabled={!text.trim()}>
            Release it, as lead
          </button>
        </form>
      )}
      <Trouble error={release.error} />
    </section>
  );
}
