import Button from "react-bootstrap/Button";

interface Props {
  /** Whether anything is selected; the tools keep their place when nothing is. */
  isOn: boolean;
  onMark: () => void;
  onZoom: () => void;
  onTrim: () => void;
  onSplit: () => void;
  onClear: () => void;
}

/** What can be done with what lies between A and B. */
export function SelectionTools({ isOn, onMark, onZoom, onTrim, onSplit, onClear }: Props) {
  return (
    <span className="plot-buttons" role="group" aria-label="With what is selected">
      <Button size="sm" variant="outline-primary" disabled={!isOn} onClick={onMark}>
        Mark it <kbd>M</kbd>
      </Button>
      <Button size="sm" variant="outline-primary" disabled={!isOn} onClick={onZoom}>
        Zoom to it
      </Button>
      <Button size="sm" variant="outline-primary" disabled={!isOn} onClick={onTrim}>
        Trim to it
      </Button>
      <Button size="sm" variant="outline-primary" disabled={!isOn} onClick={onSplit}>
        Split at A
      </Button>
      <Button size="sm" variant="outline-primary" disabled={!isOn} onClick={onClear}>
        Clear <kbd>Esc</kbd>
      </Button>
    </span>
  );
}
