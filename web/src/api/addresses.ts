import type { paths } from "./schema";

/** An address of the API; its type remembers which one it is, and so what is sent there and what comes back. */
export type Address<P extends keyof paths> = string & { readonly of?: P };

type Params = {
  path?: Record<string, string | number>;
  query?: Record<string, string | number | boolean | readonly string[] | undefined>;
};

/** The address of a path of the API, with its parameters filled in. */
export function address<P extends keyof paths>(path: P, { path: parts = {}, query = {} }: Params = {}): Address<P> {
  const filled = String(path).replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(String(parts[name] ?? "")));
  const search = new URLSearchParams();
  for (const [name, value] of Object.entries(query)) {
    for (const each of Array.isArray(value) ? value : [value]) {
      if (each !== undefined) search.append(name, String(each));
    }
  }
  return search.size > 0 ? `${filled}?${search}` : filled;
}

type Sends<P extends keyof paths> = paths[P] extends { post: infer Post }
  ? Post
  : paths[P] extends { put: infer Put }
    ? Put
    : never;
/** What is sent to an address. */
export type BodyOf<P extends keyof paths> =
  Sends<P> extends { requestBody: { content: { "application/json": infer Body } } } ? Body : undefined;
type Good<R> = R extends { 201: infer A } ? A : R extends { 200: infer A } ? A : R extends { 202: infer A } ? A : never;
/** What comes back from an address. */
export type AnswerOf<P extends keyof paths> =
  Sends<P> extends { responses: infer R }
    ? Good<R> extends { content: { "application/json": infer Answer } }
      ? Answer
      : undefined
    : never;
