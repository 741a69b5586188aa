import { useState } from "react";
import { outbox } from "../../../api/outbox";
import { newId } from "../../../parts/ids";

type Props = { onNote: (text: string, files: string[]) => void };

/** A note in words, with a photo from the camera or a file. */
export function NoteForm({ onNote }: Props) {
  const [text, setText] = useState("");
  const [id] = useState(newId);
  const [photo, setPhoto] = useState<File | null>(null);
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (photo) outbox.attach(id, photo);
        onNote(text, photo ? [id] : []);
      }}
    >
      <input
        className="input bg-base-100 flex-1"
        aria-label="note"
        placeholder="What is to be remembered"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <input
        type="file"
        className="file-input bg-base-100"
        aria-label="photo"
        accept="image/*"
        capture="environment"
        onChange={(event) => setPhoto(event.target.files?.[0] ?? null)}
      />
      <button type="submit" className="btn btn-primary" disabled={!text.trim() && !photo}>
        Keep it
      </button>
    </form>
  );
}
