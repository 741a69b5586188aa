import { useQuery } from "@tanstack/react-query";
import { Printer } from "lucide-react";
import { useEffect } from "react";
import { useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { nowQuery, paperQuery, sheetQuery } from "../../api/queries";
import { useHeld } from "../../core/useHeld";
import { FastenerMap } from "../../parts/FastenerMap";
import { Frame } from "../../parts/Frame";
import { moment, procedureWords } from "../../parts/format";
import { Trouble } from "../../parts/Trouble";
import { useMe } from "../../parts/useMe";
import { Waiting } from "../../parts/Waiting";
import { useRecorder } from "./tighten/useRecorder";

/** A run as it stands, for paper: the last resort. */
export function PaperScreen() {
  const { id = "" } = useParams();
  const held = useHeld(id);
  const sheet = useQuery(sheetQuery(id));
  const paper = useQuery(paperQuery(id, held));
  const now = useQuery(nowQuery(id));
  const { seq } = now.data ?? {};
  const { refetch } = paper;
  useEffect(() => {
    if (seq !== undefined) refetch(); // the sheet is printed as the run stands
  }, [seq, refetch]);
  if (!sheet.data || !paper.data) return <Waiting error={sheet.error ?? paper.error} />;
  return (
    <Frame title={`${sheet.data.machine.fleet_number} ${sheet.data.position_words} on paper`} dock={false}>
      <Sheet sheet={sheet.data} paper={paper.data} held={held} seq={seq ?? paper.data.seq} />
    </Frame>
  );
}

type Props = { sheet: Schemas["RunSheet"]; paper: Schemas["PaperRun"]; held: boolean; seq: number };

function Sheet({ sheet, paper, held, seq }: Props) {
  const me = useMe();
  const recorder = useRecorder({ run: sheet.run, seq, by: me.person.id, held, paper: null });
  const print = async () => {
    if (!paper.standing) {
      const taken = recorder.record({ kind: "printed" });
      if (taken === null) return;
      await taken;
    }
    window.print(); // what has ended is printed to be read
  };
  const left = paper.passes.filter((pass) => pass.boxes.some((box) => !box.done));
  return (
    <article className="paper mx-auto flex max-w-4xl flex-col gap-4 p-6">
      <header className="flex gap-6">
        <div className="flex-1">
          <h2 className="text-2xl font-bold">
            {sheet.machine.fleet_number} {sheet.position_words} · {sheet.title}
          </h2>
          <p>
            {sheet.machine.maker} {sheet.machine.model} · revision {sheet.spec_revision},{" "}
            {procedureWords(sheet.procedure)} · {sheet.source.document} {sheet.source.page}
          </p>
          <p>{sheet.tools.map((tool) => [tool.wrench.name, tool.on_its_end].filter(Boolean).join(", ")).join("; ")}</p>
          <p>
            {sheet.hand === "left" ? <b>Left-hand thread: it tightens anticlockwise. </b> : null}
            Begun {moment(sheet.started_at)}. As it stood after entry {paper.seq}
            {paper.standing && `; ended: ${paper.standing}`}.
          </p>
          <p className="font-bold">
            Tick each box after its click. Write what you read, and when. Enter it as “from paper” afterwards.
          </p>
        </div>
        <div className="h-44 w-44">
          <FastenerMap layout={sheet.layout} />
        </div>
      </header>
      <button type="button" className="btn btn-primary gap-2 self-start print:hidden" onClick={print}>
        <Printer aria-hidden="true" size={20} /> Print it
      </button>
      <Trouble error={recorder.refusal} />
      {left.length === 0 && <p className="text-xl">Nothing is left to do.</p>}
      {left.map((pass) => (
        <Round key={pass.words} pass={pass} />
      ))}
      <footer className="grid grid-cols-2 gap-6 pt-4">
        {["Done by", "On, from … to …"].map((line) => (
          <p key={line} className="border-base-content border-b pt-8">
            {line}
          </p>
        ))}
      </footer>
    </article>
  );
}

function Round({ pass }: { pass: Schemas["PaperPass"] }) {
  return (
    <section className="break-inside-avoid">
      <h3 className="border-base-content border-b text-lg font-bold">
        {pass.words}
        {pass.maybe && " — only if what came before asks for it"}
        {pass.figure && ` · ${pass.figure}`}
        {pass.wrench && <span className="font-normal"> · {pass.wrench}</span>}
      </h3>
      <ol className="grid grid-cols-[repeat(auto-fill,minmax(9rem,1fr))] gap-x-6">
        {pass.boxes.map((box, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the order is the content
          <li key={place} className="flex items-center gap-3 py-1">
            <span
              aria-hidden="true"
              className="border-base-content flex h-7 w-7 shrink-0 items-center justify-center border-2"
            >
              {box.done ? "✓" : ""}
            </span>
            <span>
              {box.name && <b>{box.name} </b>}
              {box.figure}
              {box.done && <span className="sr-only"> done</span>}
            </span>
            {Array.from({ length: box.figures_to_write }, (_, at) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: lines to write on
              <span key={at} aria-hidden="true" className="border-base-content flex-1 border-b">
                &nbsp;
              </span>
            ))}
          </li>
        ))}
      </ol>
    </section>
  );
}
