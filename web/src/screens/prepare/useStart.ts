import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, type Schemas } from "../../api/client";
import { atDevice, newId } from "../../parts/ids";

type Start = Omit<Schemas["Start"], "id" | "at_device" | "affirmed">;

/** Starts the run; the same run however often the key is pressed. What was asked is sent again with the answer. */
export function useStart(body: Start) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [runId] = useState(newId);
  return useMutation({
    mutationFn: (affirmed: string[]) =>
      ask(api.POST("/api/runs", { body: { ...body, id: runId, at_device: atDevice(), affirmed } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      navigate(`/runs/${runId}`, { replace: true });
    },
  });
}
