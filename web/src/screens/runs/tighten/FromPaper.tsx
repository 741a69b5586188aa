import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { moment } from "../../../parts/format";
import { useMe } from "../../../parts/useMe";
import type { Paper } from "./useRecorder";
import { WhoSelect } from "./WhoSelect";

type People = readonly Schemas["Person"][];

/** The run on paper: printed as it stands; and what was done with it, entered afterwards. */
export function FromPaper({ run, people, onPaper }: { run: string; people: People; onPaper: (paper: Paper) => void }) {
  const me = useMe();
  const [by, setBy] = useState(me.person.id);
  const [at, setAt] = useState("");
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        onPaper({ by, at: new Date(at).toISOString() });
      }}
    >
      <Link className="btn" to={`/runs/${run}/paper`}>
        Print it as it stands
      </Link>
      <WhoSelect label="done on paper by" people={people} value={by} onChange={setBy} />
      <label className="flex flex-col">
        <span className="text-sm">when it was done</span>
        <input
          type="datetime-local"
          className="input bg-base-100"
          value={at}
          onChange={(event) => setAt(event.target.value)}
        />
      </label>
      <button type="submit" className="btn btn-primary" disabled={!at}>
        Enter it now
      </button>
    </form>
  );
}

/** Says that what is pressed now was done before, on paper. */
export function OnPaper({ paper, people, onStop }: { paper: Paper; people: People; onStop: () => void }) {
  const name = people.find((person) => person.id === paper.by)?.name ?? "somebody";
  return (
    <p role="status" className="bg-info text-info-content rounded-box flex flex-wrap items-center gap-3 p-3 text-lg">
      <span className="flex-1">
        <b>From paper:</b> each press says what {name} did, ticked on paper at {moment(paper.at)}.
      </span>
      <button type="button" className="btn" onClick={onStop}>
        That was all of the paper
      </button>
    </p>
  );
}
