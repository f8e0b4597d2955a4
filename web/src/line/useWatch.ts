import { useEffect, useRef, useState } from "react";
import { LiveStore } from "./LiveStore";
import { useUnits } from "../units/units";
import type { Line, Message, Working } from "./frames";

export interface Wish {
  windowS: number;
  columns: number;
  focus: number | null;
}

/** Watches a rig's line: its state as it changes, and a store that fills with pictures. */
export function useWatch(rigId: number, isOpen: boolean, wish: Wish) {
  const [store] = useState(() => new LiveStore());
  const units = useUnits();
  const [line, setLine] = useState<Line | null>(null);
  const [working, setWorking] = useState<Working | null>(null);
  const [isCut, setCut] = useState(false);
  const latest = useRef(wish);
  const socket = useRef<WebSocket | null>(null);
  useEffect(() => {
    latest.current = wish;
    send(socket.current, wish);
  }, [wish]);

  useEffect(() => {
    if (!isOpen) return;
    let over = false;
    let again: number | undefined;
    function connect() {
      const scheme = location.protocol === "https:" ? "wss" : "ws";
      const made = new WebSocket(`${scheme}://${location.host}/api/rigs/${rigId}/line/watch?units=${units}`);
      socket.current = made;
      made.onopen = () => {
        setCut(false);
        send(made, latest.current);
      };
      made.onmessage = (event: MessageEvent<string>) => {
        const message = JSON.parse(event.data) as Message;
        if (message.kind === "frame") {
          store.take(message.body, latest.current.windowS);
          // The next one comes only then, so that a page that is slow shows few pictures but no old ones.
          made.send(JSON.stringify({ seen: message.body.samples }));
        } else if (message.kind === "lines") store.takeLines(message.body);
        else if (message.kind === "working") setWorking(message.body);
        else setLine(message.body);
      };
      made.onclose = (event) => {
        if (over || event.code === 4404) return;
        if (event.code !== 1000) {
          setCut(true);
          again = window.setTimeout(connect, 1_000);
        }
      };
    }
    connect();
    return () => {
      over = true;
      window.clearTimeout(again);
      socket.current?.close();
      socket.current = null;
    };
  }, [rigId, isOpen, store, units]);

  return { store, line: isOpen ? line : null, working, isCut };
}

function send(socket: WebSocket | null, wish: Wish): void {
  if (socket?.readyState !== WebSocket.OPEN) return;
  socket.send(JSON.stringify({ window_s: wish.windowS, columns: wish.columns, focus: wish.focus }));
}
