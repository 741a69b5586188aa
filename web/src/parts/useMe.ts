import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../api/client";
import { meQuery } from "../api/queries";

/** Who is signed in. Screens behind the door can rely on it. */
export function useMe(): Schemas["Me"] {
  const { data } = useQuery(meQuery);
  if (!data) throw new Error("nobody is signed in");
  return data;
}
