const TRIES_AGAIN_MS = 1_000;

/** A socket that is opened again when it is lost. */
export type LastingSocket = { send: (said: object) => void; close: () => void };

/**
 * Open a socket of the same server.
 *
 * @param heard what is done with each message.
 * @param lost what is done when it is closed by the other side; it is opened again by itself.
 */
export function lastingSocket<Heard>(
  path: string,
  heard: (said: Heard) => void,
  lost: () => void = () => undefined,
): LastingSocket {
  const url = `${location.protocol === "https:" ? "wss" : "ws"}://${location.host}${path}`;
  let socket: WebSocket;
  let again: ReturnType<typeof setTimeout> | undefined;
  let closed = false;
  const open = () => {
    socket = new WebSocket(url);
    socket.onmessage = (event) => heard(JSON.parse(String(event.data)) as Heard);
    socket.onclose = () => {
      if (closed) return;
      lost();
      again = setTimeout(open, TRIES_AGAIN_MS);
    };
  };
  open();
  return {
    send: (said) => {
      if (socket.readyState === WebSocket.OPEN) socket.send(JSON.stringify(said));
    },
    close: () => {
      closed = true;
      clearTimeout(again);
      socket.close();
    },
  };
}
