import { v7 } from "uuid";

/** An id made where the thing happened. */
export const newId = (): string => v7();

const DEVICE = "tight.device";

/** This tablet's id and name, made once and kept. */
export function thisDevice(): { id: string; name: string } {
  const kept = localStorage.getItem(DEVICE);
  if (kept) return JSON.parse(kept) as { id: string; name: string };
  const id = newId();
  const device = { id, name: `tablet ${id.slice(-4)}` };
  localStorage.setItem(DEVICE, JSON.stringify(device));
  return device;
}

export const atDevice = (): string => new Date().toISOString();
