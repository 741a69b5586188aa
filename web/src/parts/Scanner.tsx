import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { pathOf } from "./scanned";

const LOOKS_EVERY_MS = 150;
const WIDE = 640;

/** The camera: what a label or a tag of this shop stands for is opened. One decoder everywhere, in a worker. */
export function Scanner({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  const video = useRef<HTMLVideoElement>(null);
  const [said, setSaid] = useState("");
  useEffect(() => {
    const worker = new Worker(new URL("./scanWorker.ts", import.meta.url), { type: "module" });
    const canvas = document.createElement("canvas");
    const pen = canvas.getContext("2d", { willReadFrequently: true });
    let camera: MediaStream | null = null;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let closed = false;
    const look = () => {
      const shown = video.current;
      if (!shown || !pen || shown.videoWidth === 0) {
        timer = setTimeout(look, LOOKS_EVERY_MS);
        return;
      }
      canvas.width = WIDE;
      canvas.height = Math.round((WIDE * shown.videoHeight) / shown.videoWidth);
      pen.drawImage(shown, 0, 0, canvas.width, canvas.height);
      worker.postMessage(pen.getImageData(0, 0, canvas.width, canvas.height));
    };
    worker.onmessage = ({ data }: MessageEvent<string | null>) => {
      const path = data === null ? null : pathOf(data);
      if (path) navigate(path);
      else {
        if (data !== null) setSaid("This code is not of this shop.");
        timer = setTimeout(look, LOOKS_EVERY_MS);
      }
    };
    const begin = async () => {
      try {
        camera = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment" } });
      } catch {
        setSaid("The camera cannot be used here. Allow it for this page, or type what the label says.");
        return;
      }
      if (closed || !video.current) {
        for (const track of camera.getTracks()) track.stop();
        return;
      }
      video.current.srcObject = camera;
      await video.current.play().catch(() => undefined); // left before it began
      look();
    };
    begin();
    return () => {
      closed = true;
      clearTimeout(timer);
      worker.terminate();
      for (const track of camera?.getTracks() ?? []) track.stop();
    };
  }, [navigate]);
  return (
    <section aria-label="scan a label" className="border-base-300 flex flex-col gap-2 border-2 p-2">
      <video ref={video} playsInline muted className="bg-base-300 max-h-72 w-full object-contain" />
      <p role="status" className="text-lg">
        {said || "Hold a label or a tag in front of the camera."}
      </p>
      <button type="button" className="btn self-start" onClick={onClose}>
        Close the camera
      </button>
    </section>
  );
}
