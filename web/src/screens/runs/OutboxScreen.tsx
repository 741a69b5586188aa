import { useQuery } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import { Link } from "react-router";
import { isWaiting, type Kept, outbox } from "../../api/outbox";
import { alongQuery } from "../../api/queries";
import type { Along } from "../../core/along";
import { courier } from "../../core/courier";
import { tabletCore } from "../../core/tabletCore";
import { useUnsent } from "../../core/useUnsent";
import { Frame } from "../../parts/Frame";
import { moment } from "../../parts/format";
import { useRoom } from "../../parts/useRoom";

const RUN = /^run\/(.+)$/;
const MOST_SENT = 50;
let seen: readonly Kept[] = [];
/** The same list as long as nothing changed, so that it can be compared. */
const everything = () => {
  const all = outbox.all();
  if (all.length !== seen.length || all.some((kept, place) => kept !== seen[place])) seen = all;
  return seen;
};

/** Everything that happened on this tablet and is not safe elsewhere yet: what, when, and how far it is. */
export function OutboxScreen() {
  const all = useSyncExternalStore(outbox.watch, everything);
  const { away } = useUnsent();
  const waiting = all.filter((kept) => isWaiting(kept));
  const refused = all.filter((kept) => kept.state === "refused");
  const sent = all.filter((kept) => kept.state === "sent");
  return (
    <Frame title="On this tablet">
      <div className="mx-auto flex max-w-4xl flex-col gap-6 p-4">
        <section aria-label="not sent yet" className="flex flex-col gap-2">
          <h2 className="text-lg font-bold">Not sent yet: {waiting.length}</h2>
          {waiting.length === 0 && <p>Everything has reached the server.</p>}
          <Lines kept={waiting} />
          {waiting.length > 0 && (
            <button type="button" className="btn self-start" onClick={() => courier.wake()}>
              {away ? "Try now" : "Send now"}
            </button>
          )}
        </section>
        {refused.length > 0 && (
          <section aria-label="refused" className="flex flex-col gap-2">
            <h2 className="text-lg font-bold">Refused by the server: {refused.length}</h2>
            <Lines kept={refused} />
          </section>
        )}
        <section aria-label="sent" className="flex flex-col gap-2">
          <h2 className="text-lg font-bold">Sent, kept here until a backup holds it: {sent.length}</h2>
          <Lines kept={sent.slice(-MOST_SENT).reverse()} />
        </section>
        <TakenAlong />
        <Storage />
      </div>
    </Frame>
  );
}

function Lines({ kept }: { kept: readonly Kept[] }) {
  return (
    <ul>
      {kept.map((each) => (
        <li key={each.id} className="border-base-300 flex flex-wrap items-center gap-x-4 gap-y-1 border-b py-2">
          <span className="w-32">{moment(each.at)}</span>
          <span className="flex-1">
            {each.what ?? "a change that another screen made"}
            {each.why && <b className="block">{each.why}</b>}
            {each.again && <span className="block">goes again: the server was restored and does not know it</span>}
          </span>
          {RUN.test(each.scope) && (
            <Link className="link" to={`/runs/${each.scope.replace(RUN, "$1")}`}>
              the run
            </Link>
          )}
          {each.state === "refused" && (
            <button type="button" className="btn" onClick={() => outbox.remove(each.id)}>
              I have seen it<span className="sr-only">: {each.what}</span>
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

const partsOf = (along: Along, kind: string) =>
  Object.keys(along.parts).filter((name) => name.startsWith(`${kind}/`)).length;

function TakenAlong() {
  const { data: along } = useQuery(alongQuery);
  const core = useSyncExternalStore(tabletCore.watch, () => tabletCore.core);
  return (
    <section aria-label="taken along" className="flex flex-col gap-1">
      <h2 className="text-lg font-bold">Taken along, to work without the server</h2>
      {along ? (
        <p>
          {partsOf(along, "machine")} machines and {partsOf(along, "spec")} specs, the crib with them, as they were on{" "}
          {moment(along.at)}.{core && ` Judged by core ${core.slice(0, 8)}.`}
          {along.left_out > 0 && ` ${along.left_out} machines of the fleet are not among them.`}
        </p>
      ) : (
        <p>Nothing yet: the tablet is still getting ready.</p>
      )}
    </section>
  );
}

const megabytes = (mb: number) => `${Math.round(mb).toLocaleString("en-GB")} MB`;

function Storage() {
  const room = useRoom();
  if (!room) return null;
  return (
    <section aria-label="room" className="flex flex-col gap-1">
      <h2 className="text-lg font-bold">Room on this tablet</h2>
      {room.of_mb > 0 && (
        <p>
          {megabytes(room.used_mb)} of {megabytes(room.of_mb)} are used.
          {room.little && <b> That is nearly full.</b>}
        </p>
      )}
      <p>
        {room.lasting
          ? "The browser keeps it until it is sent."
          : "The browser does not promise to keep it. Install the application on this tablet, and send soon."}
      </p>
    </section>
  );
}
