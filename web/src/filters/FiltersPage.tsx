import { useMemo, useState } from "react";
import Button from "react-bootstrap/Button";
import { Link, useParams, useSearchParams } from "react-router";
import { body, client } from "../api/client";
import { type Sensor, useSensor } from "../api/queries";
import { Empty, Skeleton, Trouble } from "../shell/States";
import { download } from "../shell/download";
import { useDeed } from "../shell/useDeed";
import { useTake } from "../takes/queries";
import { QuantityInput } from "../units/QuantityInput";
import { readsIn, saidIn } from "../units/shown";
import { grouped, useUnits } from "../units/units";
import { FilterRow } from "./FilterRow";
import { LinesPlot } from "./LinesPlot";
import { QrKnob } from "./QrKnob";
import { SpectraPlot } from "./SpectraPlot";
import { type Asked, type Comparison, type FilterKind, type Source, useComparison, useFilterKinds } from "./queries";
import { firstFive, spelled, usual } from "./words";

const MOST = 6;

/** Filters side by side on an output of a sensor, or on a channel of a recording. */
export default function FiltersPage() {
  const params = useParams();
  return params["sensorId"] ? (
    <OfSensor sensorId={Number(params["sensorId"])} />
  ) : (
    <OfChannel rigId={Number(params["rigId"])} takeId={Number(params["takeId"])} channel={Number(params["channel"])} />
  );
}

function OfSensor({ sensorId }: { sensorId: number }) {
  const sensor = useSensor(sensorId);
  const [search, setSearch] = useSearchParams();
  if (sensor.isError) return <Trouble error={sensor.error} retry={() => void sensor.refetch()} />;
  if (!sensor.data) return <Waiting />;
  const { bench, recordings } = sensor.data;
  const recording = recordings.find((one) => one.id === Number(search.get("recording"))) ?? recordings[0];
  if (!bench || !recording) {
    return (
      <div className="page">
        <Empty title="There is nothing to filter yet.">
          <p>
            Filters are compared on a recording.{" "}
            <Link to={`/sensors/${sensorId}/heard`}>Bring one in, or listen live, first.</Link>
          </p>
        </Empty>
      </div>
    );
  }
  const amounts = bench.outputs.filter((one) => one.quantity.states.length === 0);
  const output = amounts.find((one) => one.name === search.get("output")) ?? amounts[0];
  const lane = Math.max(0, Number(search.get("lane")) || 0);
  const go = (change: Record<string, string>) =>
    setSearch({ ...Object.fromEntries(search), ...change }, { replace: true });
  const source = { recordingId: recording.id, output: output?.name ?? "", lane };
  return (
    <Bench
      key={JSON.stringify(source)}
      source={source}
      sensor={sensor.data}
      title={`${sensor.data.name}: filters side by side`}
      back={`/sensors/${sensorId}/heard?recording=${recording.id}`}
    >
      <select
        className="form-select form-select-sm"
        aria-label="Recording"
        value={recording.id}
        onChange={(event) => go({ recording: event.target.value })}
      >
        {recordings.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}
          </option>
        ))}
      </select>
      <select
        className="form-select form-select-sm"
        aria-label="Output"
        value={output?.name}
        onChange={(event) => go({ output: event.target.value, lane: "0" })}
      >
        {amounts.map((one) => (
          <option key={one.name} value={one.name}>
            {one.label}
          </option>
        ))}
      </select>
      {output && output.quantity.lanes.length > 1 && (
        <select
          className="form-select form-select-sm"
          aria-label="Lane"
          value={lane}
          onChange={(event) => go({ lane: event.target.value })}
        >
          {output.quantity.lanes.map((name, place) => (
            <option key={name} value={place}>
              {name}
            </option>
          ))}
        </select>
      )}
    </Bench>
  );
}

function OfChannel({ rigId, takeId, channel }: { rigId: number; takeId: number; channel: number }) {
  const take = useTake(takeId);
  if (take.isError) return <Trouble error={take.error} retry={() => void take.refetch()} />;
  if (!take.data) return <Waiting />;
  const name = take.data.channels[channel]?.name ?? `channel ${channel + 1}`;
  return (
    <Bench
      source={{ takeId, channel }}
      sensor={null}
      title={`${name}: filters side by side`}
      back={`/rigs/${rigId}/recordings/${takeId}`}
    >
      <span className="quiet">“{take.data.name}”, as it came</span>
    </Bench>
  );
}

interface BenchProps {
  source: Source;
  sensor: Sensor | null;
  title: string;
  back: string;
  children: React.ReactNode;
}

function Bench({ source, sensor, title, back, children }: BenchProps) {
  const kinds = useFilterKinds();
  const [filters, setFilters] = useState<Asked[] | null>(null);
  const [hidden, setHidden] = useState<number[]>([]);
  const [speed, setSpeed] = useState(0.5);
  const told = useComparison(source, filters ?? [], speed);
  const deed = useDeed();
  // The first look is at the recording alone: what it suggests is what the five begin with.
  if (filters === null && told.data && kinds.data && !told.isPlaceholderData) {
    setFilters(firstFive(kinds.data, told.data).map((words) => ({ words, is_hindsight: false })));
  }
  const count = told.data?.rows.length ?? 0;
  const shown = useMemo(() => Array.from({ length: count }, (_, place) => !hidden.includes(place)), [count, hidden]);

  function use(words: string) {
    if (!sensor) return;
    const patch = (smooth: string) =>
      body(
        client.PATCH("/api/sensors/{sensor_id}", {
          params: { path: { sensor_id: sensor.id } },
          body: { parameters: { ...sensor.parameters, smooth } },
        }),
      );
    const before = String(sensor.parameters["smooth"] ?? "");
    void deed(
      () => patch(words),
      `${words} stands in the chain of ${sensor.name} now.`,
      () => patch(before),
    );
  }

  return (
    <div className="page filters">
      <header className="studies-head">
        <h1>{title}</h1>
        <span className="filters-of">{children}</span>
        <Link to={back} className="btn btn-sm btn-outline-primary ms-auto">
          Back
        </Link>
      </header>
      {told.isError && <Trouble error={told.error} retry={() => void told.refetch()} />}
      {!told.data && !told.isError && <Skeleton lines={8} />}
      {told.data && kinds.data && filters && (
        <Compared
          told={told.data}
          kinds={kinds.data}
          filters={filters}
          setFilters={setFilters}
          shown={shown}
          onShow={(place, isShown) =>
            setHidden((before) => (isShown ? before.filter((one) => one !== place) : [...before, place]))
          }
          speed={speed}
          setSpeed={setSpeed}
          onUse={told.data.can_take && sensor ? use : null}
        />
      )}
    </div>
  );
}

interface ComparedProps {
  told: Comparison;
  kinds: FilterKind[];
  filters: Asked[];
  setFilters: (filters: Asked[]) => void;
  shown: boolean[];
  onShow: (place: number, isShown: boolean) => void;
  speed: number;
  setSpeed: (speed: number) => void;
  onUse: ((words: string) => void) | null;
}

function Compared({ told, kinds, filters, setFilters, shown, onShow, speed, setSpeed, onUse }: ComparedProps) {
  const units = useUnits();
  const small = readsIn(units, told.quantity.small);
  const row = (asked: Asked) =>
    told.rows.find((one) => one.words === asked.words && one.is_hindsight === asked.is_hindsight);
  const change = (place: number, next: Asked) => setFilters(filters.map((one, n) => (n === place ? next : one)));
  const kalman = filters.findIndex((one) => spelled(one.words).name === "kalman" && !one.is_hindsight);
  const chosen = filters[kalman];
  return (
    <>
      <LinesPlot told={told} shown={shown} />
      <p className="bench-note">
        Noise of {saidIn(small, told.noise)}{" "}
        {told.is_still ? "where it was held still" : "from one reading to the next, since nothing was held still"}; a
        reading every {grouped(1000 * told.gap_s, 0)} ms; {told.spikes} spike{told.spikes === 1 ? "" : "s"}.
        {told.samples < told.of && ` Compared on the first ${grouped(told.samples, 0)} of ${grouped(told.of, 0)}.`}
      </p>
      <div className="filter-table-holder">
        <table className="mark-table filter-table">
          <thead>
            <tr>
              <th scope="col">Filter</th>
              <th scope="col" className="figure" title="Standard deviation held still">
                noise left, {small.unit}
              </th>
              <th scope="col" className="figure" title="From 10 to 90 % of a step">
                rise, ms
              </th>
              <th scope="col" className="figure" title="Behind what changes evenly">
                delay, ms
              </th>
              <th scope="col" className="figure" title="Beyond a step">
                overshoot, %
              </th>
              <th scope="col" className="figure" title="What is left of a single wild reading">
                spike left, %
              </th>
              <th scope="col" className="figure" title="How much further it goes before it stops">
                costs, mm
              </th>
              <th scope="col">
                <span className="visually-hidden">change</span>
              </th>
            </tr>
          </thead>
          <tbody>
            <FilterRow
              place={0}
              asked={null}
              told={told.rows[0]}
              all={told}
              kinds={kinds}
              isShown={shown[0] ?? true}
              onShow={(isShown) => onShow(0, isShown)}
              onChange={() => undefined}
              onRemove={() => undefined}
              onUse={null}
            />
            {filters.map((asked, place) => (
              <FilterRow
                key={place}
                place={place + 1}
                asked={asked}
                told={row(asked)}
                all={told}
                kinds={kinds}
                isShown={shown[place + 1] ?? true}
                onShow={(isShown) => onShow(place + 1, isShown)}
                onChange={(next) => change(place, next)}
                onRemove={() => setFilters(filters.filter((_, n) => n !== place))}
                onUse={onUse && (() => onUse(asked.words))}
              />
            ))}
          </tbody>
        </table>
      </div>
      <div className="filter-foot">
        <Button
          size="sm"
          variant="outline-primary"
          disabled={filters.length >= MOST}
          onClick={() => {
            const free =
              kinds.find((kind) => !filters.some((one) => spelled(one.words).name === kind.name)) ?? kinds[0];
            if (free) setFilters([...filters, { words: usual(free, told), is_hindsight: false }]);
          }}
        >
          Add a filter
        </Button>
        <QuantityInput
          label="It drives at"
          quantity="speed"
          decimals={2}
          value={speed}
          onChange={(next) => next !== null && next >= 0 && setSpeed(next)}
        />
        <Button size="sm" variant="outline-primary" onClick={() => save(told)}>
          Take the table away
        </Button>
        {!onUse && told.filtered && (
          <span className="quiet">
            In the chain a filter stands on <b>{told.filtered}</b>: compare there to use one.
          </span>
        )}
      </div>
      <div className="filter-below">
        {chosen && <QrKnob asked={chosen} told={row(chosen)} all={told} onChange={(next) => change(kalman, next)} />}
        <SpectraPlot told={told} shown={shown} />
      </div>
    </>
  );
}

/** The table as a file: every filter as it would be typed, and its figures in SI. */
function save(told: Comparison) {
  const rows = told.rows.map((one) => ({ ...one, line: undefined, hz: undefined, density: undefined }));
  const text = JSON.stringify(
    { unit: told.quantity.unit, noise: told.noise, gap_s: told.gap_s, filters: rows },
    null,
    2,
  );
  download(new Blob([text], { type: "application/json" }), "filters.json");
}

function Waiting() {
  return (
    <div className="page">
      <Skeleton lines={8} />
    </div>
  );
}
