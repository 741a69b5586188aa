import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api/client";
import { scaleProofQuery } from "../../api/queries";
import { Choice } from "../../parts/Choice";
import { Field } from "../../parts/Field";
import { ScalePicture } from "../../parts/ScalePicture";
import { Trouble } from "../../parts/Trouble";

export type Seen = { line: string; thimble: string };

type Props = {
  /** The wrench as it is described so far; null while that is too little to draw it. */
  draft: Schemas["Wrench"] | null;
  seen: Seen;
  onBody: (step: string) => void;
  onSeen: (seen: Seen) => void;
};

/** What its body and thimble show: the usual pairs to tap, drawn; then one figure is read back from the wrench itself. */
export function ScaleProof({ draft, seen, onBody, onSeen }: Props) {
  const { data: proof, error } = useQuery({ ...scaleProofQuery(draft), enabled: draft !== null });
  if (!draft) return null;
  if (error) return <Trouble error={error} />;
  if (!proof) return null;
  const body = draft.body_graduation ?? null;
  return (
    <section aria-label="its scale" className="border-primary flex flex-col gap-3 border-l-8 pl-4">
      {proof.pairs.length > 0 && (
        <Choice
          label="What do body and thimble show?"
          options={[
            ...proof.pairs.map((pair) => ({ value: `${pair.body_graduation}`, say: pair.words })),
            { value: "", say: "something else, or not known" },
          ]}
          value={body === null ? "" : `${body}`}
          onChange={onBody}
        />
      )}
      <ScalePicture scale={proof.scale} construction={draft.construction} face={draft.face} />
      {body === null && proof.pairs.length > 0 && (
        <p>Without its lines on file, a setting is said in figures only; no line is named.</p>
      )}
      <ReadBack proof={proof} side="" seen={seen} onSeen={onSeen} />
    </section>
  );
}

/** The same of the other side of a wrench, whose lines are its own. */
export function OtherSideProof({ draft, seen, onSeen }: Omit<Props, "onBody">) {
  const { data: proof } = useQuery({ ...scaleProofQuery(draft), enabled: draft !== null });
  if (!draft || !proof?.second?.needed) return null;
  return (
    <section aria-label="its other side" className="border-primary flex flex-col gap-3 border-l-8 pl-4">
      <ScalePicture scale={proof.second.scale} construction={draft.construction} face={draft.face} />
      <ReadBack proof={proof.second} side=", other side" seen={seen} onSeen={onSeen} />
    </section>
  );
}

type ReadBackProps = {
  proof: Omit<Schemas["ScaleProof"], "second">;
  /** Said after each label. */
  side: string;
  seen: Seen;
  onSeen: (seen: Seen) => void;
};

/** What somebody sees on one side, set to the figure that proves its lines; nothing where no line is on file. */
function ReadBack({ proof, side, seen, onSeen }: ReadBackProps) {
  if (!proof.needed) return null;
  return (
    <fieldset className="flex flex-wrap items-end gap-4">
      <legend className="mb-2 text-lg">
        Set it to{" "}
        <b>
          {proof.figure} {proof.scale.unit}
        </b>{" "}
        and say what you see on it{side}:
      </legend>
      <Field
        label={`Last line that shows${side}`}
        inputMode="decimal"
        value={seen.line}
        onChange={(event) => onSeen({ ...seen, line: event.target.value })}
      />
      {proof.scale.marks.length > 0 && (
        <Field
          label={`Mark of the thimble${side}`}
          inputMode="decimal"
          value={seen.thimble}
          onChange={(event) => onSeen({ ...seen, thimble: event.target.value })}
        />
      )}
    </fieldset>
  );
}
