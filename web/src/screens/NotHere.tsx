import { Link, useLocation } from "react-router";
import { Frame } from "../parts/Frame";

/** An address that leads to no screen. */
export function NotHere() {
  const { pathname } = useLocation();
  return (
    <Frame title="Not here">
      <div className="mx-auto flex max-w-xl flex-col gap-4 p-6">
        <p className="text-xl">
          Nothing stands at <b>{pathname}</b>. The link may be old, or a letter is missing.
        </p>
        <p className="flex flex-wrap gap-2">
          <Link className="btn btn-primary" to="/">
            To the start
          </Link>
          <Link className="btn" to="/crib">
            To the crib
          </Link>
        </p>
      </div>
    </Frame>
  );
}
