import type { Schemas } from "../../../api/client";

type Props = { reaction: Schemas["Multiplied"] };

/** The gear's arm: which way it swings, and what it pushes with. */
export function Reaction({ reaction }: Props) {
  const way = reaction.arm_swings === "anticlockwise" ? -1 : 1;
  const arc = (radius: number, turn: number) =>
    `M ${radius * Math.sin(-0.9 * turn)} ${-radius * Math.cos(0.9)} A ${radius} ${radius} 0 0 ${turn > 0 ? 1 : 0} ${radius * Math.sin(0.9 * turn)} ${-radius * Math.cos(0.9)}`;
  return (
    <figure className="flex flex-wrap items-center gap-6" aria-label="reaction arm">
      <svg
        viewBox="-110 -100 220 190"
        className="w-64"
        role="img"
        aria-label={`the fastener turns one way, the arm swings ${reaction.arm_swings}`}
      >
        <defs>
          <marker id="tip" viewBox="0 0 10 10" refX={6} refY={5} markerWidth={5} markerHeight={5} orient="auto">
            <path d="M 0 0 L 10 5 L 0 10 Z" className="fill-base-content" />
          </marker>
          <marker id="armtip" viewBox="0 0 10 10" refX={6} refY={5} markerWidth={5} markerHeight={5} orient="auto">
            <path d="M 0 0 L 10 5 L 0 10 Z" className="fill-primary" />
          </marker>
        </defs>
        <rect x={-9} y={0} width={18} height={80} className="fill-primary/30 stroke-primary" strokeWidth={3} />
        <circle r={38} className="fill-base-200 stroke-base-content" strokeWidth={3} />
        <path d="M 14 0 L 7 12 L -7 12 L -14 0 L -7 -12 L 7 -12 Z" className="fill-base-content" />
        <path d={arc(56, -way)} className="stroke-base-content fill-none" strokeWidth={5} markerEnd="url(#tip)" />
        <path
          d={`M 0 84 h ${60 * -way}`}
          className="stroke-primary fill-none"
          strokeWidth={7}
          markerEnd="url(#armtip)"
        />
      </svg>
      <figcaption className="flex-1 text-lg">
        <b className="block text-2xl">{Math.round(reaction.reaction_nm)} N·m on the arm</b>
        It swings {reaction.arm_swings}, against the way you pull. At the wrench {Math.round(reaction.input_nm)} N·m at
        the most.
      </figcaption>
    </figure>
  );
}
