import { ChevronDown } from "lucide-react";
import type { Schemas } from "../../../api/client";
import { clock, moment } from "../../../parts/format";

type Props = { entries: readonly Schemas["EntryLine"][] };

/** Every entry by number; what was taken back is struck through and still there. */
export function EntryList({ entries }: Props) {
  return (
    <details aria-label="entries" className="group">
      <summary className="flex min-h-12 cursor-pointer items-center gap-2 text-lg font-bold">
        Recorded: {entries.length} entries
        <ChevronDown aria-hidden="true" size={24} className="group-open:rotate-180" />
      </summary>
      <ol className="flex flex-col">
        {entries.map((entry) => (
          <li key={entry.id} className="border-base-300 grid grid-cols-[2.5rem_1fr_auto] gap-x-3 border-b py-1">
            <span className="text-base-content/80">{entry.seq}</span>
            <span>
              {entry.counts ? entry.words : <s>{entry.words}</s>}
              {entry.done_at && ` (done ${moment(entry.done_at)})`}
              {entry.in_conflict && <b> · two devices at once</b>}
              {entry.files.map((file) => (
                <a key={file} className="link block" href={`/api/attachments/${file}`} target="_blank" rel="noreferrer">
                  <img className="max-h-40" src={`/api/attachments/${file}`} alt="kept with this entry" />
                </a>
              ))}
            </span>
            <span className="text-base-content/80 text-right text-sm">
              {entry.by}
              {entry.recorded_by !== entry.by && `, recorded by ${entry.recorded_by}`} · {entry.device} ·{" "}
              {clock(entry.at, true)}
            </span>
          </li>
        ))}
      </ol>
    </details>
  );
}
