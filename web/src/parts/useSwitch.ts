import { useQueryClient } from "@tanstack/react-query";
import { api } from "../api/client";
import { meQuery } from "../api/queries";
import { forgetAnswers } from "../core/kept";

/** Somebody else takes the tablet: to the door, and back to the same place. */
export function useSwitch(): () => Promise<void> {
  const queries = useQueryClient();
  return async () => {
    await api.DELETE("/api/sessions");
    await forgetAnswers();
    await queries.resetQueries({ queryKey: meQuery.queryKey });
  };
}
