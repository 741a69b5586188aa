import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, Problem, type Schemas } from "../../api/client";
import { Frame } from "../../parts/Frame";
import { Trouble } from "../../parts/Trouble";

type Rehearsal = Schemas["Rehearsal"];

const SAY: Record<Schemas["Row"]["verdict"], string> = {
  new: "new",
  revision: "next revision",
  same: "on file already",
  asks: "unlikely",
  refused: "refused",
};

/** A file goes as it is, byte for byte; the generated client would read and write it again. */
async function send(path: string, file: File): Promise<Rehearsal> {
  const call = fetch(path, { method: "POST", body: file, headers: { "content-type": "application/json" } });
  return ask(
    call.then(async (response) => {
      const content = await response.json();
      return response.ok ? { data: content as Rehearsal, response } : { error: content, response };
    }),
  );
}

/** Specs from a file: a rehearsal first, row by row; then all of it, as drafts, or nothing. */
export function ImportScreen() {
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const rehearse = useMutation({ mutationFn: (chosen: File) => send("/api/library/rehearsal", chosen), retry: false });
  const bring = useMutation({
    mutationFn: (affirmed: string) => send(`/api/library/import${affirmed}`, file as File),
    retry: false,
    onSuccess: () => queries.invalidateQueries(),
  });
  const told = rehearse.data;
  const ready = told && told.refused === 0 && told.added + told.asks > 0 && !bring.isSuccess;
  const asks = bring.error instanceof Problem && bring.error.ask === "figure";
  return (
    <Frame title="Specs from a file">
      <div className="mx-auto flex max-w-4xl flex-col gap-4 p-6">
        <label className="flex flex-col gap-1">
          <span className="font-bold">A JSON file: specs that were exported, or one by itself</span>
          <input
            type="file"
            accept="application/json,.json"
            className="file-input w-full"
            onChange={(event) => {
              const chosen = event.target.files?.[0] ?? null;
              setFile(chosen);
              bring.reset();
              if (chosen) rehearse.mutate(chosen);
            }}
          />
        </label>
        <Trouble error={rehearse.error} />
        {told && (
          <p className="text-xl">
            {bring.isSuccess ? "On file now" : "Would be"}: {told.added + told.asks} added as drafts, {told.same} there
            already, {told.asks} unlikely, {told.refused} refused.
          </p>
        )}
        {ready && (
          <button
            type="button"
            className="btn btn-primary text-xl"
            onClick={() => bring.mutate(told.asks ? "?affirmed=figure" : "")}
          >
            {told.asks ? "The unlikely ones are as written: put all on file" : "Put all on file, as drafts"}
          </button>
        )}
        {!asks && <Trouble error={bring.error} />}
        <ol>
          {told?.rows.map((row) => (
            <li
              key={row.number}
              className={`border-base-300 border-b border-l-8 py-2 pl-3 ${row.verdict === "refused" ? "border-l-error" : row.verdict === "asks" ? "border-l-warning" : "border-l-transparent"}`}
            >
              <b>
                {row.number}. {row.title || "no title"}
              </b>{" "}
              · {SAY[row.verdict]}
              {row.fault && (
                <span className="block">
                  {row.field}: {row.fault} {row.remedy}
                </span>
              )}
            </li>
          ))}
        </ol>
        <a className="btn self-start" href="/api/library/export.json" download>
          Export what is in force
        </a>
      </div>
    </Frame>
  );
}
