import ELK from "elkjs/lib/elk-api";
import type { ElkNode } from "elkjs/lib/elk-api";
import elkWorkerUrl from "elkjs/lib/elk-worker.min.js?url";

/*
 * The layout's library is large and thinks for some tenths of a second, so it lives in a thread of
 * its own: the page goes on answering, and the library loads while the wiring is still on its way.
 */
let running: { elk: InstanceType<typeof ELK>; failed: Promise<never> } | null = null;

/** Starts the thread ahead of the first layout. */
export function warmUp() {
  start();
}

/** The graph with its places; fails in words when the thread does, and the next call tries a new one. */
export async function workOut(graph: ElkNode): Promise<ElkNode> {
  const { elk, failed } = start();
  return Promise.race([elk.layout(graph), failed]);
}

function start() {
  if (running) return running;
  let fail: (reason: Error) => void = () => undefined;
  const failed = new Promise<never>((_, reject) => {
    fail = reject;
  });
  // Nobody need be waiting when the thread fails.
  failed.catch(() => undefined);
  const elk = new ELK({
    workerUrl: elkWorkerUrl,
    workerFactory: (url) => {
      const thread = new Worker(url ?? elkWorkerUrl);
      // The library itself would wait for an answer for ever.
      thread.addEventListener("error", () => {
        running = null;
        thread.terminate();
        fail(new Error("The loom could not be laid out: its layout program did not load. Try again."));
      });
      return thread;
    },
  });
  running = { elk, failed };
  return running;
}
