/** What a code of this shop opens, whatever address the shop had when it was printed; null for any other code. */
export function pathOf(code: string): string | null {
  const path = /^https?:\/\/[^/]+(\/(?:crib|machines|specs|runs|go)\/\S+)$/.exec(code.trim())?.[1];
  return path ?? null;
}
