/** What a drawing's own file needs of the page's style. */
const DRAWN = [
  "fill",
  "fill-opacity",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "stroke-opacity",
  "font-family",
  "font-size",
  "font-weight",
  "text-anchor",
  "paint-order",
];

function save(name: string, type: string, text: string): void {
  const url = URL.createObjectURL(new Blob([text], { type }));
  const link = Object.assign(document.createElement("a"), { href: url, download: name });
  link.click();
  URL.revokeObjectURL(url);
}

/** A drawing as a file of its own, with its colours. */
export function saveSvg(name: string, drawn: SVGSVGElement): void {
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  const [from, to] = [drawn.querySelectorAll<SVGElement>("*"), copy.querySelectorAll<SVGElement>("*")];
  for (const [place, element] of from.entries()) {
    const style = getComputedStyle(element);
    for (const each of DRAWN) to[place]?.setAttribute(each, style.getPropertyValue(each));
    to[place]?.removeAttribute("class");
  }
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.style.background = getComputedStyle(document.body).backgroundColor;
  save(`${name}.svg`, "image/svg+xml", new XMLSerializer().serializeToString(copy));
}

const cell = (value: string | number): string => {
  const text = String(value);
  return /[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
};

/** Rows as CSV. */
export function saveCsv(name: string, rows: readonly (readonly (string | number)[])[]): void {
  save(`${name}.csv`, "text/csv", rows.map((row) => row.map(cell).join(",")).join("\r\n"));
}
