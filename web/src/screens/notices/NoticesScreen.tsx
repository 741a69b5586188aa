import { useQuery } from "@tanstack/react-query";
import { noticesQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { Waiting } from "../../parts/Waiting";
import { NoticeLine } from "./NoticeLine";

/** What happened elsewhere and bears on work that was done: each a list that is worked off place by place. */
export function NoticesScreen() {
  const { data: notices, error } = useQuery(noticesQuery(null));
  if (!notices) return <Waiting error={error} />;
  return (
    <Frame title="Notices and recalls">
      <div className="mx-auto flex max-w-4xl flex-col gap-6 p-4">
        {notices.length === 0 && <p className="text-lg">Nothing that was done is in doubt.</p>}
        {notices.map((notice) => (
          <NoticeLine key={notice.id} notice={notice} />
        ))}
      </div>
    </Frame>
  );
}
