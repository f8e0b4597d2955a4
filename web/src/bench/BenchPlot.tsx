import { RecordingPlot } from "../plot/RecordingPlot";
import type { Band } from "../plot/props";
import { Skeleton, Trouble } from "../shell/States";
import type { BenchProps } from "./types";

type Props = BenchProps & {
  bands?: Band[];
  selecting?: boolean;
  onSelect?: (from: number, to: number) => void;
  height?: number;
};

/** The plot of the output in hand, or why there is none. */
export function BenchPlot(props: Props) {
  const { sensor, recording, look, seen, lookError, retryLook } = props;
  if (lookError && !look) return <Trouble error={lookError} retry={retryLook} />;
  if (!recording) return null;
  if (!look || !seen) return <Skeleton lines={6} />;
  return (
    <>
      {Boolean(lookError) && <Trouble error={lookError} />}
      <RecordingPlot
        key={seen.name}
        seen={seen}
        decisions={props.decisions}
        durationS={look.duration_s}
        range={props.range}
        onRange={props.setRange}
        onAt={props.setAtS}
        bands={props.bands}
        selecting={props.selecting}
        onSelect={props.onSelect}
        csvHref={`/api/recordings/${recording.id}/csv`}
        name={`${sensor.name} ${recording.name}`}
        height={props.height}
      />
    </>
  );
}
