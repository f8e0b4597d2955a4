import { type KeyboardEvent, type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { Over } from "../../shell/Over";
import { Empty, Skeleton, Trouble } from "../../shell/States";
import { usePreferences } from "../../shell/preferences";
import { placeWords } from "../circuit/places";
import { PartForm } from "../circuit/PartForm";
import { type Bead, type Wiring, useWiringChanges } from "../queries";
import { ChosenPanel } from "./ChosenPanel";
import { HandPanel } from "./HandPanel";
import { LoomDrawing, drawingSize } from "./LoomDrawing";
import { PartTray } from "./PartTray";
import { downloadPng, downloadSvg } from "./download";
import type { LoomLayout } from "./geometry";
import { ledTo } from "./leading";
import type { LoomModel } from "./model";
import { PAPER, SLATE } from "./palette";
import { pinWords } from "./pinWords";
import { fitsPin, inHand, targetsFor } from "./targets";
import { type Hand, useHand } from "./useHand";
import { useLoom } from "./useLoom";
import { useZoom } from "./useZoom";

interface Props {
  wiring: Wiring;
  /** The column at its side, with what is put above the findings there. */
  beside: (above: ReactNode) => ReactNode;
}

/** The loom: to look at, to wire on, to take away. */
export function LoomView({ wiring, beside }: Props) {
  const { model, layout } = useLoom(wiring);
  if (layout.data && model.threads.length + model.tabs.length + model.loose.length > 0) {
    return <LoomBench wiring={wiring} model={layout.data.model} layout={layout.data.layout} beside={beside} />;
  }
  return (
    <>
      <section className="bench" aria-label="Loom">
        <NoLoom model={model} layout={layout} />
      </section>
      {beside(null)}
    </>
  );
}

function NoLoom({ model, layout }: ReturnType<typeof useLoom>) {
  if (model.threads.length + model.tabs.length + model.loose.length === 0) {
    return (
      <Empty title="No thread on the loom yet.">
        <p>Add devices on the plan and let Tick Stone propose their pins.</p>
      </Empty>
    );
  }
  if (layout.isError) return <Trouble error={layout.error} retry={() => void layout.refetch()} />;
  return <Skeleton lines={10} />;
}

function LoomBench({ wiring, beside, model, layout }: Props & { model: LoomModel; layout: LoomLayout }) {
  const [preferences] = usePreferences();
  const [traced, setTraced] = useState<string | null>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const [newPart, setNewPart] = useState<Bead["kind"] | null>(null);
  const [isAdding, setAdding] = useState(false);
  const changes = useWiringChanges(wiring);
  const frame = useRef<HTMLDivElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const pressed = useRef<{ x: number; y: number; hasMoved: boolean } | null>(null);
  const typed = useRef({ text: "", at: 0 });
  const [width, height] = drawingSize(model, layout);
  const zoom = useZoom(svg, width, height);
  const { hand, ...hold } = useHand({ frame, drawn: zoom.drawn, isTarget, onDrop });
  const held = hand?.what === "end" ? inHand(wiring, hand.id) : undefined;

  useEffect(() => {
    const element = frame.current;
    // React's wheel listener is passive; the page must not scroll while the loom zooms.
    const stop = (event: Event) => event.preventDefault();
    element?.addEventListener("wheel", stop, { passive: false });
    return () => element?.removeEventListener("wheel", stop);
  }, []);

  function isTarget(now: Hand, place: string): boolean {
    if (now.what === "part") return inHand(wiring, place) !== undefined;
    const taken = inHand(wiring, now.id);
    return taken !== undefined && targetsFor(wiring, model, taken).some((one) => one.place === place);
  }

  function onDrop(now: Hand, place: string) {
    if (now.what === "part") {
      setChosen(place);
      setNewPart(now.kind);
      return;
    }
    const taken = inHand(wiring, now.id);
    if (!taken) return;
    choose(now.id);
    if (taken.to === place) return;
    void changes.alter(`${taken.name} goes to ${placeWords(wiring, place)}.`, (circuit) =>
      ledTo(circuit, taken, place),
    );
  }

  function choose(id: string | null) {
    setChosen(id);
    setNewPart(null);
  }

  function take(id: string) {
    choose(id);
    typed.current = { text: "", at: 0 };
    hold.take(id);
  }

  /** A part goes onto the chosen thread, or else stays in hand until a thread is pressed. */
  function pressPart(kind: Bead["kind"]) {
    if (chosen === null || !inHand(wiring, chosen)) {
      hold.takePart(kind);
      return;
    }
    hold.putBack();
    setNewPart(kind);
  }

  function onPointerDown(event: PointerEvent) {
    if (hold.press(event)) return;
    pressed.current = { x: event.clientX, y: event.clientY, hasMoved: false };
  }

  function onPointerMove(event: PointerEvent) {
    const from = pressed.current;
    if (hold.move(event) || !from || !(event.buttons & 1)) return;
    if (!from.hasMoved && Math.hypot(event.clientX - from.x, event.clientY - from.y) < 5) return;
    zoom.panOnScreen(from.x - event.clientX, from.y - event.clientY);
    pressed.current = { x: event.clientX, y: event.clientY, hasMoved: true };
  }

  function onPointerUp(event: PointerEvent) {
    const wasPan = pressed.current?.hasMoved ?? true;
    pressed.current = null;
    if (hold.release(event) || wasPan) return;
    choose((event.target as Element).closest<SVGElement>("[data-thing]")?.dataset["thing"] ?? null);
  }

  /** Keys while an end is in hand: arrows walk the places, letters go to one, Enter drops. */
  function onHandKey(event: KeyboardEvent): boolean {
    if (!hand) return false;
    if (event.key === "Escape") {
      hold.putBack();
      return true;
    }
    if (!held) return false;
    const targets = targetsFor(wiring, model, held);
    const now = targets.findIndex((one) => one.place === (hand.target ?? held.to));
    const step = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (step !== undefined) {
      const next = targets[(now + step + targets.length) % targets.length];
      if (next) hold.aim(next.place);
      return true;
    }
    if (event.key === "Enter" || event.key === " ") {
      if (hand.target !== null) hold.drop(hand, hand.target);
      return true;
    }
    if (event.key.length !== 1) return false;
    const isGoingOn = event.timeStamp - typed.current.at < 1000;
    typed.current = { text: (isGoingOn ? typed.current.text : "") + event.key.toLowerCase(), at: event.timeStamp };
    const found = targets.find((one) => one.place.toLowerCase().startsWith(typed.current.text));
    if (found) hold.aim(found.place);
    return true;
  }

  /** Keys while nothing is in hand: Enter takes or chooses, T takes, Delete takes off. */
  function onFreeKey(event: KeyboardEvent): boolean {
    const on = event.target as Element;
    const lead = on.closest<SVGElement>(".loom-loose")?.dataset["lead"];
    const thing = on.closest<SVGElement>("[data-thing]")?.dataset["thing"] ?? chosen ?? undefined;
    const end = thing === undefined ? undefined : inHand(wiring, thing);
    if (event.key === "Enter" || event.key === " ") {
      if (lead !== undefined) take(lead);
      else if (thing !== undefined) choose(thing);
      return lead !== undefined || thing !== undefined;
    }
    if (event.key === "Escape" && chosen !== null) {
      choose(null);
      return true;
    }
    if (event.key === "t" && end) {
      take(end.id);
      return true;
    }
    if (event.key === "Delete" && end && "lead" in end && end.to) {
      void changes.disconnect(end.device, end.lead);
      return true;
    }
    return zoom.onKey(event);
  }

  function onKeyDown(event: KeyboardEvent) {
    if (event.ctrlKey || event.altKey || event.metaKey) return;
    if (!onHandKey(event) && (hand || !onFreeKey(event))) return;
    event.preventDefault();
    event.stopPropagation();
  }

  const shown = hand ? null : (traced ?? chosen);
  const name = `${wiring.rig_name}-loom`;
  const panel = (
    <>
      {hand && <HandPanel wiring={wiring} model={model} hand={hand} onPutBack={hold.putBack} />}
      {!hand && chosen !== null && (
        <ChosenPanel wiring={wiring} chosen={chosen} newPart={newPart} onTake={take} onClose={() => choose(null)} />
      )}
      <PartTray onTake={hold.takePart} onPress={pressPart} isAdding={isAdding} onAdd={() => setAdding(!isAdding)} />
    </>
  );
  return (
    <>
      <section className="bench loom" aria-label="Loom">
        <div className="loom-bar">
          <div className="loom-words" aria-live="polite">
            <Words wiring={wiring} model={model} id={shown} />
          </div>
          <div className="page-actions">
            <Button size="sm" variant="outline-primary" aria-label="Zoom out" onClick={() => zoom.zoom(0.8)}>
              −
            </Button>
            <Button size="sm" variant="outline-primary" aria-label="Zoom in" onClick={() => zoom.zoom(1.25)}>
              +
            </Button>
            <Button size="sm" variant="outline-primary" onClick={zoom.whole}>
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
        <Over>{isAdding && <PartForm wiring={wiring} onDone={() => setAdding(false)} />}</Over>
        <div
          ref={frame}
          className={`loom-frame ${hand ? "is-leading" : ""}`}
          tabIndex={0}
          role="group"
          aria-label="Loom; plus, minus and arrows zoom and move it"
          onWheel={(event) => zoom.zoom(Math.exp(-event.deltaY / 400), zoom.drawn(event))}
          onPointerDown={onPointerDown}
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
          onKeyDown={onKeyDown}
        >
          <LoomDrawing
            model={model}
            layout={layout}
            palette={preferences.theme === "slate" ? SLATE : PAPER}
            title={`How ${wiring.rig_name} is wired`}
            traced={hand ? null : traced}
            chosen={chosen}
            onTrace={setTraced}
            held={hand && held ? { ...hand, id: held.id, fits: (pin) => fitsPin(wiring, held, pin) } : null}
            view={zoom.view}
            svgRef={svg}
          />
        </div>
      </section>
      {beside(panel)}
    </>
  );
}

/** What is pointed at, in words, with the volts of its pin. */
function Words({ wiring, model, id }: { wiring: Wiring; model: LoomModel; id: string | null }) {
  if (id === null) {
    return <p>Point at a thread to follow it, or walk them with Tab. Take an end by its dot to lead it elsewhere.</p>;
  }
  const all = [...model.threads, ...model.tabs, ...model.loose];
  const found = all.find((one) => one.id === id);
  const card = wiring.devices.find((one) => `card ${one.id}` === id);
  const tag = model.tags.find((one) => `tag ${one.key}` === id || one.legs.some((leg) => leg.id === id));
  const pin = model.threads.find((one) => one.id === id)?.to;
  const volts = pinWords(wiring.pins.find((one) => one.name === pin)?.states ?? []);
  const leads = card?.leads.filter((lead) => lead.end).map((lead) => `${lead.name} to ${lead.end?.to ?? ""}`) ?? [];
  const words =
    found?.words ??
    (tag && `${tag.key}, ${tag.words}`) ??
    (card && `${card.name}: ${leads.length ? leads.join(", ") : "nothing is wired"}`);
  return (
    <>
      <p>{words ?? "It is off the loom."}</p>
      {volts.length > 0 && (
        <p className="loom-volts">
          {pin}: {volts.join(" · ")}
        </p>
      )}
    </>
  );
}
