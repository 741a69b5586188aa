import { RotateCcw, RotateCw } from "lucide-react";
import type { Schemas } from "../../api/client";
import { figure, limits } from "../../parts/format";

type Props = { now: Schemas["Now"]; label: string | null; out: boolean };

/** The figure that matters now, readable at two metres. */
export function FigurePanel({ now, label, out }: Props) {
  const { prompt } = now;
  if (prompt.ask === "finish") {
    return (
      <section aria-label="now" className="flex flex-col justify-center gap-3">
        <p className="text-5xl font-bold">{now.clean ? "All done." : "Done, but not good."}</p>
        {now.reasons.map((reason) => (
          <p key={reason} className="text-xl">
            {reason}
          </p>
        ))}
      </section>
    );
  }
  if (!prompt.figure) {
    return (
      <section aria-label="now" className="flex flex-col justify-center gap-3">
        <p className="text-4xl leading-tight font-bold lg:text-5xl">{prompt.say}</p>
        <p className="text-xl">then {prompt.then}</p>
      </section>
    );
  }
  const Turn = prompt.turn.startsWith("anti") ? RotateCcw : RotateCw;
  const flagged = now.verdicts.filter((v) => !v.answered && v.keeps_from_good);
  return (
    <section aria-label="now" className="flex flex-col justify-center">
      <p className="text-base-content/80 text-xl">
        {prompt.stage}
        {prompt.say && `, ${prompt.say}`}
      </p>
      <p className="flex items-baseline gap-3 leading-none font-bold">
        <span data-testid="figure" className="text-[clamp(7rem,27vmin,16rem)]">
          {prompt.figure.figure}
        </span>
        <span className="text-5xl">{prompt.figure.unit}</span>
      </p>
      <p className="text-2xl">
        {limits(prompt.figure)}{" "}
        <span className="text-base-content/80 text-lg">{prompt.also.map(figure).join(" · ")}</span>
      </p>
      <p className="mt-3 flex items-center gap-3 text-3xl font-bold">
        nut {label}
        <span className="flex items-center gap-2 text-xl font-normal">
          <Turn aria-hidden="true" /> {prompt.turn}
        </span>
      </p>
      {out ? (
        <p className="text-xl">out of order: the next in order is {prompt.fastener}</p>
      ) : (
        <p className="text-base-content/80 text-xl">
          {prompt.upcoming.length > 0 ? `then ${prompt.upcoming.slice(0, 3).join(" · ")}` : `then ${prompt.then}`}
        </p>
      )}
      {prompt.meanwhile && <p className="text-xl">meanwhile: {prompt.meanwhile}</p>}
      {flagged.length > 0 && (
        <ul className="border-error mt-2 border-l-8 pl-3">
          {flagged.slice(-2).map((verdict) => (
            <li key={`${verdict.code}${verdict.words}`}>
              <b>{verdict.words}.</b> {verdict.remedy}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
