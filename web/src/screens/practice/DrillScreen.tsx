import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Check, X } from "lucide-react";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { drillQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { Trouble } from "../../parts/Trouble";
import { useMe } from "../../parts/useMe";
import { Waiting } from "../../parts/Waiting";
import { type Answered, DrillPicture } from "./DrillPictures";

const MOST_SEED = 1_000_000;
export const anySeed = (): number => 1 + Math.floor(Math.random() * MOST_SEED);

/** A drill: its question, what shows it, keys or a line to answer; at the end what was missed and why. */
export function DrillScreen() {
  const { drill = "" } = useParams();
  const [said] = useSearchParams();
  const seed = Number(said.get("seed") ?? 1);
  return <Drill key={`${drill}/${seed}`} drill={drill} seed={seed} />;
}

function Drill({ drill, seed }: { drill: string; seed: number }) {
  const me = useMe();
  const [answers, setAnswers] = useState<readonly Schemas["DrillAnswer"][]>([]);
  const tried = { seed, answers: [...answers] };
  const { data, error, isPlaceholderData } = useQuery({
    ...drillQuery(drill, tried),
    placeholderData: keepPreviousData,
  });
  const keep = useCommand({
    body: ({ id }, done: Schemas["DrillTried"]) => ({ id, ...done }),
    to: address("/api/practice/{drill}/results", { path: { drill } }),
    changes: [["practice"]],
  });
  const over = data?.done === true && !isPlaceholderData;
  const kept = keep.kept !== null || keep.data !== undefined;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when it is over
  useEffect(() => {
    if (over && !kept && me.rights.includes("work")) keep.press(tried);
  }, [over]);
  const shown = answers.length - (isPlaceholderData ? 1 : 0); // the question that was answered stands until the next one comes
  const answer: Answered = ({ key = "", figure }) => {
    if (!isPlaceholderData) setAnswers([...answers, { key, figure: figure ?? null }]);
  };
  if (!data) return <Waiting error={error} />;
  return (
    <Frame title={data.title}>
      <div className="mx-auto flex max-w-3xl flex-col gap-4 p-4" aria-busy={isPlaceholderData}>
        <Trouble error={error ?? keep.error} />
        {data.question && !data.done && <Asked key={shown} question={data.question} number={shown} onAnswer={answer} />}
        {data.done && <Over told={data} />}
      </div>
    </Frame>
  );
}

type AskedProps = { question: Schemas["DrillQuestion"]; number: number; onAnswer: Answered };

function Asked({ question, number, onAnswer }: AskedProps) {
  return (
    <>
      <Said says={question.says} right={question.right ?? null} />
      <h2 className="text-2xl font-bold">{question.ask}</h2>
      {question.picture && <DrillPicture picture={question.picture} number={number} onAnswer={onAnswer} />}
      {question.unit !== "" && <FigureLine unit={question.unit} onAnswer={onAnswer} />}
      {question.keys.length > 0 && (
        <div className="flex flex-wrap gap-2">
          {question.keys.map((key) => (
            <button
              key={key.key}
              type="button"
              className="btn min-h-16 flex-1 text-lg"
              onClick={() => onAnswer({ key: key.key })}
            >
              {key.say}
            </button>
          ))}
        </div>
      )}
    </>
  );
}

function Said({ says, right }: { says: string; right: boolean | null }) {
  return (
    <p role="status" className="flex min-h-8 items-start gap-2 text-lg">
      {right === true && <Check aria-label="right" className="text-success shrink-0" />}
      {right === false && <X aria-label="wrong" className="text-error shrink-0" />}
      {says}
    </p>
  );
}

function FigureLine({ unit, onAnswer }: { unit: string; onAnswer: Answered }) {
  const [typed, setTyped] = useState("");
  const figure = Number(typed.replace(",", "."));
  const good = typed.trim() !== "" && Number.isFinite(figure);
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (good) onAnswer({ figure });
      }}
    >
      <label className="flex flex-1 items-center gap-2 text-xl">
        <input
          className="input h-16 w-full text-2xl"
          inputMode="decimal"
          aria-label={`figure in ${unit}`}
          value={typed}
          // biome-ignore lint/a11y/noAutofocus: the question is answered here
          autoFocus
          onChange={(event) => setTyped(event.target.value)}
        />
        {unit}
      </label>
      <button type="submit" className="btn btn-primary min-h-16 text-lg" disabled={!good}>
        That is it
      </button>
    </form>
  );
}

function Over({ told }: { told: Schemas["DrillNow"] }) {
  const navigate = useNavigate();
  return (
    <section aria-label="verdict" className="flex flex-col gap-3">
      <Said says={told.says} right={null} />
      <h2 className={`text-3xl font-bold ${told.passed ? "text-success" : "text-error"}`}>
        {told.passed ? "Passed: all of it was right." : "Missed; it comes again tomorrow."}
      </h2>
      {told.missed.length > 0 && (
        <ul className="flex flex-col gap-2">
          {told.missed.map((each) => (
            <li key={each} className="border-error border-l-8 pl-3 text-lg">
              {each}
            </li>
          ))}
        </ul>
      )}
      <div className="flex flex-wrap gap-2">
        <button
          type="button"
          className="btn btn-primary min-h-14 flex-1"
          onClick={() => navigate(`/practice/${told.drill}?seed=${anySeed()}`, { replace: true })}
        >
          Another one
        </button>
        <Link className="btn min-h-14 flex-1" to="/practice">
          To the drills
        </Link>
      </div>
    </section>
  );
}
