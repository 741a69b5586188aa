import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { toolQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { moment } from "../../parts/format";
import { Waiting } from "../../parts/Waiting";
import { CheckForm } from "./CheckForm";
import { Mark } from "./CribScreen";
import { Doubted } from "./Doubted";
import { PieceActs } from "./PieceActs";
import { SetAside } from "./SetAside";
import { Tonight } from "./Tonight";

/** One tool: what it is, how it stands, its checks, and what a drop puts in doubt. */
export function ToolScreen() {
  const { id = "" } = useParams();
  const { data: file, error } = useQuery(toolQuery(id));
  if (!file) return <Waiting error={error} />;
  const { tool, care } = file;
  return (
    <Frame title={tool.name}>
      <div className="mx-auto grid max-w-6xl gap-6 p-4 md:grid-cols-[1fr_16rem]">
        <div className="flex flex-col gap-6">
          <section aria-label="how it stands" className="flex flex-col gap-2">
            <p className="text-xl">{file.words}</p>
            {care && (
              <p className="flex items-center gap-3 text-2xl font-bold">
                <Mark standing={care.standing} /> {care.words}
              </p>
            )}
            <p className="text-base-content/80">
              {file.uses > 0 && `Pulls: ${file.uses.toLocaleString("en-GB")}. `}
              {file.uses > 0 && care?.checked && `Since its last check: ${care.pulls_since.toLocaleString("en-GB")}. `}
              {tool.serial && `Serial ${tool.serial}. `}
              {tool.owner && `Belongs to ${tool.owner}.`}
            </p>
          </section>
          {file.used_today && !file.put_away && <Tonight />}
          {file.piece ? <PieceActs now={file.piece} id={id} /> : <SetAside file={file} id={id} />}
          {file.doubt && <Doubted file={file} id={id} />}
          {(tool.kind === "wrench" || tool.kind === "gauge") && (
            <CheckForm id={id} unit={tool.unit} marks={file.marks} />
          )}
          {file.checks.length > 0 && <Checks checks={file.checks} />}
        </div>
        <aside className="flex flex-col gap-2 self-start">
          <img className="bg-white p-2" src={`/api/tools/${id}/tag.svg`} alt={`code that leads to ${tool.name}`} />
          <p className="text-sm">
            Print it and stick it on the tool. Scanned, it opens this page; typed into the search by a hand scanner too.
          </p>
          <a className="btn" href={`/api/tools/${id}/tag.svg`} download={`${tool.name}.svg`}>
            Save the tag
          </a>
        </aside>
      </div>
    </Frame>
  );
}

function Checks({ checks }: { checks: readonly Schemas["CheckLine"][] }) {
  return (
    <section aria-label="checks" className="flex flex-col gap-3">
      <h2 className="text-lg font-bold">Checks</h2>
      {checks.map((check) => (
        <article key={check.at} className="border-base-300 flex flex-col gap-1 border-t pt-2">
          <p>
            <b>{moment(check.at)}</b>, {check.calibration.by}
            {check.calibration.certificate && `, certificate ${check.calibration.certificate}`}
            {check.calibration.attachment && (
              <>
                {" · "}
                <a
                  className="link"
                  href={`/api/attachments/${check.calibration.attachment}`}
                  target="_blank"
                  rel="noreferrer"
                >
                  the paper
                </a>
              </>
            )}
          </p>
          <p>
            {check.good_as_found ? "In tolerance as found" : "Out of tolerance as found"}
            {check.good_as_found !== check.good && (check.good ? ", put right" : ", and as left")} (±
            {check.calibration.permissible_percent} %).
          </p>
          <p className="text-base-content/80 text-sm tabular-nums">
            {check.calibration.points
              .map(
                (point) =>
                  `${point.share} %: set ${point.shown}, gave ${point.found.map((reading) => reading.toFixed(1)).join(" ")}${point.left.length > 0 ? `, then ${point.left.map((each) => each.toFixed(1)).join(" ")}` : ""}`,
              )
              .join(" · ")}
          </p>
        </article>
      ))}
    </section>
  );
}
