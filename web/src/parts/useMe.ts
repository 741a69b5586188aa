import { createContext, useContext } from "react";
import type { Me } from "../core/me";

/** Who is at the tablet. Given by whoever draws the screens behind the door, so that all of them see the same person. */
export const Somebody = createContext<Me | null>(null);

/** Who is signed in. Screens behind the door can rely on it. */
export function useMe(): Me {
  const me = useContext(Somebody);
  if (!me) throw new Error("nobody is signed in");
  return me;
}
