import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { rightsQuery, signInQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { useMe } from "../../parts/useMe";
import { Waiting } from "../../parts/Waiting";
import { PersonLine } from "./PersonLine";

/** Who works here, and who may do what. */
export function PeopleScreen() {
  const me = useMe();
  const { data: door } = useQuery(signInQuery);
  const { data: rights, error } = useQuery(rightsQuery);
  if (!rights || !door) return <Waiting error={error} />;
  return (
    <Frame title="People">
      <div className="mx-auto grid max-w-6xl gap-8 p-4 lg:grid-cols-2">
        <section aria-label="people" className="flex flex-col gap-4 self-start">
          <ul>
            {door.people.map((person) => (
              <PersonLine key={person.id} person={person} />
            ))}
          </ul>
          {me.rights.includes("people") && (
            <Link className="btn btn-primary self-start" to="/add/person">
              Put somebody on the list
            </Link>
          )}
        </section>
        <RightsTable rights={rights} />
      </div>
    </Frame>
  );
}

function RightsTable({ rights }: { rights: readonly Schemas["RightLine"][] }) {
  return (
    <table className="self-start text-left">
      <caption className="pb-2 text-left text-lg font-bold">Who may do what</caption>
      <tbody>
        {rights.map((line) => (
          <tr key={line.right} className="border-base-300 border-b">
            <th scope="row" className="py-2 pr-4 font-normal">
              {line.words}
            </th>
            <td className="font-bold">{line.roles.join(", ")}</td>
          </tr>
        ))}
        <tr>
          <th scope="row" className="py-2 pr-4 font-normal">
            read everything, verify the ledger
          </th>
          <td className="font-bold">everybody, an auditor too</td>
        </tr>
      </tbody>
    </table>
  );
}
