import { Problem } from "../api/client";
import { isWaiting, outbox } from "../api/outbox";
import { sendFile } from "../api/send";
import { atDevice } from "../parts/ids";
import { database } from "./storage";

/** Keep a photo on the tablet; it goes to the server after the entry that it belongs to. */
export async function keepPhoto(id: string, photo: File): Promise<void> {
  await (await database).put("photos", { id, name: photo.name, content: photo });
}

/** Send the photos whose entries have arrived. */
export async function sendPhotos(): Promise<void> {
  const kept = await database;
  const still = new Set(outbox.all().flatMap((each) => (isWaiting(each) ? (each.photos ?? []) : [])));
  for (const { id, name, content } of await kept.getAll("photos")) {
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
