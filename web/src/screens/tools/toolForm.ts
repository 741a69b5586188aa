import type { Schemas } from "../../api/client";

export type ToolField = Schemas["ToolField"];
/** What was typed, by the name of the line. */
export type Typed = Record<string, string>;

/** The name of a line: fields of a part have the part's name before their own. */
export const lineName = ({ part, name }: ToolField): string => (part ? `${part}_${name}` : name);

const figure = (text: string) => Number(text.replace(",", "."));

/** What was typed on a line, as the tool's field holds it; null for a line that was left empty. */
function given(field: ToolField, typed: Typed): unknown {
  const text = typed[lineName(field)] ?? field.start;
  if (text === "" || text === "none") return null;
  if (field.takes === "figure") return figure(text) / field.divided_by;
  return field.takes === "yes or no" ? text === "yes" : text;
}

/** The fields of a tool from what was typed. A part is left out while its first field is not given. */
export function toolFields(fields: readonly ToolField[], typed: Typed): Record<string, unknown> {
  const tool: Record<string, unknown> = {};
  for (const field of fields) {
    const value = given(field, typed);
    if (!field.part) {
      if (value !== null) tool[field.name] = value;
    } else if (!(field.part in tool)) {
      tool[field.part] = value === null ? null : { [field.name]: value };
    } else if (tool[field.part] !== null) {
      Object.assign(tool[field.part] as object, { [field.name]: value });
    }
  }
  return tool;
}
