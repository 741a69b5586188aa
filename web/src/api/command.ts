import { type QueryKey, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { atDevice, newId } from "../parts/ids";
import type { Address, AnswerOf, BodyOf } from "./addresses";
import { Problem } from "./client";
import { type Kept, outbox } from "./outbox";
import { meQuery } from "./queries";
import type { paths } from "./schema";
import { useDelivery } from "./useDelivery";

/** What a press is known by, made when it happens: its id and its moment. */
export type Pressed = { id: string; at_device: string };

type Command<P extends keyof paths, Input> = {
  to: Address<P> | ((input: Input) => Address<P>);
  method?: Kept["method"];
  /** What is sent, put together at the press and kept as it is, however often it is sent. */
  body: (pressed: Pressed, input: Input) => BodyOf<P>;
  /** What goes to the server before it: a photo. Such a command is not kept over a reload. */
  before?: (pressed: Pressed, input: Input) => Promise<unknown>;
  /** Not written down on the tablet: it holds a PIN. */
  secret?: boolean;
  /** The screen that finds it again after a reload, and waits for the answer to a question. */
  scope?: string;
  /** What is read again once it is on file. */
  changes: readonly QueryKey[];
  done?: (answer: AnswerOf<P>, body: BodyOf<P>) => unknown;
  refused?: (error: unknown) => void;
};

/**
 * One press, one command. Whatever is lost on the way, it is sent again with the id of its press; and the same key pressed
 * again while no answer came sends the same command.
 */
export function useCommand<P extends keyof paths, Input>(command: Command<P, Input>) {
  const queries = useQueryClient();
  const delivery = useDelivery<AnswerOf<P>>({
    done: async (answer, sent) => {
      await Promise.all(command.changes.map((queryKey) => queries.invalidateQueries({ queryKey })));
      await command.done?.(answer, sent.body as BodyOf<P>);
    },
    refused: (error) => {
      if (error instanceof Problem && error.status === 401) queries.invalidateQueries({ queryKey: meQuery.queryKey });
      command.refused?.(error);
    },
  });
  const { kept, unsent, error, data, send, drop } = delivery;
  const asks = error instanceof Problem && error.ask !== null;
  const press = async (input: Input) => {
    if (kept && !asks) {
      if (unsent) await send(kept);
      return;
    }
    const pressed = { id: newId(), at_device: atDevice() };
    const address = typeof command.to === "function" ? command.to(input) : command.to;
    const body = command.body(pressed, input);
    const next: Kept = {
      ...pressed,
      method: command.method ?? "POST",
      address,
      body,
      scope: command.scope ?? "",
      at: pressed.at_device,
    };
    await delivery.press(next, async () => {
      await command.before?.(pressed, input);
      if (!command.secret) await outbox.put(next);
    });
  };
  /** Send what is kept once more, with the answer to what the server asked. */
  const again = useCallback(
    (change: (body: BodyOf<P>) => BodyOf<P>) => {
      if (!kept) return;
      const next = { ...kept, body: change(kept.body as BodyOf<P>) };
      delivery.press(next, () => outbox.put(next));
    },
    [kept, delivery.press],
  );
  return {
    press,
    again,
    drop,
    send,
    kept,
    data,
    /** On its way; the key is pale, and works again once it is known that the server is away. */
    isPending: kept !== null && unsent === null && error === null,
    /** It could not be delivered yet, and is kept. */
    unsent,
    /** What was refused or asked; else why it could not be delivered yet. */
    error: error ?? unsent,
  };
}
