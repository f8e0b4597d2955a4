import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import type { Step } from "../../api/queries";
import { LevelPicture } from "./LevelPicture";

const DEGREE = Math.PI / 180;
const degrees = { unit: "°", scale: 180 / Math.PI, offset: 0, decimals: 1 };
const small = { metric: degrees, imperial: degrees };

function drawn(stage: string, angles: (number | null)[], status = "ok", u = 0.5): string {
  const [first = null, ...rest] = angles.map((angle) => ({
    value: angle === null ? null : angle * DEGREE,
    u: u * DEGREE,
    status_word: status,
  }));
  const step = { stage, small, status, ...first, others: rest } as unknown as Step;
  return renderToStaticMarkup(<LevelPicture steps={[step]} parameters={{}} />);
}

const says = (markup: string) => /aria-label="([^"]*)"/.exec(markup)?.[1];
/** The first corner of a wedge of doubt, beside the middle of the deck. */
const wedges = (markup: string) => [...markup.matchAll(/level-doubt" points="115,42 ([\d.]+),([\d.]+)/g)];

describe("how a deck leans", () => {
  it("is said by the side that is up", () => {
    expect(says(drawn("tilt", [3, 0.01]))).toBe("From behind: 3.0 ° up on the left. From the side: level.");
    expect(says(drawn("tilt", [-1.1, 4]))).toBe(
      "From behind: 1.1 ° up on the right. From the side: 4.0 ° down at the nose.",
    );
  });

  it("is drawn turned the way it is, and no steeper than can be seen", () => {
    expect(drawn("tilt", [10, 0])).toContain("rotate(10 115 42)");
    expect(drawn("tilt", [0, 10])).toContain("rotate(-10 115 42)");
    expect(drawn("tilt", [80, 0])).toContain("rotate(22 115 42)");
    expect(says(drawn("tilt", [80, 0]))).toContain("80.0 °");
  });

  it("is as wide as what is doubted of it", () => {
    const [narrow, wide] = [0.5, 4].map((u) => {
      const [first] = wedges(drawn("tilt", [0, 0], "ok", u));
      return Math.abs(Number(first?.[2]) - 42);
    });
    expect(wide).toBeGreaterThan(4 * (narrow ?? 0));
    expect(narrow).toBeGreaterThan(0);
  });

  it("has a heading only where one is told", () => {
    expect(drawn("attitude", [1, 2, 90])).toContain("90.0 ° to the left");
    expect(drawn("tilt", [1, 2])).not.toContain("level-nose");
  });

  it("is not drawn, but said, where there is none", () => {
    const none = drawn("tilt", [null, 3], "no angle");
    expect(says(none)).toContain("From behind: no angle.");
    expect(none).toContain("level-moves");
    expect(drawn("tilt", [3])).toBe("");
    expect(renderToStaticMarkup(<LevelPicture steps={[]} parameters={{}} />)).toBe("");
  });
});
