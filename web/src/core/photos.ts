import { isWaiting, outbox } from "../api/outbox";
import { sendFile } from "../api/send";
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
    await sendFile(`/api/attachments/${id}`, new File([content], name));
    await kept.delete("photos", id);
  }
}
