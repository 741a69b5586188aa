import { useQuery } from "@tanstack/react-query";
import { FileSearch, ScanLine } from "lucide-react";
import { lazy, Suspense, useDeferredValue, useEffect, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { findQuery } from "../../api/queries";
import { Dock } from "../../parts/Dock";
import { NotSent } from "../../parts/NotSent";
import { pathOf } from "../../parts/scanned";
import { hitPath } from "../search/HitLine";
import { Results } from "../search/Results";
import { Dashboard } from "./Dashboard";

const Scanner = lazy(() => import("../../parts/Scanner").then((part) => ({ default: part.Scanner })));
/** A hand scanner types without a pause of this length. */
const TYPED_MS = 250;
const FACETS = ["system", "maker", "model", "year"];

/** One box, focused on arrival; below it what was found, or what stands open. */
export function DashboardScreen() {
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const machine = search.get("machine");
  const [asked, setAsked] = useState("");
  const [at, setAt] = useState(0);
  const [scanning, setScanning] = useState(false);
  const narrow = Object.fromEntries([...search].filter(([name]) => FACETS.includes(name)));
  const asking = { asked: useDeferredValue(asked), machine, narrow };
  const looking = asked.trim() !== "" || machine !== null || Object.keys(narrow).length > 0;
  const { data: found, error, isPlaceholderData } = useQuery({ ...findQuery(asking), enabled: looking });
  const [entered, setEntered] = useState(false);
  const stale = isPlaceholderData || asking.asked !== asked || !found;
  const goals = found
    ? [...found.hits.map((hit) => hitPath(hit, machine)), ...found.machines.map((m) => `/machines/${m.id}`)]
    : [];
  // What a hand scanner types when it reads a label, once it has typed all of it.
  useEffect(() => {
    const scanned = pathOf(asked);
    if (scanned === null) return;
    const typed = setTimeout(() => navigate(scanned), TYPED_MS);
    return () => clearTimeout(typed);
  }, [asked, navigate]);
  const onKey = (event: React.KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) {
      event.preventDefault();
      setAt((now) => Math.min(Math.max(now + step, 0), goals.length - 1));
    } else if (event.key === "Enter") setEntered(true);
    else if (event.key === "Escape") {
      setAsked("");
      setSearch({});
    }
  };
  // Enter means what was typed, not what was still shown for less of it.
  useEffect(() => {
    if (!entered || (looking && stale)) return;
    setEntered(false);
    if (goals[at]) navigate(goals[at]);
  }, [entered, looking, stale, goals, at, navigate]);
  return (
    <div className="flex h-dvh flex-col">
      <main className="mx-auto flex w-full max-w-5xl min-h-0 flex-1 flex-col gap-4 overflow-y-auto p-4">
        <h1 className="sr-only">Find and bay</h1>
        <input
          key={machine}
          // biome-ignore lint/a11y/noAutofocus: the box is what one arrives for
          autoFocus
          type="search"
          className="input w-full bg-base-100 min-h-16 text-2xl"
          placeholder={
            found?.machine ? `${found.machine.fleet_number}: which joint?` : "Machine, joint, stud … sb-04 rear"
          }
          aria-label="find a machine or a joint"
          value={asked}
          onChange={(event) => {
            setAsked(event.target.value);
            setAt(0);
          }}
          onKeyDown={onKey}
        />
        {scanning && (
          <Suspense fallback={null}>
            <Scanner onClose={() => setScanning(false)} />
          </Suspense>
        )}
        {!looking && !scanning && (
          <p className="flex flex-wrap gap-2">
            <button type="button" className="btn" onClick={() => setScanning(true)}>
              <ScanLine aria-hidden="true" size={22} /> Scan a label
            </button>
            <Link className="btn" to="/records">
              <FileSearch aria-hidden="true" size={22} /> Find a record
            </Link>
          </p>
        )}
        {looking ? (
          <Results
            found={found}
            error={error}
            asking={{ ...asking, asked }}
            fresh={!stale}
            at={at}
            onClear={() => setSearch({})}
            onNarrow={(chosen) => setSearch({ ...chosen, ...(machine ? { machine } : {}) })}
          />
        ) : (
          <Dashboard />
        )}
      </main>
      {/* At the bottom, so that the page above does not move when this line appears or disappears. */}
      <div className="border-base-300 bg-base-200 flex flex-wrap justify-center gap-2 border-t px-4 py-2 empty:hidden">
        <NotSent />
      </div>
      <Dock />
    </div>
  );
}
