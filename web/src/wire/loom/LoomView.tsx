import { type KeyboardEvent, type PointerEvent, type WheelEvent, useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { Empty, Skeleton, Trouble } from "../../shell/States";
import { usePreferences } from "../../shell/preferences";
import type { Wiring } from "../queries";
import { LoomDrawing, drawingSize } from "./LoomDrawing";
import { downloadPng, downloadSvg } from "./download";
import { PAPER, SLATE } from "./palette";
import { pinWords } from "./pinWords";
import { useLoom } from "./useLoom";

interface Window {
  scale: number;
  x: number;
  y: number;
}

const WHOLE: Window = { scale: 1, x: 0, y: 0 };

/** Where all leads of a device go, in one line; nothing for none. */
function wordsOf(
  leads: { device: { name: string }; lead: { name: string; end: { to: string } | null } }[],
): string | undefined {
  const [first] = leads;
  return (
    first &&
    `${first.device.name}: ${leads.map(({ lead }) => `${lead.name} to ${lead.end?.to ?? "nowhere"}`).join(", ")}`
  );
}

/** The loom on screen: zoom, pan, trace, take away. */
export function LoomView({ wiring }: { wiring: Wiring }) {
  const { model, layout } = useLoom(wiring);
  const [preferences] = usePreferences();
  const [traced, setTraced] = useState<string | null>(null);
  const [window_, setWindow] = useState(WHOLE);
  const frame = useRef<HTMLDivElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const drag = useRef<{ x: number; y: number } | null>(null);
  const palette = preferences.theme === "slate" ? SLATE : PAPER;

  useEffect(() => {
    const element = frame.current;
    // React's wheel listener is passive; the page must not scroll while the loom zooms.
    const stop = (event: Event) => event.preventDefault();
    element?.addEventListener("wheel", stop, { passive: false });
    return () => element?.removeEventListener("wheel", stop);
  }, [layout.data]);

  if (model.threads.length + model.tabs.length === 0) {
    return (
      <Empty title="No thread on the loom yet.">
        <p>Add devices on the plan and let Tick Stone propose their pins.</p>
      </Empty>
    );
  }
  if (layout.isPending) return <Skeleton lines={10} />;
  if (layout.isError) return <Trouble error={layout.error} retry={() => void layout.refetch()} />;

  const [width, height] = drawingSize(model, layout.data);
  const view: [number, number, number, number] = [window_.x, window_.y, width / window_.scale, height / window_.scale];

  function zoom(factor: number, at?: { x: number; y: number }) {
    setWindow((before) => {
      const scale = Math.min(8, Math.max(1, before.scale * factor));
      const centre = at ?? { x: before.x + width / before.scale / 2, y: before.y + height / before.scale / 2 };
      const ratio = before.scale / scale;
      return kept({ scale, x: centre.x - (centre.x - before.x) * ratio, y: centre.y - (centre.y - before.y) * ratio });
    });
  }

  function kept(next: Window): Window {
    const most = (size: number) => size - size / next.scale;
    return {
      scale: next.scale,
      x: Math.min(Math.max(0, next.x), most(width)),
      y: Math.min(Math.max(0, next.y), most(height)),
    };
  }

  function pan(dx: number, dy: number) {
    setWindow((before) => kept({ ...before, x: before.x + dx, y: before.y + dy }));
  }

  function drawn(event: { clientX: number; clientY: number }) {
    const matrix = svg.current?.getScreenCTM();
    return matrix ? new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse()) : { x: 0, y: 0 };
  }

  function onWheel(event: WheelEvent) {
    zoom(Math.exp(-event.deltaY / 400), drawn(event));
  }

  function onPointerMove(event: PointerEvent) {
    if (!drag.current || !(event.buttons & 1)) return;
    const matrix = svg.current?.getScreenCTM();
    const scale = matrix ? matrix.a : 1;
    pan((drag.current.x - event.clientX) / scale, (drag.current.y - event.clientY) / scale);
    drag.current = { x: event.clientX, y: event.clientY };
  }

  function onKeyDown(event: KeyboardEvent) {
    const step = width / window_.scale / 12;
    const moves: Record<string, () => void> = {
      "+": () => zoom(1.25),
      "-": () => zoom(0.8),
      "0": () => setWindow(WHOLE),
      ArrowLeft: () => pan(-step, 0),
      ArrowRight: () => pan(step, 0),
      ArrowUp: () => pan(0, -step),
      ArrowDown: () => pan(0, step),
    };
    const move = moves[event.key];
    if (!move || event.ctrlKey || event.altKey || event.metaKey) return;
    event.preventDefault();
    event.stopPropagation();
    move();
  }

  const card = [...model.threads, ...model.tabs].filter((one) => `card ${one.device.id}` === traced);
  const found = traced === null ? undefined : [...model.threads, ...model.tabs].find((one) => one.id === traced);
  const pin = model.threads.find((one) => one.id === traced)?.to;
  const volts = pinWords(wiring.pins.find((one) => one.name === pin)?.states ?? []);
  const name = `${wiring.rig_name}-loom`;
  return (
    <div className="loom">
      <div className="loom-bar">
        <div className="loom-words" aria-live="polite">
          <p>{found?.words ?? wordsOf(card) ?? "Point at a thread to follow it, or walk them with Tab."}</p>
          {volts.length > 0 && (
            <p className="loom-volts">
              {pin}: {volts.join(" · ")}
            </p>
          )}
        </div>
        <div className="page-actions">
          <Button size="sm" variant="outline-primary" aria-label="Zoom out" onClick={() => zoom(0.8)}>
            −
          </Button>
          <Button size="sm" variant="outline-primary" aria-label="Zoom in" onClick={() => zoom(1.25)}>
            +
          </Button>
          <Button size="sm" variant="outline-primary" onClick={() => setWindow(WHOLE)}>
            Whole
          </Button>
          <Button
            size="sm"
            variant="outline-primary"
            onClick={() => svg.current && downloadSvg(svg.current, name, width, height)}
          >
            SVG
          </Button>
          <Button
            size="sm"
            variant="outline-primary"
            onClick={() => svg.current && void downloadPng(svg.current, name, width, height)}
          >
            PNG
          </Button>
        </div>
      </div>
      <div
        ref={frame}
        className="loom-frame"
        tabIndex={0}
        role="group"
        aria-label="Loom; plus, minus and arrows zoom and move it"
        onWheel={onWheel}
        onPointerDown={(event) => {
          drag.current = { x: event.clientX, y: event.clientY };
        }}
        onPointerMove={onPointerMove}
        onPointerUp={() => {
          drag.current = null;
        }}
        onKeyDown={onKeyDown}
      >
        <LoomDrawing
          model={model}
          layout={layout.data}
          palette={palette}
          title={`How ${wiring.rig_name} is wired`}
          traced={traced}
          onTrace={setTraced}
          view={view}
          svgRef={svg}
        />
      </div>
    </div>
  );
}
