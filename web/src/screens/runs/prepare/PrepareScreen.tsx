import { Waiting } from "../../../parts/Waiting";
import { Prepare } from "./Prepare";
import { usePreparing } from "./usePreparing";

/** Before a run: the spec, the machine and the crib are read, and what the crib offers for the row that is looked at. */
export function PrepareScreen() {
  const { error, preparing } = usePreparing();
  return preparing ? <Prepare preparing={preparing} /> : <Waiting error={error} />;
}
