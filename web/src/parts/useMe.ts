import { useQuery } from "@tanstack/react-query";
import { meQuery } from "../api/queries";
import type { Me } from "../core/me";

/** Who is signed in. Screens behind the door can rely on it. */
export function useMe(): Me {
  const { data } = useQuery(meQuery);
  if (!data) throw new Error("nobody is signed in");
  return data;
}
