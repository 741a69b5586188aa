import { useQueryClient } from "@tanstack/react-query";
import { api, ask, Problem } from "../api/client";
import { meQuery } from "../api/queries";
import { forgetAnswers } from "../core/kept";
import { forgetPicked, leaveLater } from "../core/me";
import { signWith } from "../core/pressKey";

/** Somebody else takes the tablet: to the door, and back to the same place. What is not sent yet stays on it. */
export function useSwitch(): () => Promise<void> {
  const queries = useQueryClient();
  return async () => {
    try {
      await ask(api.DELETE("/api/sessions"));
      await signWith(null);
      await forgetAnswers();
    } catch (error) {
      if (!(error instanceof Problem) || !error.away) throw error;
      await leaveLater(); // what was taken along stays: whoever comes next works with it
    }
    await forgetPicked();
    await queries.resetQueries({ queryKey: meQuery.queryKey });
  };
}
