import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { importQuery } from "../../api/queries";
import { sendFile } from "../../api/send";
import { Frame } from "../../parts/Frame";
import { newId } from "../../parts/ids";
import { Trouble } from "../../parts/Trouble";
import { ImportRows } from "./ImportRows";

/** Specs from a file: a rehearsal first, row by row; then all of it, as drafts, or nothing. */
export function ImportScreen() {
  const queries = useQueryClient();
  const [id, setId] = useState<string | null>(null);
  const sent = useMutation({
    mutationFn: (sending: { id: string; file: File }) =>
      sendFile<Schemas["ImportProgress"]>(
        address("/api/spec-files/imports/{import_id}", { path: { import_id: sending.id } }),
        sending.file,
      ),
    onSuccess: (progress) => setId(progress.id),
  });
  const { data: now, error } = useQuery(importQuery(id));
  const bring = useCommand({
    body: () => undefined,
    to: (affirmed: boolean) =>
      address("/api/spec-files/imports/{import_id}/bring-in", {
        path: { import_id: id ?? "" },
        query: { affirmed },
      }),
    changes: [["import"]],
  });
  const done = now?.state === "done";
  useEffect(() => {
    if (done) queries.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "import" });
  }, [done, queries]);
  const told = now?.rehearsal;
  const coming = told ? told.new + told.revision + told.asks : 0;
  return (
    <Frame title="Specs from a file">
      <div className="mx-auto flex max-w-5xl flex-col gap-4 p-6">
        <label className="flex flex-col gap-1">
          <span className="font-bold">A CSV, XLSX or JSON file of specs</span>
          <input
            type="file"
            accept=".csv,.xlsx,.json,.txt"
            className="file-input w-full"
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              bring.drop();
              setId(null);
              if (chosen) sent.mutate({ id: newId(), file: chosen });
            }}
          />
        </label>
        <Trouble error={sent.error ?? error ?? bring.error} />
        {sent.isPending && <p aria-busy="true">Sending …</p>}
        {now && told && (
          <div aria-live="polite" className="flex flex-col gap-2">
            <p className="text-xl">
              {done ? "On file now" : now.state === "judging" ? "Looking" : "Would be"}: {coming} as drafts, {told.same}{" "}
              there already, {told.asks} unlikely, {told.refused} refused.
            </p>
            {(now.state === "judging" || now.state === "writing") && (
              <progress
                className="progress progress-primary h-4 w-full"
                aria-label={now.state === "judging" ? `${now.done} specs looked at` : `${now.done} specs put on file`}
                {...(now.state === "writing" ? { value: now.done, max: coming } : {})}
              />
            )}
            {(now.state === "judging" || now.state === "writing") && <p>{now.done} specs so far</p>}
            {now.trouble && (
              <div role="alert" className="bg-error text-error-content rounded-box p-4 text-lg">
                <b>{now.trouble.fault}</b> {now.trouble.remedy}
              </div>
            )}
          </div>
        )}
        {now?.state === "judged" && told?.refused === 0 && coming > 0 && (
          <button
            type="button"
            className="btn btn-primary text-xl"
            disabled={bring.isPending}
            onClick={() => bring.press(told.asks > 0)}
          >
            {told.asks ? "The unlikely ones are as written: put all on file" : "Put all on file, as drafts"}
          </button>
        )}
        {told && <ImportRows told={told} />}
        <section aria-label="export" className="flex flex-col gap-2">
          <h2 className="font-bold">Take out what is in force</h2>
          <p className="flex flex-wrap gap-2">
            {["csv", "xlsx", "json"].map((form) => (
              <a key={form} className="btn" href={`/api/spec-files/export.${form}`} download>
                {form.toUpperCase()}
              </a>
            ))}
            <a className="btn" href="/api/spec-files/schema.json" download>
              JSON Schema
            </a>
          </p>
        </section>
      </div>
    </Frame>
  );
}
