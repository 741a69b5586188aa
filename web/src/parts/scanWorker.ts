import jsQR from "jsqr";

/** A picture of the camera; answered with the text of the code in it, if there is one. */
self.onmessage = ({ data }: MessageEvent<ImageData>) => {
  self.postMessage(jsQR(data.data, data.width, data.height, { inversionAttempts: "dontInvert" })?.data ?? null);
};
