import { Link } from "react-router";

/** Live and kept: the two sides of a rig's line. */
export function LineTabs({ rigId, view }: { rigId: number; view: "line" | "recordings" }) {
  return (
    <nav className="stage-tabs" aria-label="Line and recordings">
      <Link
        to={`/rigs/${rigId}/line`}
        className={view === "line" ? "is-current" : ""}
        aria-current={view === "line" ? "page" : undefined}
      >
        Live
      </Link>
      <Link
        to={`/rigs/${rigId}/recordings`}
        className={view === "recordings" ? "is-current" : ""}
        aria-current={view === "recordings" ? "page" : undefined}
      >
        Recordings
      </Link>
    </nav>
  );
}
