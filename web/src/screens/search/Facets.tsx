import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import type { Schemas } from "../../api/client";
import { type Asking, facetsQuery } from "../../api/queries";

type Props = {
  asking: Asking;
  found: Schemas["SearchAnswer"];
  fresh: boolean;
  onNarrow: (narrow: Record<string, string>) => void;
};

const FEWEST_TO_NARROW = 8;

/** Ways to narrow what was found, as words beside the hits or below them; each says how many it leaves. Asked once the hits are there: the server goes on from them. */
export function Facets({ asking, found, fresh, onNarrow }: Props) {
  const worth = found.more || found.hits.length >= FEWEST_TO_NARROW || Object.keys(asking.narrow).length > 0;
  const { data: facets } = useQuery({ ...facetsQuery(asking), enabled: fresh && worth });
  const chosen = Object.entries(asking.narrow).filter(([name]) => name !== "maker" || !asking.narrow.model);
  if (!facets || !worth) return null;
  const { narrow } = asking;
  const lines = [
    { name: "system", values: facets.systems },
    { name: "maker", values: facets.makers },
    { name: "model", values: facets.models },
    { name: "year", values: facets.years },
  ].filter((line) => !narrow[line.name] && line.values.length > 1);
  return (
    <section aria-label="narrow" className="flex flex-col gap-1">
      <p className="flex flex-wrap items-center gap-2">
        {chosen.map(([name, value]) => (
          <button
            key={name}
            type="button"
            className="btn btn-primary"
            onClick={() => onNarrow(without(narrow, name === "model" ? ["model", "maker"] : [name]))}
          >
            {name === "model" ? `${narrow.maker} ${value}` : value} <X aria-label="no longer" size={20} />
          </button>
        ))}
        <span>{facets.all ? `${facets.counted} fit` : `more than ${facets.counted} fit`}</span>
      </p>
      {lines.map((line) => (
        <p key={line.name} className="flex flex-wrap items-baseline gap-x-1">
          <span className="text-base-content/80 w-16 text-sm">{line.name}</span>
          {line.values.map((each) => (
            <button
              key={`${each.maker}${each.value}`}
              type="button"
              className="hover:bg-base-300 rounded-field min-h-12 px-2 underline decoration-dotted underline-offset-4"
              onClick={() =>
                onNarrow({ ...narrow, [line.name]: each.value, ...(each.maker ? { maker: each.maker } : {}) })
              }
            >
              {each.maker} {each.value} <span className="text-base-content/80 text-sm">{each.count}</span>
            </button>
          ))}
        </p>
      ))}
    </section>
  );
}

function without(narrow: Record<string, string>, names: string[]): Record<string, string> {
  return Object.fromEntries(Object.entries(narrow).filter(([name]) => !names.includes(name)));
}
