import { Check, Megaphone } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { inOneLine, moment } from "../../parts/format";
import { ReasonForm } from "../../parts/ReasonForm";
import { Trouble } from "../../parts/Trouble";
import { useMe } from "../../parts/useMe";

type Notice = Schemas["NoticeNow"];

/** A notice: what happened, what to do, and the places that it is about, each with what was found there. */
export function NoticeLine({ notice }: { notice: Notice }) {
  const me = useMe();
  const [asked, setAsked] = useState<string | null>(null);
  const review = useCommand({
    body: ({ id }, text: string) => ({ id, run: asked ?? "", text }),
    to: address("/api/notices/{notice_id}/reviewed", { path: { notice_id: notice.id } }),
    changes: [...touched.machines, ["notices"], ["tool"]],
    done: () => setAsked(null),
  });
  return (
    <section
      aria-label={`${notice.kind}: ${notice.about}, ${moment(notice.at)}, ${notice.id.slice(-4)}`}
      className={`border-l-8 pl-4 ${notice.left > 0 ? "border-warning" : "border-base-300"}`}
    >
      <h2 className="flex items-center gap-3 text-xl font-bold">
        <Megaphone aria-hidden="true" className="shrink-0" />
        {notice.kind}: {notice.about}
      </h2>
      <p>
        {inOneLine(notice.reason, notice.by, moment(notice.at))}. <b>{notice.remedy}</b>
      </p>
      <p className="py-1">
        {notice.left === 0 ? "Every place was looked at." : `${notice.left} of ${notice.places.length} places left.`}
      </p>
      <ul>
        {notice.places.map((place) => (
          <li key={place.run} className="border-base-300 border-b py-1">
            <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
              <span className="w-6">{place.worked_off && <Check aria-label="worked off" size={22} />}</span>
              <Link
                className="link min-h-12 min-w-0 flex-1 content-center"
                to={place.open ? `/runs/${place.run}` : `/runs/${place.run}/card`}
              >
                <b>{inOneLine(place.fleet_number, place.position)}</b> {place.title}
                {place.open && ", under way now"}
              </Link>
              <span className="text-base-content/80">{inOneLine(place.people.join(", "), moment(place.at))}</span>
              {place.worked_off ? (
                <span className="w-full pl-10">{place.worked_off}</span>
              ) : (
                me.rights.includes("decide") && (
                  <button
                    type="button"
                    className="btn"
                    onClick={() => setAsked(asked === place.run ? null : place.run)}
                  >
                    Looked at
                  </button>
                )
              )}
            </div>
            {asked === place.run && (
              <ReasonForm label="what was found there" action="Write it down" onGive={review.press} />
            )}
          </li>
        ))}
      </ul>
      <Trouble error={review.error} />
    </section>
  );
}
