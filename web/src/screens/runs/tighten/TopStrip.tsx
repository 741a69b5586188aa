import { ArrowLeft, Flag, UserRound, Volume2, VolumeX } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { Ask } from "../../../parts/Ask";
import { setSound, soundOn } from "../../../parts/feedback";
import { NotSent } from "../../../parts/NotSent";
import { useSwitch } from "../../../parts/useSwitch";
import { WhoSelect } from "./WhoSelect";

type Props = {
  sheet: Schemas["RunSheet"];
  tool: Schemas["InHand"] | null;
  people: readonly Schemas["Person"][];
  by: string;
  onBy: (id: string) => void;
  onEnd: () => void;
  /** The page of the guide that helps now. */
  guide: string;
};

/** Which wheel of which machine, with which wrench, in whose hands; and the way out. */
export function TopStrip({ sheet, tool, people, by, onBy, onEnd, guide }: Props) {
  const leave = useSwitch();
  const [sound, setOn] = useState(soundOn);
  return (
    <header className="border-base-300 flex flex-wrap items-center gap-2 border-b px-2 py-1 max-sm:gap-1">
      <Link className="btn btn-ghost btn-square" aria-label="back to the machine" to={`/machines/${sheet.machine.id}`}>
        <ArrowLeft aria-hidden="true" />
      </Link>
      <h1 className="flex-1 text-2xl font-bold whitespace-nowrap max-sm:text-lg">
        {sheet.machine.fleet_number} <span className="text-primary">{sheet.position_words}</span>
      </h1>
      <Link
        className="link text-base-content/80 hidden lg:block"
        aria-label="take another wrench"
        to={`/specs/${sheet.spec}/prepare?machine=${sheet.machine.id}&procedure=${sheet.procedure}&place=${sheet.position.axle}/${sheet.position.side ?? ""}/${sheet.position.place}&retool=${sheet.run}`}
      >
        {tool?.wrench.name ?? "no wrench"}
        {tool?.on_its_end && <span className="block text-sm">{tool.on_its_end}</span>}
      </Link>
      <NotSent />
      <WhoSelect label="pulls" beside people={people} value={by} onChange={onBy} />
      <button
        type="button"
        className="btn btn-ghost btn-square max-sm:hidden"
        aria-label={sound ? "sound off" : "sound on"}
        onClick={() => {
          setSound(!sound);
          setOn(!sound);
        }}
      >
        {sound ? <Volume2 aria-hidden="true" /> : <VolumeX aria-hidden="true" />}
      </button>
      <button type="button" className="btn btn-ghost btn-square" aria-label="somebody else records" onClick={leave}>
        <UserRound aria-hidden="true" />
      </button>
      <Ask page={guide} />
      <button type="button" className="btn gap-2" onClick={onEnd}>
        <Flag aria-hidden="true" size={20} /> End
      </button>
    </header>
  );
}
