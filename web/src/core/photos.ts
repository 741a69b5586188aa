import { Problem } from "../api/client";
import { isWaiting, outbox } from "../api/outbox";
import { sendFile } from "../api/send";
import { atDevice } from "../parts/ids";
import { database } from "./storage";

/** Send the photos whose entries have arrived. */
export async function sendPhotos(): Promise<void> {
  const kept = await database;
  const read = kept.transaction(["outbox", "photos"]);
  const [entries, photos] = await Promise.all([
    read.objectStore("outbox").getAll(),
    read.objectStore("photos").getAll(),
  ]);
  const still = new Set(entries.flatMap((each) => (isWaiting(each) ? (each.photos ?? []) : [])));
  for (const { id, name, content } of photos) {
    if (still.has(id)) continue;
    const address = `/api/attachments/${id}`;
    try {
      await sendFile(address, new File([content], name));
    } catch (error) {
      if (!(error instanceof Problem) || !error.isAnswer || error.status === 401) throw error;
      const why = `${error.fault} ${error.remedy}`;
      const refused = { id, method: "PUT" as const, address, body: null, scope: "", at: atDevice() };
      await outbox.put({ ...refused, local: true, state: "refused", what: `photo ${name}`, why });
    }
    await kept.delete("photos", id);
  }
}
