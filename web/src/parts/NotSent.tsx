import { CloudOff, KeyRound } from "lucide-react";
import { Link } from "react-router";
import { useUnsent } from "../core/useUnsent";
import { useMe } from "./useMe";
import { useRoom } from "./useRoom";
import { useSwitch } from "./useSwitch";

/** What is on this tablet only, as long as there is anything; that the server is away. */
export function Unsent() {
  const { unsent, away } = useUnsent();
  const room = useRoom();
  return (
    <>
      {(unsent > 0 || away) && (
        <p role="status">
          <Link
            to="/outbox"
            className={`flex min-h-12 items-center gap-2 px-2 ${away ? "bg-warning text-warning-content rounded-box" : ""}`}
          >
            {away && <CloudOff aria-hidden="true" size={20} />}
            <span>
              {away && "The server is away. "}
              <b>Not sent yet: {unsent}</b>
            </span>
          </Link>
        </p>
      )}
      {room?.little && (
        <p role="alert" className="bg-warning text-warning-content rounded-box px-2 py-1">
          This tablet is nearly full. Send what waits, and make room.
        </p>
      )}
    </>
  );
}

/** The same for whoever is at the tablet; and that they still owe their PIN. */
export function NotSent() {
  const { away } = useUnsent();
  const me = useMe();
  const leave = useSwitch();
  return (
    <>
      <Unsent />
      {me.unproven && !away && (
        <button type="button" className="btn btn-warning gap-2" onClick={leave}>
          <KeyRound aria-hidden="true" size={20} /> The server is back: your PIN, {me.person.name}
        </button>
      )}
    </>
  );
}
