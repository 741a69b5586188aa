import { useQuery } from "@tanstack/react-query";
import { address } from "../../api/addresses";
import { useCommand } from "../../api/command";
import { tonightQuery, touched } from "../../api/queries";
import { Trouble } from "../../parts/Trouble";

/** The spring wrenches that were used today and wait to be put at their lowest mark. */
export function Tonight() {
  const { data: left } = useQuery(tonightQuery);
  const away = useCommand({
    body: ({ id }, _: string) => ({ id }),
    to: (tool_id: string) => address("/api/tools/{tool_id}/away", { path: { tool_id } }),
    changes: touched.tools,
  });
  if (!left || left.length === 0) return null;
  return (
    <section aria-label="before you go" className="flex flex-col gap-2">
      <h2 className="text-lg font-bold">Before you go: at the lowest mark</h2>
      <ul className="flex flex-wrap gap-2">
        {left.map((reading) => (
          <li key={reading.id}>
            <button type="button" className="btn h-auto py-2" onClick={() => away.press(reading.id)}>
              <b>{reading.name}</b> stands at {reading.lowest}
            </button>
          </li>
        ))}
      </ul>
      <Trouble error={away.error} />
    </section>
  );
}
