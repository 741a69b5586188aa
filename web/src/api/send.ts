import { ask } from "./client";

/** A file goes as it is, byte for byte; the generated client would read and write it again. */
export async function sendFile<T>(path: string, file: File): Promise<T> {
  const call = fetch(`${path}?name=${encodeURIComponent(file.name.slice(0, 120))}`, {
    method: "PUT",
    body: file,
    headers: { "content-type": "application/octet-stream" },
  });
  return ask(
    call.then(async (response) => {
      const content = response.status === 204 ? undefined : await response.json();
      return response.ok ? { data: content as T, response } : { error: content, response };
    }),
  );
}
