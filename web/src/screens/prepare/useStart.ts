import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, type Schemas } from "../../api/client";
import { atDevice, newId } from "../../parts/ids";

type Start = Omit<Schemas["Start"], "id" | "at_device" | "affirmed">;

/** Goes on with a run that has begun, with other tools. */
export function useRetool(run: string | null, tooling: Start["tooling"]) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async () => {
      const path = { params: { path: { run_id: run ?? "" } } };
      const now = await ask(api.GET("/api/runs/{run_id}/now", path));
      const body = { id: newId(), tooling, text: "", seq: now.seq, at_device: atDevice() };
      return ask(api.POST("/api/runs/{run_id}/retool", { ...path, body }));
    },
    onSuccess: async () => {
      await queries.invalidateQueries();
      navigate(`/runs/${run}`, { replace: true });
    },
  });
}

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
