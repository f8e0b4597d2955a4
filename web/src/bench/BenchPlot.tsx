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

/** The plot of the recording in hand, or why there is none. */
export function BenchPlot(props: Props) {
  const { sensor, recording, view, viewError, retryView, draft } = props;
  if (viewError && !view) return <Trouble error={viewError} retry={retryView} />;
  if (!recording) return null;
  if (!view) return <Skeleton lines={6} />;
  return (
    <>
      {Boolean(viewError) && <Trouble error={viewError} />}
      <RecordingPlot
        view={view}
        range={props.range}
        onRange={props.setRange}
        onAt={props.setAtS}
        bands={props.bands}
        threshold={draft.threshold ?? sensor.threshold}
        selecting={props.selecting}
        onSelect={props.onSelect}
        csvHref={`/api/recordings/${recording.id}/csv`}
        name={`${sensor.name} ${recording.name}`}
        height={props.height}
      />
    </>
  );
}
