import type { Schemas } from "../../api/client";
import { toolsOf } from "./inHand";
import { pullFor } from "./PullKeys";
import type { Recorder } from "./useRecorder";

const visited = new Set<string>();

/** Whether this page has been on this run since it was loaded; marks it. */
export function wasHere(run: string): boolean {
  const before = visited.has(run);
  visited.add(run);
  return before;
}

type Props = { sheet: Schemas["RunSheet"]; now: Schemas["Now"]; recorder: Recorder; onAnswered: () => void };

/** After leaving and coming back: was a pull made in between? */
export function ComingBack({ sheet, now, recorder, onAnswered }: Props) {
  const { prompt } = now;
  const check = prompt.ask === "turned";
  const answer = (option: string, moved: boolean | null = null) => {
    if (option === "pulled") {
      recorder.record({
        kind: check ? "checked" : "pulled",
        pull: pullFor(prompt, prompt.fastener ?? null),
        fastener: prompt.fastener ?? null,
        how: "click",
        tools: toolsOf(sheet, prompt),
        moved,
        text: "recorded on coming back",
        affirmed: ["pace"],
      });
    } else {
      recorder.record({ kind: "resumed", option });
    }
    onAnswered();
  };
  return (
    <div
      role="alertdialog"
      aria-label="coming back"
      className="bg-warning text-warning-content rounded-box flex flex-wrap items-center gap-3 p-4"
    >
      <p className="min-w-72 flex-1 text-xl">
        <b>You are back.</b> Nut {prompt.fastener}, {prompt.stage}: was it pulled while nobody recorded?
      </p>
      <button type="button" className="btn" onClick={() => answer("not pulled")}>
        Not pulled
      </button>
      {check ? (
        <>
          <button type="button" className="btn" onClick={() => answer("pulled", false)}>
            Yes, it did not turn
          </button>
          <button type="button" className="btn" onClick={() => answer("pulled", true)}>
            Yes, it turned
          </button>
        </>
      ) : (
        <button type="button" className="btn" onClick={() => answer("pulled")}>
          Yes, it clicked
        </button>
      )}
      <button type="button" className="btn" onClick={() => answer("not sure")}>
        Not sure: pull it; if it clicks without turning it had its pull
      </button>
    </div>
  );
}
