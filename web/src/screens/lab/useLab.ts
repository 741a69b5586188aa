import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { useLocation, useSearchParams } from "react-router";
import { labQuery } from "../../api/queries";
import { tabletCore } from "../../core/tabletCore";

const OF_A_SPEC = ["spec", "procedure"];
/** The address follows when a knob rests: while it is dragged, the drawing alone does. */
const RESTS_MS = 250;

/** A page of the lab: what its knobs say comes to stand in the address, so that a link brings it back. */
export function useLab(page: string) {
  const [said, say] = useSearchParams();
  const { pathname } = useLocation();
  const [turned, setTurned] = useState<Readonly<Record<string, string>> | null>(null);
  const here = useSyncExternalStore(tabletCore.watch, () => tabletCore.isReady);
  const inAddress = Object.fromEntries([...said].filter(([name]) => !OF_A_SPEC.includes(name)));
  const values = turned ?? inAddress;
  const written = turned !== null && isSame(turned, inAddress);
  const [spec, procedure] = [said.get("spec"), said.get("procedure") ?? ""];
  const { data, error } = useQuery({
    ...labQuery(page, { values, spec, procedure }, here),
    placeholderData: keepPreviousData,
  });
  useEffect(() => {
    if (written) setTurned(null);
    if (!turned || written) return;
    const next = { ...(spec ? { spec, procedure } : {}), ...turned };
    const timer = setTimeout(() => {
      // Somebody who has gone on to another page is not brought back.
      if (window.location.pathname === pathname) say(next, { replace: true });
    }, RESTS_MS);
    return () => clearTimeout(timer);
  }, [turned, written, spec, procedure, pathname, say]);
  const turn = (name: string, value: string, resets: readonly string[] = []) => {
    const kept = Object.entries(values).filter(([each]) => !resets.includes(each));
    setTurned({ ...Object.fromEntries(kept), [name]: value });
  };
  const begin = () => setTurned({});
  return { data: data?.name === page ? data : undefined, error, turn, begin };
}

function isSame(these: Readonly<Record<string, string>>, those: Readonly<Record<string, string>>): boolean {
  const names = Object.keys(these);
  return names.length === Object.keys(those).length && names.every((name) => these[name] === those[name]);
}
