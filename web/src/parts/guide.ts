/** Which page of the guide helps on a screen. */
const PAGES: readonly (readonly [begins: string, page: string])[] = [
  ["/machines", "handing-over"],
  ["/crib", "dropped-wrench"],
  ["/outbox", "no-wifi"],
  ["/records", "proof"],
  ["/week", "morning-after"],
  ["/practice", "practice"],
  ["/lab", "practice"],
  ["/notices", "dropped-wrench"],
];

export const guideFor = (path: string): string =>
  `/guide/${PAGES.find(([begins]) => path.startsWith(begins))?.[1] ?? "first-wheel"}`;
