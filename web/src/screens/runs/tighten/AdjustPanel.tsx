import type { Schemas } from "../../../api/client";
import { limits } from "../../../parts/format";

/** The one thing to do now, why, and what would be better. */
export function AdjustPanel({ prompt }: { prompt: Schemas["Prompt"] }) {
  const { advised } = prompt;
  const proposal = advised?.proposal;
  const newest = advised?.tries.at(-1);
  return (
    <section aria-label="now" className="flex min-h-0 flex-col justify-center gap-3 overflow-y-auto">
      {advised && newest && (
        <p className="text-xl">
          {advised.what}: <b>{Number(newest.reading.toPrecision(4))}</b> {advised.reads_in}, band {limits(advised.band)}
          {"\u00a0"}
          {advised.band.unit}
        </p>
      )}
      <p className="text-3xl leading-tight font-bold lg:text-4xl" data-testid="proposal">
        {proposal?.say ?? prompt.say}
      </p>
      {proposal?.why && <p className="text-xl">{proposal.why}</p>}
      {proposal?.better && <p className="border-info border-l-8 pl-3 text-lg">{proposal.better}</p>}
      {proposal && prompt.say && <p className="text-base-content/80 text-lg">{prompt.say}</p>}
    </section>
  );
}
