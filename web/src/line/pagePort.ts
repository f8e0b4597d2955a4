/** The part of the browser's serial interface that is used here; no types of it are shipped yet. */
interface BrowserPort {
  open: (options: { baudRate: number }) => Promise<void>;
  close: () => Promise<void>;
  readable: ReadableStream<Uint8Array> | null;
  writable: WritableStream<Uint8Array> | null;
  getInfo?: () => { usbVendorId?: number };
}

interface BrowserSerial {
  requestPort: () => Promise<BrowserPort>;
}

function serial(): BrowserSerial | null {
  return (navigator as unknown as { serial?: BrowserSerial }).serial ?? null;
}

/** Whether this browser can open a serial port itself. */
export function canOpenHere(): boolean {
  return serial() !== null;
}

/** Opens a port of this browser and sends what it hears to the server, which understands it. */
export async function openHere(rigId: number, speed: number): Promise<void> {
  const port = await serial()?.requestPort();
  if (!port) return;
  await port.open({ baudRate: speed });
  const scheme = location.protocol === "https:" ? "wss" : "ws";
  const label = `a port of this browser at ${speed} baud`;
  const socket = new WebSocket(
    `${scheme}://${location.host}/api/rigs/${rigId}/line/page?label=${encodeURIComponent(label)}`,
  );
  socket.binaryType = "arraybuffer";
  const writer = port.writable?.getWriter();
  try {
    await new Promise<void>((resolve, reject) => {
      socket.onclose = (event) => reject(new Error(event.reason || "The server did not take the line."));
      socket.onmessage = (event: MessageEvent<string | ArrayBuffer>) => {
        if (event.data === "open") resolve();
      };
    });
  } catch (error) {
    writer?.releaseLock();
    await port.close().catch(() => undefined);
    throw error;
  }
  const reader = port.readable?.getReader();
  socket.onmessage = (event: MessageEvent<string | ArrayBuffer>) => {
    if (event.data instanceof ArrayBuffer) void writer?.write(new Uint8Array(event.data));
  };
  const finish = async () => {
    await reader?.cancel().catch(() => undefined);
    reader?.releaseLock();
    writer?.releaseLock();
    await port.close().catch(() => undefined);
  };
  socket.onclose = () => void finish();
  void (async () => {
    try {
      for (;;) {
        const piece = await reader?.read();
        if (!piece || piece.done) break;
        socket.send(piece.value);
      }
    } finally {
      socket.close();
    }
  })();
}
