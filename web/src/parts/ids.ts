import { v7 } from "uuid";

/** An id made where the thing happened. */
export const newId = (): string => v7();

export const atDevice = (): string => new Date().toISOString();
