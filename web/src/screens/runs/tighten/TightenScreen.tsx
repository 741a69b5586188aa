import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Navigate, useParams } from "react-router";
import type { Schemas } from "../../../api/client";
import { nowQuery, sheetQuery, signInQuery } from "../../../api/queries";
import { FastenerMap } from "../../../parts/FastenerMap";
import { useMe } from "../../../parts/useMe";
import { Waiting } from "../../../parts/Waiting";
import { AskLine } from "./AskLine";
import { nameOf } from "./acts";
import { Checklist } from "./Checklist";
import { ComingBack, wasHere } from "./ComingBack";
import { FigurePanel } from "./FigurePanel";
import { Finish } from "./Finish";
import { inHand } from "./inHand";
import { LinePanel } from "./LinePanel";
import { LiveGauge } from "./LiveGauge";
import { OtherActs } from "./OtherActs";
import { PassBar } from "./PassBar";
import { PullKeys } from "./PullKeys";
import { ReadingPad } from "./ReadingPad";
import { TopStrip } from "./TopStrip";
import { useAwake, useCalls } from "./useAwake";
import { useLine } from "./useLine";
import { useRecorder } from "./useRecorder";

/** The run: what to pull now, on which nut, to which figure; one key. */
export function TightenScreen() {
  const { id = "" } = useParams();
  const sheet = useQuery(sheetQuery(id));
  const now = useQuery(nowQuery(id));
  const door = useQuery(signInQuery);
  if (!sheet.data || !now.data || !door.data) return <Waiting error={sheet.error ?? now.error} />;
  if (now.data.outcome) return <Navigate to={`/runs/${id}/card`} replace />;
  return <Tighten key={id} sheet={sheet.data} now={now.data} people={door.data.people} />;
}

type Props = { sheet: Schemas["RunSheet"]; now: Schemas["Now"]; people: readonly Schemas["Person"][] };

function Tighten({ sheet, now, people }: Props) {
  const me = useMe();
  const [by, setBy] = useState(me.person.id);
  const [chosen, setChosen] = useState<string | null>(null);
  const [ending, setEnding] = useState(false);
  const [back, setBack] = useState(() => !wasHere(sheet.run) && now.returning !== null);
  const [typed, setTyping] = useState(false);
  const [rung, setRung] = useState<string | null>(null);
  const recorder = useRecorder(sheet.run, by);
  const { live, trouble } = useLine(sheet.run);
  const [onLine, setOnLine] = useState(false);
  useAwake();
  useCalls(now.prompt);
  const { prompt } = now;
  const left = back || now.paused ? now.returning : null;
  const typing = typed || (prompt.ask === "measure" && !left && !ending && recorder.question === null);
  const quiet = left !== null || ending || typed || recorder.question !== null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a choice is for one pull
  useEffect(() => {
    setChosen(null);
    setRung(null);
  }, [prompt.pull, now.seq]);
  const task = prompt.ask === "confirm" && prompt.fastener === null;
  const label = chosen ?? prompt.fastener ?? null;
  const keys = (
    <PullKeys
      sheet={sheet}
      now={now}
      recorder={recorder}
      label={label}
      rung={rung}
      onEnd={() => setEnding(true)}
      blocked={quiet || typing}
    />
  );
  return (
    <div className="flex h-dvh flex-col" data-testid="seq" data-seq={now.seq}>
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
      />
      <nav aria-label="passes">
        <PassBar passes={now.passes} />
      </nav>
      <main className="grid min-h-0 flex-1 grid-rows-[auto_1fr] gap-x-4 gap-y-2 p-3 landscape:grid-cols-[1fr_1fr] landscape:grid-rows-1">
        {task && !now.pulled_something ? (
          <Checklist now={now} recorder={recorder} />
        ) : live && prompt.fastener ? (
          <LiveGauge live={live} prompt={prompt} />
        ) : (
          <FigurePanel
            now={now}
            name={nameOf(now, label)}
            out={chosen !== null}
            tool={inHand(sheet, prompt)?.wrench.name}
            rung={rung}
            onRung={setRung}
          />
        )}
        <div className="min-h-0 landscape:order-first">
          {typing ? (
            <ReadingPad sheet={sheet} now={now} recorder={recorder} label={label} onClose={() => setTyping(false)} />
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
      </main>
      <footer className="border-base-300 flex flex-col gap-2 border-t p-2">
        {left && (
          <ComingBack
            key={now.seq}
            sheet={sheet}
            now={now}
            left={left}
            people={people}
            recorder={recorder}
            onAnswered={() => setBack(false)}
          />
        )}
        {ending && <Finish sheet={sheet} now={now} onBack={() => setEnding(false)} />}
        <AskLine recorder={recorder} now={now} />
        {!quiet && keys}
        {onLine && <LinePanel run={sheet.run} trouble={trouble} />}
        {!quiet && (
          <OtherActs
            now={now}
            recorder={recorder}
            label={label}
            onType={() => setTyping(true)}
            onLine={() => setOnLine(!onLine)}
            why={sheet.why_this_order}
          />
        )}
      </footer>
      <p aria-live="polite" className="sr-only">
        {prompt.fastener ? `next ${prompt.name}, ${prompt.stage}` : prompt.say}
      </p>
    </div>
  );
}
