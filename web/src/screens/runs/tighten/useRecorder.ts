import type { Recorder } from "./recorder";
import { useLocalRecorder } from "./useLocalRecorder";
import { useServerRecorder } from "./useServerRecorder";

/** By the tablet itself where it holds the run; else by the server. What one of them is asking is answered there. */
export function useRecorder(run: string, by: string, held: boolean): Recorder {
  const server = useServerRecorder(run, by);
  const local = useLocalRecorder(run, by);
  return held && !server.busy && !server.question ? local : server;
}
