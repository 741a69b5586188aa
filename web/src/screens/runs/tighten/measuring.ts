/** The part of the run's screen that measures and adjusts; it comes when it is needed first. */
export { TriesPicture } from "../../../parts/TriesPicture";
export { AdjustKeys } from "./AdjustKeys";
export { AdjustPanel } from "./AdjustPanel";
export { MeasureKeys } from "./MeasureKeys";
export { GaugePicture, MeasurePanel } from "./MeasurePanel";
