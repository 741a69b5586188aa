import type { Happened, Recorder } from "./recorder";
import { useLocalRecorder } from "./useLocalRecorder";
import { useServerRecorder } from "./useServerRecorder";

/** Who did on paper what is entered now, and when. */
export type Paper = { by: string; at: string };

/** By the tablet itself where it holds the run; else by the server. What one of them is asking is answered there. */
export function useRecorder(run: string, by: string, held: boolean, paper: Paper | null): Recorder {
  const server = useServerRecorder(run, by);
  const local = useLocalRecorder(run, by);
  const recorder = held && !server.busy && !server.question ? local : server;
  if (paper === null) return recorder;
  const record = (happened: Happened) =>
    recorder.record({ ...happened, by: paper.by, at_device: paper.at, from_paper: true });
  return { ...recorder, record };
}
