import { useQuery } from "@tanstack/react-query";
import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { tabletsQuery, touched } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { moment } from "../../parts/format";
import { Sure } from "../../parts/Sure";
import { Trouble } from "../../parts/Trouble";
import { useMe } from "../../parts/useMe";
import { Waiting } from "../../parts/Waiting";

/** The tablets on which people sign in. */
export function TabletsScreen() {
  const { data: tablets, error } = useQuery(tabletsQuery);
  if (!tablets) return <Waiting error={error} />;
  return (
    <Frame title="Tablets">
      <div className="mx-auto flex max-w-xl flex-col gap-4 p-6">
        <p>
          People sign in only on a tablet that a lead or a keeper has introduced, at its own door. Wrong PINs on one
          make nobody wait on another.
        </p>
        <ul>
          {tablets.map((tablet) => (
            <TabletLine key={tablet.id} tablet={tablet} />
          ))}
        </ul>
      </div>
    </Frame>
  );
}

function TabletLine({ tablet }: { tablet: Schemas["Tablet"] }) {
  const me = useMe();
  const lose = useCommand({
    body: ({ id }) => ({ id }),
    to: address("/api/tablets/{tablet_id}/lost", { path: { tablet_id: tablet.id } }),
    changes: touched.tablets,
  });
  return (
    <li className="border-base-300 flex flex-wrap items-center justify-between gap-3 border-b py-2">
      <span>
        <b>{tablet.name}</b> since {moment(tablet.since)}
        {tablet.id === me.device && " · this one"}
      </span>
      {tablet.lost ? (
        <span>lost or sold</span>
      ) : (
        me.rights.includes("introduce") && (
          <Sure
            say="Lost or sold"
            ask={`Nobody signs in on ${tablet.name} any more. Lost?`}
            onSure={() => lose.press(undefined)}
          />
        )
      )}
      <Trouble error={lose.error} />
    </li>
  );
}
