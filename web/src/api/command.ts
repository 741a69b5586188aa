import { type QueryKey, useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { atDevice, newId } from "../parts/ids";
import { Problem } from "./client";

/** What a press is known by, made when it happens: its id and its moment. */
export type Pressed = { id: string; at_device: string };

type Command<Input, Body, Answer> = {
  /** What is sent, put together at the press and kept as it is, however often it is sent. */
  body: (pressed: Pressed, input: Input) => Body;
  send: (body: Body, input: Input) => Promise<Answer>;
  /** After it is on file. What is on screen is read again first. */
  done?: (answer: Answer, input: Input) => unknown;
  refused?: () => void;
  /** What is read again; everything, if not said. */
  changes?: QueryKey;
};

/** A command on its way, as the screen stood when it was pressed. */
type Sent<Input, Body, Answer> = { body: Body; input: Input; as: Command<Input, Body, Answer> };

/** The same but for what the press itself and its moment bring along. */
const NOT_SAID = new Set(["id", "at_device", "seq"]);

/**
 * One press, one command. Whatever is lost on the way, it is sent again with the id of its press; and the same key
 * pressed again while no answer came is the same command.
 */
export function useCommand<Input, Body, Answer>(command: Command<Input, Body, Answer>) {
  const queries = useQueryClient();
  const unanswered = useRef<{ said: string; body: Body } | null>(null);
  const sent = useMutation({
    mutationFn: ({ body, input, as }: Sent<Input, Body, Answer>) => as.send(body, input),
    onSuccess: async (answer, { input, as }) => {
      unanswered.current = null;
      await queries.invalidateQueries(as.changes ? { queryKey: as.changes } : {});
      as.done?.(answer, input);
    },
    onError: (error, { as }) => {
      if (error instanceof Problem && error.away) return;
      unanswered.current = null;
      as.refused?.();
    },
  });
  const press = (input: Input) => {
    const body = command.body({ id: newId(), at_device: atDevice() }, input);
    const said = JSON.stringify([input, body], (key, value) => (NOT_SAID.has(key) ? undefined : value));
    if (unanswered.current?.said === said) {
      if (sent.isPending) return;
    } else {
      unanswered.current = { said, body };
    }
    sent.mutate({ body: unanswered.current.body, input, as: command });
  };
  const { isPending, error, data, reset } = sent;
  return { press, isPending, error, data, reset };
}
