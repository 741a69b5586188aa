import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { findQuery } from "../../api/queries";

type Props = { onFound: (spec: string, keys: number) => void };

/** The shop's own library; the keys that are pressed are counted. */
export function SearchDrill({ onFound }: Props) {
  const [typed, setTyped] = useState("");
  const [used, setUsed] = useState(0);
  const { data } = useQuery({
    ...findQuery({ asked: typed, machine: null, narrow: {} }),
    enabled: typed.trim() !== "",
    placeholderData: keepPreviousData,
  });
  const take = (spec: string) => {
    onFound(spec, used + 1);
    setTyped("");
    setUsed(0);
  };
  return (
    <div className="flex flex-col gap-2">
      <input
        type="search"
        className="input h-14 w-full text-xl"
        aria-label="search the library"
        value={typed}
        // biome-ignore lint/a11y/noAutofocus: the drill is to type here
        autoFocus
        onChange={(event) => {
          setTyped(event.target.value);
          setUsed(used + 1);
        }}
      />
      <p>{used} keys</p>
      <ul className="flex flex-col gap-2">
        {(typed.trim() === "" ? [] : (data?.hits ?? [])).slice(0, 8).map((hit) => (
          <li key={hit.spec}>
            <button
              type="button"
              className="btn min-h-14 w-full justify-start text-left"
              onClick={() => take(hit.spec)}
            >
              {hit.maker_model}: {hit.title}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
