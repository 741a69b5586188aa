import { useState } from "react";
import { address } from "../../api/addresses";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { sendFile } from "../../api/send";
import { pointShareValues } from "../../api/values";
import { Field } from "../../parts/Field";
import { Trouble } from "../../parts/Trouble";

type Props = { id: string; unit: string; marks: readonly number[] };

const numbers = (typed: string) =>
  typed
    .split(/[\s;]+/)
    .filter(Boolean)
    .map((text) => Number(text.replace(",", ".")));

/** A check: what the standard showed at 20, 60 and 100 %, as found and as left; the paper with it. */
export function CheckForm({ id, unit, marks }: Props) {
  const [open, setOpen] = useState(false);
  const [found, setFound] = useState(["", "", ""]);
  const [left, setLeft] = useState(["", "", ""]);
  const [by, setBy] = useState("");
  const [certificate, setCertificate] = useState("");
  const [paper, setPaper] = useState<File | null>(null);
  const params = { path: { tool_id: id } };
  const save = useCommand({
    body: (pressed) => {
      const points = pointShareValues.map((share, n) => ({
        share,
        shown: marks[n] ?? 0,
        found: numbers(found[n] ?? ""),
        left: numbers(left[n] ?? ""),
      }));
      return { id: pressed.id, points, by, certificate, attachment: paper ? pressed.id : null };
    },
    before: async ({ id }) => {
      if (paper) await sendFile(address("/api/attachments/{attachment_id}", { path: { attachment_id: id } }), paper);
    },
    to: address("/api/tools/{tool_id}/checks", params),
    changes: touched.tools,
    done: () => setOpen(false),
  });
  if (!open) {
    return (
      <button type="button" className="btn self-start" onClick={() => setOpen(true)}>
        Hand in a check
      </button>
    );
  }
  const change = (set: typeof setFound, n: number) => (event: React.ChangeEvent<HTMLInputElement>) =>
    set((before) => before.map((reading, place) => (place === n ? event.target.value : reading)));
  return (
    <form
      aria-label="check"
      className="border-primary flex flex-col gap-4 border-l-8 pl-4"
      onSubmit={(event) => {
        event.preventDefault();
        save.press(undefined);
      }}
    >
      <p className="text-lg">What the standard showed, in {unit}, one reading after the other.</p>
      {pointShareValues.map((share, n) => (
        <div key={share} className="grid gap-3 sm:grid-cols-2">
          <Field
            label={`Set to ${marks[n]}: as found`}
            placeholder="five readings, a blank between them"
            inputMode="decimal"
            required
            value={found[n]}
            onChange={change(setFound, n)}
          />
          <Field
            label={`Set to ${marks[n]}: as left`}
            placeholder="empty if nothing was adjusted"
            inputMode="decimal"
            value={left[n]}
            onChange={change(setLeft, n)}
          />
        </div>
      ))}
      <Field label="Who checked it" required value={by} onChange={(event) => setBy(event.target.value)} />
      <Field
        label="Number of the certificate"
        value={certificate}
        onChange={(event) => setCertificate(event.target.value)}
      />
      <label className="flex flex-col gap-1">
        <span className="font-bold">The certificate, as PDF or photo</span>
        <input
          type="file"
          className="file-input bg-base-100 w-full"
          accept="application/pdf,image/*"
          onChange={(event) => setPaper(event.target.files?.[0] ?? null)}
        />
      </label>
      <Trouble error={save.error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary flex-1 text-xl" disabled={save.isPending}>
          Hand it in
        </button>
        <button type="button" className="btn" onClick={() => setOpen(false)}>
          Back
        </button>
      </div>
    </form>
  );
}
