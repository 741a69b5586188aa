import { useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect } from "react";
import { Navigate, useParams } from "react-router";
import { Problem, type Schemas } from "../../../api/client";
import { nowQuery, sheetQuery, signInQuery } from "../../../api/queries";
import { useAlone, useHeld } from "../../../core/useHeld";
import { FastenerMap } from "../../../parts/FastenerMap";
import { Waiting } from "../../../parts/Waiting";
import { leadsOn, NextWheel } from "../../jobs/NextWheel";
import { useJob } from "../../jobs/useJob";
import { AskLine } from "./AskLine";
import { nameOf } from "./acts";
import { Checklist } from "./Checklist";
import { ComingBack } from "./ComingBack";
import { FigurePanel } from "./FigurePanel";
import { Finish } from "./Finish";
import { FromPaper, OnPaper } from "./FromPaper";
import { inHand } from "./inHand";
import { LinePanel } from "./LinePanel";
import { LiveGauge } from "./LiveGauge";
import { OtherActs } from "./OtherActs";
import { Owed } from "./Owed";
import { PassBar } from "./PassBar";
import { PullKeys } from "./PullKeys";
import { ReadingPad } from "./ReadingPad";
import { TopStrip } from "./TopStrip";
import { Unread } from "./Unread";
import { type AtTheRun, useAtTheRun } from "./useAtTheRun";

const part = () => import("./measuring");
const AdjustKeys = lazy(() => part().then((made) => ({ default: made.AdjustKeys })));
const AdjustPanel = lazy(() => part().then((made) => ({ default: made.AdjustPanel })));
const GaugePicture = lazy(() => part().then((made) => ({ default: made.GaugePicture })));
const MeasureKeys = lazy(() => part().then((made) => ({ default: made.MeasureKeys })));
const MeasurePanel = lazy(() => part().then((made) => ({ default: made.MeasurePanel })));
const TriesPicture = lazy(() => part().then((made) => ({ default: made.TriesPicture })));

/** The run: what to pull now, on which nut, to which figure; one key. */
export function TightenScreen() {
  const { id = "" } = useParams();
  const held = useHeld(id);
  const alone = useAlone(id);
  const sheet = useQuery(sheetQuery(id));
  const now = useQuery(nowQuery(id));
  const door = useQuery(signInQuery);
  if (!sheet.data || !now.data || !door.data) {
    const error = sheet.error ?? now.error;
    const isUnread = error instanceof Problem && error.kind === "unreadable";
    return <Waiting error={error}>{isUnread && <Unread run={id} />}</Waiting>;
  }
  if (now.data.outcome) return <Navigate to={`/runs/${id}/card`} replace />;
  return <Tighten key={id} sheet={sheet.data} now={now.data} people={door.data.people} held={held} alone={alone} />;
}

type Props = { sheet: Schemas["RunSheet"]; now: Schemas["Now"]; people: readonly Schemas["Person"][] };

function Tighten({ sheet, now, people, held, alone }: Props & { held: boolean; alone: boolean }) {
  const at = useAtTheRun(sheet, now, held);
  const { by, setBy, recorder, chosen, setChosen, rung, setRung, setEnding, typing, setTyping, live } = at;
  const { prompt } = now;
  const task = prompt.ask === "confirm" && prompt.fastener === null;
  return (
    <div
      className="flex h-dvh flex-col"
      data-testid="seq"
      data-seq={now.seq}
      data-on-tablet={recorder.onTablet}
      aria-busy={recorder.busy}
    >
      <TopStrip
        sheet={sheet}
        tool={inHand(sheet, prompt)}
        people={people}
        by={by}
        onBy={(person) => {
          setBy(person);
          const name = people.find((each) => each.id === person)?.name;
          recorder.record({ kind: "handed_over", text: `to ${name}`, claimed_seq: now.seq + 1 });
        }}
        onEnd={() => setEnding(true)}
        guide={sheet.guide}
      />
      <nav aria-label="passes">
        <PassBar passes={now.passes} />
      </nav>
      <main className="grid min-h-0 flex-1 grid-rows-[auto_minmax(0,1fr)] gap-x-4 gap-y-2 p-3 landscape:grid-cols-[1fr_1fr] landscape:grid-rows-1">
        <Suspense fallback={<p className="p-4 text-xl">One moment …</p>}>
          {task && !now.pulled_something ? (
            <Checklist now={now} recorder={recorder} />
          ) : live && prompt.fastener ? (
            <LiveGauge live={live} prompt={prompt} />
          ) : prompt.ask === "adjust" ? (
            <AdjustPanel prompt={prompt} />
          ) : prompt.ask === "measure" ? (
            <MeasurePanel now={now} name={nameOf(now, at.label)} reading={at.reading} />
          ) : (
            <FigurePanel
              now={now}
              name={nameOf(now, at.label)}
              out={chosen !== null}
              tool={inHand(sheet, prompt)?.wrench.name}
              rung={rung}
              onRung={setRung}
            />
          )}
          <div className="min-h-0 max-sm:min-h-44 landscape:order-first">
            {typing ? (
              <ReadingPad
                sheet={sheet}
                now={now}
                recorder={recorder}
                label={at.label}
                onClose={() => setTyping(false)}
              />
            ) : prompt.ask === "measure" && (prompt.fastener === null || at.reading.gauge || at.needle) ? (
              <GaugePicture prompt={prompt} reading={at.reading} live={at.needle} />
            ) : prompt.ask === "adjust" && prompt.advised && prompt.advised.tries.length > 0 ? (
              <div className="h-full max-sm:hidden">
                <TriesPicture advised={prompt.advised} />
              </div>
            ) : (
              <FastenerMap
                layout={sheet.layout}
                fasteners={now.fasteners}
                clockwise={prompt.clockwise}
                turning={prompt.ask !== "set"}
                after={prompt.upcoming[0]}
                angle={
                  prompt.angle ? { aim: prompt.degrees_done + prompt.degrees_left, done: prompt.degrees_done } : null
                }
                chosen={chosen}
                onChoose={(nut) => setChosen(nut === prompt.fastener ? null : nut)}
              />
            )}
          </div>
        </Suspense>
      </main>
      {alone ? (
        <Below sheet={sheet} now={now} people={people} at={at} />
      ) : (
        <footer role="status" className="bg-warning text-warning-content p-4 text-xl">
          <b>This run is open in another tab of this tablet.</b> Go on there, or close it; nothing is recorded here.
        </footer>
      )}
      <p aria-live="polite" className="sr-only">
        {prompt.fastener ? `next ${prompt.name}, ${prompt.stage}` : prompt.say}
      </p>
    </div>
  );
}

/** What is asked and what can be pressed. */
function Below({ sheet, now, people, at }: Props & { at: AtTheRun }) {
  const { recorder, label, left, quiet, ending, onLine } = at;
  const job = useJob(sheet.machine.id);
  const leads = leadsOn(job, sheet.run, now);
  const queries = useQueryClient();
  // biome-ignore lint/correctness/useExhaustiveDependencies: with every entry of this run
  useEffect(() => {
    queries.invalidateQueries({ queryKey: ["job", sheet.machine.id, "here"] });
  }, [now.seq]);
  return (
    <footer className="border-base-300 flex flex-col gap-2 border-t p-2">
      {left && (
        <ComingBack
          key={now.seq}
          sheet={sheet}
          now={now}
          left={left}
          people={people}
          recorder={recorder}
          onAnswered={at.answered}
        />
      )}
      <Owed run={sheet.run} now={now} people={people} recorder={recorder} />
      {at.paper && <OnPaper paper={at.paper} people={people} onStop={() => at.setPaper(null)} />}
      {ending && <Finish sheet={sheet} now={now} onBack={() => at.setEnding(false)} />}
      <AskLine recorder={recorder} now={now} />
      {!quiet && leads === "waits" && (
        <p className="min-h-28 p-4 text-xl">How the other joints stand is being read …</p>
      )}
      {!quiet && leads === "yes" && job && <NextWheel machine={sheet.machine.id} run={sheet.run} job={job} />}
      <Suspense fallback={null}>
        {!quiet && leads === "no" && now.prompt.ask === "adjust" && (
          <AdjustKeys key={now.seq} sheet={sheet} now={now} recorder={recorder} blocked={at.typing} />
        )}
        {!quiet && leads === "no" && now.prompt.ask === "measure" && (
          <MeasureKeys now={now} recorder={recorder} label={label} reading={at.reading} />
        )}
      </Suspense>
      {!quiet && leads === "no" && now.prompt.ask !== "adjust" && now.prompt.ask !== "measure" && (
        <PullKeys
          sheet={sheet}
          now={now}
          recorder={recorder}
          label={label}
          rung={at.rung}
          onEnd={() => at.setEnding(true)}
          blocked={at.typing}
        />
      )}
      {onLine && <LinePanel run={sheet.run} reads={now.prompt.ask === "measure"} trouble={at.trouble} show={at.show} />}
      {!quiet && (
        <OtherActs
          now={now}
          recorder={recorder}
          label={label}
          onType={() => at.setTyping(true)}
          onLine={() => at.setOnLine(!onLine)}
          fromPaper={<FromPaper run={sheet.run} people={people} onPaper={at.setPaper} />}
          why={sheet.why_this_order}
        />
      )}
    </footer>
  );
}
