import { grouped } from "../units/units";
import { markSays } from "./markSays";
import { type Take, type TakeMark } from "./queries";
import { plotTime, trueValue } from "./words";

interface Props {
  take: Take;
  marks: TakeMark[];
  onSpan: (mark: TakeMark) => void;
}

/** What was known to be true, and when: each can be looked into with one press. */
export function MarkList({ take, marks, onSpan }: Props) {
  if (marks.length === 0) {
    return (
      <p className="quiet">
        Nothing is marked. Select a stretch where the true value is known and press <kbd>M</kbd>: a calibration can rest
        on it.
      </p>
    );
  }
  return (
    <>
      <h2>Marked</h2>
      <ul className="mark-list">
        {marks.map((mark) => (
          <li key={mark.id}>
            <button type="button" className="link" onClick={() => onSpan(mark)}>
              {markSays(mark) || "a mark"}
            </button>{" "}
            {mark.value !== null && (
              <>
                {mark.channel !== null && `${take.channels[mark.channel]?.name ?? ""} `}
                <b>{trueValue(mark)}</b>
              </>
            )}
            <span className="quiet d-block">
              {grouped(mark.start_s, 1)} to {plotTime(mark.end_s, 200)}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
