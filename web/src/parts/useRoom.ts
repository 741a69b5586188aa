import { useQuery } from "@tanstack/react-query";
import { type Room, room } from "../core/storage";

/** How much room this tablet has for what is not sent yet; asked for again from time to time. */
export function useRoom(): Room | undefined {
  return useQuery({ queryKey: ["room"], queryFn: room, refetchInterval: 60_000, refetchOnMount: "always" }).data;
}
