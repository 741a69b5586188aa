import { Megaphone } from "lucide-react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";

/** Notices that are not worked off, a line each. */
export function NoticeStrip({ notices }: { notices: readonly Schemas["NoticeNow"][] }) {
  return (
    <ul className="flex flex-col gap-2">
      {notices.map((notice) => (
        <li key={notice.id}>
          <Link
            to="/notices"
            className="bg-warning text-warning-content rounded-box flex min-h-14 items-center gap-4 p-3"
          >
            <Megaphone aria-hidden="true" size={28} className="shrink-0" />
            <span className="min-w-0 flex-1">
              <b className="block">
                {notice.kind}: {notice.about}
              </b>
              {notice.left} of {notice.places.length} places left. {notice.remedy}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  );
}
