import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { asideMishapValues } from "../../api/values";
import { ReasonForm } from "../../parts/ReasonForm";
import { Trouble } from "../../parts/Trouble";
import { useMe } from "../../parts/useMe";

type Props = { file: Schemas["ToolFile"]; id: string };

/** One tap sets a tool aside; only a lead's word brings it back. */
export function SetAside({ file, id }: Props) {
  const me = useMe();
  const params = { path: { tool_id: id } };
  const aside = useCommand({
    body: (pressed, mishap: Schemas["Aside"]["mishap"]) => ({ id: pressed.id, mishap, text: "" }),
    to: address("/api/tools/{tool_id}/aside", params),
    changes: touched.tools,
  });
  const clear = useCommand({
    body: (pressed, text: string) => ({ id: pressed.id, text, run: null }),
    to: address("/api/tools/{tool_id}/clear", params),
    changes: touched.tools,
  });
  if (file.care?.standing === "quarantined") {
    return (
      <section aria-label="set aside" className="border-error flex flex-col gap-3 border-l-8 pl-4">
        <p className="text-lg">It is not offered for any run until a lead says that it may be used again.</p>
        {me.rights.includes("clear_tool") && (
          <ReasonForm label="why it may be used again" action="Use it again, as lead" onGive={clear.press} />
        )}
        <Trouble error={clear.error} />
      </section>
    );
  }
  return (
    <section aria-label="set it aside" className="flex flex-col gap-2">
      <h2 className="text-lg font-bold">Something happened to it?</h2>
      <div className="flex flex-wrap gap-2">
        {asideMishapValues.map((mishap) => (
          <button key={mishap} type="button" className="btn" onClick={() => aside.press(mishap)}>
            {mishap === "other" ? "Something else" : mishap.replace(/^./, (first) => first.toUpperCase())}
          </button>
        ))}
      </div>
      <Trouble error={aside.error} />
    </section>
  );
}
