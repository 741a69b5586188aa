import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { dashboardQuery, machinesQuery } from "../../api/queries";
import { BayLines } from "../../parts/BayLines";
import { clock, moment } from "../../parts/format";
import { NoticeStrip } from "../../parts/NoticeStrip";
import { Trouble } from "../../parts/Trouble";
import { Tonight } from "../tools/Tonight";

/** What must not move, what is unfinished, what is due. */
export function Dashboard() {
  const { data: bay, error } = useQuery(dashboardQuery);
  const { data: machines } = useQuery(machinesQuery);
  if (error) return <Trouble error={error} />;
  if (!bay || !machines) return <p aria-busy="true">One moment …</p>;
  const needed = bay.bay.filter((line) => line.state !== "to come");
  const toCome = bay.bay.filter((line) => line.state === "to come");
  return (
    <>
      {bay.verified?.finding && (
        <Link to="/records" className="bg-error text-error-content block p-3 font-bold">
          The ledger does not fit its checkpoints: somebody changed it. Look at what proves it.
        </Link>
      )}
      <section aria-label="open work" className="flex flex-col gap-2">
        <h2 className="flex flex-wrap items-baseline gap-x-4 text-lg font-bold">
          In the bay
          {bay.shift && (
            <span className="text-base-content/80 text-base font-normal">
              {bay.shift} shift{bay.shift_ends && `, until ${clock(bay.shift_ends)}`}
            </span>
          )}
        </h2>
        {needed.length === 0 ? <p>Nothing stands open. Nothing is due.</p> : <BayLines lines={needed} />}
      </section>
      {bay.notices.length > 0 && (
        <section aria-label="notices" className="flex flex-col gap-2">
          <h2 className="text-lg font-bold">Notices</h2>
          <NoticeStrip notices={bay.notices} />
        </section>
      )}
      {toCome.length > 0 && (
        <section aria-label="follow-ups to come" className="flex flex-col gap-2">
          <h2 className="text-lg font-bold">Re-torque, to come</h2>
          <BayLines lines={toCome} />
        </section>
      )}
      <Tonight />
      {bay.to_check.length > 0 && (
        <section aria-label="to check" className="flex flex-col gap-2">
          <h2 className="text-lg font-bold">Specs that wait for a second person</h2>
          <ul>
            {bay.to_check.map((waiting) => (
              <li key={`${waiting.spec}${waiting.revision}`} className="border-base-300 border-b">
                <Link className="block py-3" to={`/specs/${waiting.spec}?revision=${waiting.revision}`}>
                  <b>{waiting.title}</b>, {waiting.maker_model}, revision {waiting.revision}
                  {waiting.entered_by && `, entered by ${waiting.entered_by}`}
                  {waiting.used > 0 && ` · worked to ${waiting.used === 1 ? "once" : `${waiting.used} times`} already`}
                </Link>
              </li>
            ))}
          </ul>
          {bay.to_check_in_all > bay.to_check.length && <p>and {bay.to_check_in_all - bay.to_check.length} more</p>}
        </section>
      )}
      <section aria-label="machines" className="flex flex-col gap-2">
        <h2 className="text-lg font-bold">Machines</h2>
        <div className="flex flex-wrap gap-2">
          {machines.map((machine) => (
            <Link key={machine.id} className="btn bg-base-100 border-base-content/40" to={`/?machine=${machine.id}`}>
              <b>{machine.fleet_number}</b>
              <span className="text-sm">{machine.what || machine.model}</span>
            </Link>
          ))}
          <Link className="btn btn-ghost" to="/add/machine">
            Add a machine
          </Link>
        </div>
      </section>
      <section aria-label="library" className="flex flex-wrap gap-2">
        <h2 className="w-full text-lg font-bold">Specs</h2>
        <Link className="btn" to="/add/spec">
          Enter one from a document
        </Link>
        <Link className="btn" to="/add/file">
          Files: in and out
        </Link>
      </section>
      <p className="text-base-content/80 text-sm">
        {bay.little_room_mb != null && (
          <b className="bg-warning text-warning-content px-2">Only {bay.little_room_mb} MB are free. Make room. </b>
        )}
        {bay.last_backup
          ? `Last backup made and tried ${moment(bay.last_backup)}.`
          : "No backup yet. Run ./tight backup FILE on the computer that this runs on."}{" "}
        {bay.verified ? `The ledger was verified ${moment(bay.verified.at)}.` : "The ledger was never verified."}
      </p>
    </>
  );
}
