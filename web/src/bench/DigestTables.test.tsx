import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { FiguresAcross, FiguresDown } from "./DigestTables";

type Figure = Schemas["FigureOut"];
const plain = { unit: "s", scale: 1, offset: 0, decimals: 2 };
const shown = { metric: plain, imperial: plain } as Figure["shown"];
const figure = (name: string, value: number | null, more: Partial<Figure> = {}): Figure => ({
  name,
  label: name,
  value,
  u: null,
  shown,
  how: `how ${name} is got`,
  feeds: [],
  sets: {},
  ...more,
});
const digest = (figures: Figure[], laps = 0) => ({
  name: "d",
  label: "D",
  lap_note: "lap",
  beside: null,
  others: [],
  stretches: Array.from({ length: laps + 1 }, (_, lap) => ({ lap, from_s: lap, to_s: lap + 1, figures })),
});
const down = (figures: Figure[], now = {}) =>
  renderToStaticMarkup(<FiguresDown digest={digest(figures)} head="all of it" now={now} onTry={() => undefined} />);
const text = (markup: string) => markup.replace(/<[^>]*>/g, " ").replace(/(\s|&nbsp;|\u00a0)+/g, " ");

describe("a table of figures", () => {
  it("says a dash for what is not known, never a nought", () => {
    expect(down([figure("delay", null)])).toContain('<td class="figure">–</td>');
    expect(down([figure("delay", 0)])).toContain('<td class="figure">0.00</td>');
  });

  it("says a spread of twice the standard uncertainty, and as many digits as that is worth", () => {
    expect(text(down([figure("delay", 1.23456, { u: 0.02 })]))).toContain("1.23 ± 0.04");
    expect(text(down([figure("delay", 1.23456, { u: 0.2 })]))).toContain("1.2 ± 0.4");
  });

  it("says how each is got, and its unit beside its name", () => {
    expect(text(down([figure("delay", 1)]))).toContain("delay s 1.00 how delay is got");
  });

  it("offers what a figure suggests, until it is what is set", () => {
    const suggested = figure("kp", 0.2, { sets: { fusion: "mahony", kp: 0.2 } });
    expect(down([suggested], { fusion: "mahony", kp: 0.5 })).toContain(">Try it</button>");
    const taken = down([suggested], { fusion: "mahony", kp: 0.2 });
    expect(taken).toContain("disabled");
    expect(taken).toContain(">in use</button>");
    expect(down([figure("kp", 0.2)])).not.toContain("button");
  });

  it("has a row for every lap", () => {
    const across = renderToStaticMarkup(
      <FiguresAcross digest={digest([figure("peak", 2), figure("fell", 3)], 2)} head="all of it" />,
    );
    expect(text(across)).toContain("0.0 to 1.0 s 2.00 3.00 lap 1 2.00 3.00 lap 2 2.00 3.00");
  });
});
