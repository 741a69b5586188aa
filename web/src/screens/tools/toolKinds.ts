export type Typed = Record<string, string>;
export type Line = {
  name: string;
  say: string;
  hint?: string;
  options?: readonly string[];
  start?: string;
  optional?: boolean;
  text?: boolean;
  /** Asked beside a drawing of what it means. */
  drawn?: boolean;
};
type Kind = { say: string; lines: readonly Line[]; build: (typed: Typed) => Record<string, unknown> };

const DRIVES = ["1/4 in", "3/8 in", "1/2 in", "3/4 in", "1 in", "1 1/2 in"] as const;
const TORQUES = ["N·m", "lbf·ft", "lbf·in", "kgf·m"] as const;
const drive: Line = { name: "drive", say: "Square", options: DRIVES, start: "1/2 in" };
const to: Line = { name: "to", say: "To which square", options: DRIVES, start: "3/4 in" };
const limit: Line = { name: "limit_nm", say: "Bears at most, N·m", hint: "as its maker says", optional: true };
const number = (typed: string | undefined) => (typed ? Number(typed.replace(",", ".")) : null);

/** Every figure typed as a number, every other line as it is. */
function plainly(typed: Typed): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(typed)
      .filter(([, text]) => text !== "")
      .map(([name, text]) => [name, /^[0-9]+([.,][0-9]+)?$/.test(text) ? number(text) : text]),
  );
}

const onTheEnd = (say: string, ...lines: Line[]): Kind => ({ say, lines: [drive, ...lines, limit], build: plainly });

/** What can be put into the crib, and the lines that each kind has. */
export const KINDS: Record<string, Kind> = {
  wrench: {
    say: "Torque wrench",
    lines: [
      {
        name: "construction",
        say: "How it is made",
        options: ["click", "slipper", "beam", "dial", "electronic", "electronic with angle"],
        start: "click",
      },
      drive,
      { name: "unit", say: "Unit of the scale", options: TORQUES, start: "N·m" },
      { name: "lowest", say: "Lowest mark" },
      { name: "highest", say: "Highest mark" },
      { name: "graduation", say: "Step between two marks" },
      { name: "body_graduation", say: "Step between two lines on the body", optional: true, drawn: true },
      {
        name: "face",
        say: "How a set scale is read",
        options: ["upper edge", "lower edge", "staggered", "window"],
        start: "upper edge",
      },
      { name: "lever_mm", say: "Handle, mm", hint: "from the drive to the middle of the grip", optional: true },
      {
        name: "tightens",
        say: "Measures",
        options: ["both ways", "clockwise"],
        start: "both ways",
      },
      {
        name: "accuracy_percent",
        say: "Its maker's own deviation, ± %",
        hint: "if closer than the standard's 4",
        optional: true,
      },
      { name: "second", say: "Unit of the other side's scale", options: ["none", ...TORQUES], start: "none" },
      { name: "second_lowest", say: "Other side, lowest mark", optional: true },
      { name: "second_highest", say: "Other side, highest mark", optional: true },
      { name: "second_graduation", say: "Other side, step between two marks", optional: true },
      { name: "second_body_graduation", say: "Other side, step between two lines", optional: true },
    ],
    build: ({ second, second_lowest, second_highest, second_graduation, second_body_graduation, ...typed }) => ({
      ...plainly(typed),
      second:
        second && second !== "none"
          ? {
              unit: second,
              lowest: number(second_lowest),
              highest: number(second_highest),
              graduation: number(second_graduation),
              body_graduation: number(second_body_graduation),
            }
          : null,
    }),
  },
  crowfoot: onTheEnd("Crowfoot", {
    name: "length_mm",
    say: "Length, mm",
    hint: "from the drive to the middle of the fastener",
  }),
  extension: onTheEnd(
    "Extension",
    { name: "length_mm", say: "Length, mm" },
    { name: "across_mm", say: "Thickness, mm", hint: "its diameter, or the side of its square" },
    { name: "section", say: "Section", options: ["round", "square"], start: "round" },
  ),
  step: onTheEnd("Step up or down", to),
  universal: onTheEnd("Universal joint"),
  socket: onTheEnd("Socket", {
    name: "fits",
    say: "What it fits",
    hint: "keyed, splined: say so",
    optional: true,
    text: true,
  }),
  multiplier: {
    say: "Multiplier",
    lines: [
      drive,
      to,
      { name: "ratio", say: "Ratio", hint: "by its teeth: 5 for five to one" },
      { name: "efficiency", say: "Efficiency, %", hint: "by its maker's sheet", start: "90" },
      { name: "anti_windback", say: "A catch against running back", options: ["no", "yes"], start: "no" },
      { ...limit, say: "Its anvil bears, N·m", optional: false },
    ],
    build: ({ efficiency, anti_windback, ...typed }) => ({
      ...plainly(typed),
      efficiency: (number(efficiency) ?? 90) / 100,
      anti_windback: anti_windback === "yes",
    }),
  },
  gauge: {
    say: "Gauge",
    lines: [
      {
        name: "what",
        say: "Which",
        options: ["angle gauge", "dial indicator", "rotating-drag gauge", "stretch gauge", "caliper"],
        start: "angle gauge",
      },
      { name: "unit", say: "Unit", options: ["°", "mm", "in", "N·m", "lbf·in"], start: "°" },
      { name: "highest", say: "Highest mark" },
      { name: "graduation", say: "Step between two marks" },
    ],
    build: plainly,
  },
  support: {
    say: "Jack or stand",
    lines: [
      { name: "what", say: "Which", options: ["jack", "stand"], start: "stand" },
      { name: "rated_kg", say: "Rated, kg", hint: "as its plate says" },
    ],
    build: plainly,
  },
};
