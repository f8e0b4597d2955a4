import type { ShownBead } from "../queries";
import { wireColour } from "../wireColours";

/** A part, small: a resistor with its own colour bands, a capacitor as two halves. */
export function BeadGlyph({ bead }: { bead: Pick<ShownBead, "kind" | "bands"> }) {
  return <BandedResistor bands={bead.bands ?? []} isCapacitor={bead.kind === "capacitor"} />;
}

export function BandedResistor({
  bands,
  isCapacitor = false,
  width = 30,
}: {
  bands: string[];
  isCapacitor?: boolean;
  width?: number;
}) {
  return (
    <svg className="bead-glyph" width={width} height={(width * 12) / 30} viewBox="0 0 30 12" aria-hidden="true">
      <line x1="0" x2="30" y1="6" y2="6" stroke="currentColor" strokeWidth="1.2" />
      {isCapacitor ? (
        <>
          <rect x="9" y="1" width="5.4" height="10" rx="2.4" fill="#d8a24a" />
          <rect x="15.6" y="1" width="5.4" height="10" rx="2.4" fill="#d8a24a" />
        </>
      ) : (
        <>
          <rect x="3" y="1" width="24" height="10" rx="4" fill="#e6d3ac" stroke="#8a7546" strokeWidth="0.6" />
          {bands.map((band, index) => (
            <rect
              key={index}
              x={6 + index * (16 / Math.max(3, bands.length - 1)) + (index === bands.length - 1 ? 1.5 : 0)}
              y="1.3"
              width="2.2"
              height="9.4"
              fill={wireColour(band)}
            />
          ))}
        </>
      )}
    </svg>
  );
}
