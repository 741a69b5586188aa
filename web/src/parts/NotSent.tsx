import { CloudOff } from "lucide-react";
import { useUnsent } from "../core/useUnsent";

/** What is on this tablet only, as long as there is anything; and that the server is away. */
export function NotSent() {
  const { unsent, away } = useUnsent();
  if (unsent === 0 && !away) return null;
  return (
    <p
      role="status"
      className={`flex items-center gap-2 px-2 ${away ? "bg-warning text-warning-content rounded-box" : ""}`}
    >
      {away && <CloudOff aria-hidden="true" size={20} />}
      <span>
        {away && "The server is away. "}
        <b>Not sent yet: {unsent}</b>
      </span>
    </p>
  );
}
