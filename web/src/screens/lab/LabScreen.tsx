import { RotateCcw } from "lucide-react";
import { NavLink, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useCore } from "../../core/useHeld";
import { Frame } from "../../parts/Frame";
import { PlotPicture } from "../../parts/PlotPicture";
import { Trouble } from "../../parts/Trouble";
import { Waiting } from "../../parts/Waiting";
import { BoltPicture } from "./BoltPicture";
import { JointPlay } from "./JointPlay";
import { KnobField } from "./KnobField";
import { ShareBar } from "./ShareBar";
import { useLab } from "./useLab";
import { WheelPicture } from "./WheelPicture";
import { WrenchPicture } from "./WrenchPicture";

const PAGES = [
  ["bolt", "One bolt"],
  ["scatter", "Scatter"],
  ["reuse", "Reuse"],
  ["joint", "The joint"],
  ["wheel", "The wheel off"],
  ["wrench", "The wrench"],
] as const;

const TONES: Readonly<Record<string, string>> = { good: "text-success", bad: "text-error" };

/** The lab: a question, its answer in one sentence, the drawing that shows it, and knobs to turn. */
export function LabScreen() {
  const { page = "bolt" } = useParams();
  useCore();
  return (
    <Frame title="Lab">
      <nav aria-label="pages of the lab" className="border-base-300 flex flex-wrap gap-1 border-b px-4 py-1">
        {PAGES.map(([name, title]) => (
          <NavLink
            key={name}
            to={`/lab/${name}`}
            className={({ isActive }) => `btn btn-ghost ${isActive ? "bg-base-300 font-bold" : ""}`}
          >
            {title}
          </NavLink>
        ))}
      </nav>
      <Turned key={page} page={page} />
    </Frame>
  );
}

/** A page with its own knobs: what another page's said is not taken along. */
function Turned({ page }: { page: string }) {
  const { data, error, turn, begin } = useLab(page);
  return data ? <Page data={data} error={error} onTurn={turn} onBegin={begin} /> : <Waiting error={error} />;
}

type Props = {
  data: Schemas["LabPage"];
  error: Error | null;
  onTurn: (name: string, value: string, resets?: readonly string[]) => void;
  onBegin: () => void;
};

function Page({ data, error, onTurn, onBegin }: Props) {
  const rest = data.plots.slice(data.drawn.some((each) => each.kind === "joint") ? 0 : 1);
  return (
    <div className="mx-auto grid max-w-7xl gap-x-8 gap-y-4 p-4 lg:grid-cols-[minmax(0,1fr)_20rem]">
      <article className="flex min-w-0 flex-col gap-4">
        <header>
          <h2 className="text-base-content/80 text-lg">{data.question}</h2>
          <p role="status" className={`text-xl font-bold ${TONES[data.tone] ?? ""}`}>
            {data.answer}
          </p>
        </header>
        <Trouble error={error} />
        {data.shares.length > 0 && <ShareBar parts={data.shares} />}
        <Shown page={data} />
        <div className="grid gap-6 md:grid-cols-2">
          {rest.map((plot) => (
            <PlotPicture key={plot.name} plot={plot} />
          ))}
        </div>
        <Books page={data} />
      </article>
      <aside aria-label="knobs" className="flex flex-col gap-3 max-lg:order-last">
        {data.knobs.map((knob) => (
          <KnobField key={knob.name} knob={knob} onTurn={onTurn} />
        ))}
        <button type="button" className="btn min-h-14" onClick={onBegin}>
          <RotateCcw aria-hidden="true" /> Begin anew
        </button>
      </aside>
    </div>
  );
}

/** What shows the answer: the drawing with its first plot, or the joint pull by pull; then the figures. */
function Shown({ page }: { page: Schemas["LabPage"] }) {
  const joints = page.drawn.filter((each) => each.kind === "joint");
  const single = page.drawn.find((each) => each.kind !== "joint");
  const [first] = page.plots;
  if (joints.length > 0) {
    return (
      <>
        <JointPlay key={joints.map((joint) => joint.pulls.join()).join()} joints={joints} />
        <Figures figures={page.figures} />
      </>
    );
  }
  return (
    <>
      <div
        className={`grid items-center gap-4 ${single ? (single.kind === "wrench" ? "sm:grid-cols-2" : "sm:grid-cols-[15rem_minmax(0,1fr)]") : ""}`}
      >
        {single?.kind === "bolt" && <BoltPicture bolt={single} />}
        {single?.kind === "wheel" && <WheelPicture wheel={single} />}
        {single?.kind === "wrench" && <WrenchPicture wrench={single} />}
        {first && <PlotPicture plot={first} />}
      </div>
      <Figures figures={page.figures} />
    </>
  );
}

function Figures({ figures }: { figures: readonly Schemas["LabFigure"][] }) {
  return (
    <dl className="grid grid-cols-[repeat(auto-fit,minmax(13rem,1fr))] gap-x-6 gap-y-2">
      {figures.map((figure) => (
        <div key={figure.name}>
          <dt>{figure.name}</dt>
          <dd className={`text-lg font-bold ${TONES[figure.tone] ?? ""}`}>{figure.words}</dd>
        </div>
      ))}
    </dl>
  );
}

function Books({ page }: { page: Schemas["LabPage"] }) {
  return (
    <footer className="border-base-300 grid gap-6 border-t pt-3 md:grid-cols-2">
      <section aria-label="what the books say">
        <h3 className="text-lg font-bold">What the books say</h3>
        {page.books.map((book) => (
          <p key={book.words} className="pb-2">
            {book.words} <span className="text-base-content/80">{book.source}</span>
          </p>
        ))}
        {page.formula && <p className="font-bold">{page.formula}</p>}
      </section>
      <section aria-label="assumed">
        <h3 className="text-lg font-bold">Assumed</h3>
        <ul className="list-disc pl-5">
          {page.assumed.map((each) => (
            <li key={each}>{each}</li>
          ))}
        </ul>
        <p className="pt-2 font-bold">{page.caution}</p>
      </section>
    </footer>
  );
}
