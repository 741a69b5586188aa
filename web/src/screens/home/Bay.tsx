import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { bayQuery, machinesQuery } from "../../api/queries";
import { moment } from "../../parts/format";
import { Followups, Places } from "../../parts/Standing";
import { Trouble } from "../../parts/Trouble";

/** What must not move, what is unfinished, what is due. */
export function Bay() {
  const { data: bay, error } = useQuery(bayQuery);
  const { data: machines } = useQuery(machinesQuery);
  if (error) return <Trouble error={error} />;
  if (!bay || !machines) return <p aria-busy="true">One moment …</p>;
  return (
    <>
      <section aria-label="open work" className="flex flex-col gap-2">
        <h2 className="text-lg font-bold">In the bay</h2>
        {bay.attention.length === 0 ? <p>Nothing stands open.</p> : <Places places={bay.attention} />}
      </section>
      <section aria-label="follow-ups" className="flex flex-col gap-2">
        <h2 className="text-lg font-bold">Re-torque</h2>
        {bay.followups.length === 0 ? <p>Nothing is due.</p> : <Followups followups={bay.followups} />}
      </section>
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
      <p className="text-base-content/80 text-sm">
        {bay.last_backup
          ? `Last backup ${moment(bay.last_backup)}.`
          : "No backup yet. Run ./tight backup FILE on the computer that this runs on."}
      </p>
    </>
  );
}
