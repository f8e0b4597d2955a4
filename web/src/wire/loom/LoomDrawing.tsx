import { type Ref } from "react";
import { Band, SparePegs, bandPlaces, pegRoom } from "./Band";
import { Card } from "./Card";
import { Comb } from "./Comb";
import { PartTag } from "./PartTag";
import { ThreadRun } from "./ThreadRun";
import { COMB_WIDTH, type LoomLayout, type Point } from "./geometry";
import { type LoomModel, cardsOf } from "./model";
import type { Palette } from "./palette";
import { placesOf, related } from "./reach";
import { softLine } from "./thread";

const TAB_ROOM = 74;
const FOOT = 4;
const EDGE = 14;
const FONT = "Atkinson Hyperlegible Next, sans-serif";

/** What is in hand over the loom, and where it would go. */
interface Held {
  id: string;
  target: string | null;
  /** Where the pointer is, in the drawing; null when it is led by keys. */
  at: Point | null;
  fits: (pin: string) => boolean;
}

interface Props {
  model: LoomModel;
  layout: LoomLayout;
  palette: Palette;
  title: string;
  traced: string | null;
  onTrace: (id: string | null) => void;
  /** What was chosen: drawn bold while the rest stays as it is. */
  chosen?: string | null;
  held?: Held | null;
  /** What part of the drawing is looked at: x, y, width, height. */
  view: [number, number, number, number];
  svgRef?: Ref<SVGSVGElement>;
}

/** How large the whole drawing is. */
export function drawingSize(model: LoomModel, layout: LoomLayout): [number, number] {
  const bands = bandPlaces(model.rails).width;
  return [
    EDGE + bands + TAB_ROOM + layout.width + EDGE,
    EDGE + layout.height + FOOT + bands + pegRoom(model.rails) + EDGE,
  ];
}

/** The loom: cards on the left, the comb of pins on the right, threads and parts between, bands around. */
export function LoomDrawing({
  model,
  layout,
  palette,
  title,
  traced,
  onTrace,
  chosen = null,
  held = null,
  view,
  svgRef,
}: Props) {
  const { places: bands, width: bandsWidth } = bandPlaces(model.rails);
  const left = EDGE + bandsWidth + TAB_ROOM;
  const top = EDGE;
  const [width, height] = drawingSize(model, layout);
  const grounds = model.rails.filter((rail) => rail.isGround);
  const ground = grounds[0]?.name ?? "ground";
  const xOf = new Map(bands.map((one) => [one.rail.name, EDGE + one.middle]));
  const bandAt = (rail: string) => (xOf.get(rail) ?? xOf.get(ground) ?? 0) - left;
  const faded = (id: string) => (traced !== null && !related(model, traced, id) ? 0.16 : 1);
  const isBold = (id: string) => id === chosen || (traced !== null && related(model, traced, id));
  const lit =
    traced === null
      ? null
      : new Set(
          [...model.threads.map((one) => one.id), ...model.tags.map((one) => `tag ${one.key}`)]
            .filter((id) => related(model, traced, id))
            .flatMap((id) => placesOf(model, id)),
        );
  const trace = (id: string) => ({
    tabIndex: 0,
    role: "img",
    "aria-keyshortcuts": "Enter T Delete",
    "data-thing": id,
    onPointerEnter: () => onTrace(id),
    onPointerLeave: () => onTrace(null),
    onFocus: () => onTrace(id),
    onBlur: () => onTrace(null),
  });
  const from = held && startOf(layout, held.id);
  const to = held && (held.at ? { x: held.at.x - left, y: held.at.y - top } : placeAt(layout, held.target));
  return (
    <svg
      ref={svgRef}
      className="loom-drawing"
      viewBox={view.join(" ")}
      role="group"
      aria-label={title}
      fontFamily={FONT}
      xmlns="http://www.w3.org/2000/svg"
    >
      <rect x={0} y={0} width={width} height={height} fill={palette.ground} />
      {bands.map((place, index) => {
        const positives = bands.slice(0, index).filter((one) => !one.rail.isGround).length;
        const { isGround } = place.rail;
        return (
          <Band
            key={place.rail.name}
            place={place}
            x={EDGE + place.middle}
            top={EDGE}
            floor={top + layout.height + FOOT + bandsWidth - place.middle}
            right={left + layout.comb.x + 4 + place.middle * Math.min(1, COMB_WIDTH / bandsWidth)}
            combBottom={top + layout.comb.y + layout.comb.height}
            fill={isGround ? palette.groundBand : (palette.bands[positives % palette.bands.length] ?? "")}
            ink={isGround ? palette.groundInk : (palette.bandInk[positives % palette.bandInk.length] ?? "")}
            palette={palette}
            isTarget={held?.target === place.rail.name}
          />
        );
      })}
      <SparePegs
        rails={model.rails}
        x={left}
        y={top + layout.height + FOOT + bandsWidth + 2}
        target={held?.target ?? null}
        palette={palette}
      />
      <g transform={`translate(${left} ${top})`}>
        <Comb
          model={model}
          layout={layout}
          palette={palette}
          lit={lit}
          target={held?.target ?? null}
          fits={held?.fits ?? null}
        />
        {model.threads.map((thread) => (
          <g
            key={thread.id}
            className="loom-thread"
            data-place={held ? thread.id : undefined}
            opacity={faded(thread.id)}
            aria-label={thread.words}
            {...trace(thread.id)}
          >
            <ThreadRun
              thread={thread}
              layout={layout}
              palette={palette}
              ground={ground}
              isBold={isBold(thread.id) || held?.target === thread.id}
            />
          </g>
        ))}
        {model.tags.map((tag) => {
          const box = layout.tags.get(tag.key);
          const id = `tag ${tag.key}`;
          return (
            box && (
              <g
                key={id}
                className="loom-tag"
                opacity={faded(id)}
                aria-label={`${tag.key}, ${tag.words}`}
                {...trace(id)}
              >
                <PartTag tag={tag} box={box} runs={layout.runs} palette={palette} isBold={isBold(id)} />
              </g>
            )
          );
        })}
        {model.dots.map((dot) => {
          const box = layout.dots.get(dot.name);
          return (
            box && (
              <g key={dot.name} data-place={dot.name} className="loom-dot" role="img" aria-label={dot.words}>
                <circle
                  cx={box.x + box.width / 2}
                  cy={box.y + box.height / 2}
                  r={held?.target === dot.name ? 8 : 5}
                  fill={held?.target === dot.name ? palette.accent : palette.ink}
                />
                <circle cx={box.x + box.width / 2} cy={box.y + box.height / 2} r={12} fill="transparent" />
                {dot.lead === "" && (
                  <text x={box.x + box.width / 2} y={box.y - 4} textAnchor="middle" fontSize={12.2} fill={palette.ink}>
                    {dot.name}
                  </text>
                )}
              </g>
            )
          );
        })}
        {cardsOf(model).map((device) => {
          const box = layout.cards.get(device.id);
          const id = `card ${device.id}`;
          return (
            box && (
              <g
                key={id}
                className="loom-card"
                opacity={faded(id)}
                aria-label={`${device.name}, ${device.family_label}`}
                {...trace(id)}
              >
                <Card model={model} layout={layout} palette={palette} device={device} box={box} bandAt={bandAt} />
              </g>
            )
          );
        })}
        {from && to && (
          <g className="loom-held" pointerEvents="none" fill="none" strokeLinecap="round">
            <path d={softLine(hanging(from, to))} stroke={palette.ground} strokeWidth={9} />
            <path d={softLine(hanging(from, to))} stroke={palette.accent} strokeWidth={3.4} strokeDasharray="9 5" />
            <circle cx={to.x} cy={to.y} r={6} fill={palette.accent} />
          </g>
        )}
      </g>
    </svg>
  );
}

function hanging(from: Point, to: Point): Point[] {
  const middle = (from.x + to.x) / 2;
  return [from, { x: middle, y: from.y }, { x: middle, y: to.y }, to];
}

/** Where a place is, as far as it has one point: a tooth, a joint, or a lead on its card. */
function placeAt(layout: LoomLayout, place: string | null): Point | null {
  if (place === null) return null;
  const dot = layout.dots.get(place);
  return layout.teeth.get(place) ?? (dot && middle(dot)) ?? layout.leads.get(place) ?? null;
}

function middle({ x, y, width, height }: { x: number; y: number; width: number; height: number }): Point {
  return { x: x + width / 2, y: y + height / 2 };
}

/** Where what is in hand starts: at its lead, at its part, or at the left of its card. */
function startOf(layout: LoomLayout, id: string): Point | null {
  const tag = layout.tags.get(id.slice(0, id.lastIndexOf(" ")));
  const card = layout.cards.get(Number(id.slice(0, id.indexOf("."))));
  return layout.leads.get(id) ?? (tag && middle(tag)) ?? (card && { x: card.x, y: middle(card).y }) ?? null;
}
