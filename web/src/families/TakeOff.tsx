/** A small cross that takes a part of a description out. */
export function TakeOff({ what, words = "Remove it", onClick }: { what: string; words?: string; onClick: () => void }) {
  return (
    <button type="button" className="take-off" aria-label={`${words}: ${what}`} title={words} onClick={onClick}>
      ×
    </button>
  );
}
