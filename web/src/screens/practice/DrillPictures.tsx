import type { Schemas } from "../../api/client";
import { Dial } from "../../parts/Dial";
import { FastenerMap } from "../../parts/FastenerMap";
import { ScalePicture } from "../../parts/ScalePicture";
import { PullPicture } from "./PullPicture";
import { SearchDrill } from "./SearchDrill";
import { TurnPicture } from "./TurnPicture";

export type Answered = (answer: { key?: string; figure?: number }) => void;
type Props = { picture: NonNullable<Schemas["DrillQuestion"]["picture"]>; number: number; onAnswer: Answered };

/** What a question shows: a scale, a dial, a joint, a nut, a curve, lines, the library. */
export function DrillPicture({ picture, number, onAnswer }: Props) {
  switch (picture.kind) {
    case "scale":
      return (
        <figure aria-label={picture.name}>
          <ScalePicture scale={picture.scale} construction={picture.construction} face={picture.face} />
        </figure>
      );
    case "dial":
      return (
        <div className="mx-auto size-72">
          <Dial {...picture} low={null} high={null} />
        </div>
      );
    case "layout":
      return (
        <div className="h-[26rem]">
          <FastenerMap
            layout={picture.layout}
            fasteners={picture.fasteners}
            turning={false}
            onChoose={(label) => onAnswer({ key: label })}
          />
        </div>
      );
    case "turn":
      return <TurnPicture key={number} turn={picture} onTurn={(figure) => onAnswer({ figure })} />;
    case "pull":
      return <PullPicture key={number} pull={picture} onPull={(figure) => onAnswer({ figure })} />;
    case "lines":
      return (
        <>
          {picture.above && <p className="text-lg">{picture.above}</p>}
          <ol className="flex flex-col gap-1 text-lg">
            {picture.lines.map((line, place) => (
              <li
                key={line}
                className={
                  place === picture.lines.length - 1
                    ? "border-primary border-l-8 pl-3 text-xl font-bold"
                    : "border-base-300 border-l-8 pl-3"
                }
              >
                {line}
              </li>
            ))}
          </ol>
        </>
      );
    case "search":
      return <SearchDrill key={number} onFound={(key, figure) => onAnswer({ key, figure })} />;
  }
}
