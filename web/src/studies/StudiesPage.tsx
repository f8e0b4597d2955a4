import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link, useNavigate, useParams } from "react-router";
import { body, client } from "../api/client";
import { type Sensor, useSensor } from "../api/queries";
import { Skeleton, Trouble } from "../shell/States";
import { useDeed } from "../shell/useDeed";
import { day } from "../units/dates";
import { LedCell } from "./LedCell";
import { PlanStudy } from "./PlanStudy";
import { StudyCells } from "./StudyCells";
import { StudyResult } from "./StudyResult";
import { type Study, useStudies } from "./queries";

/** The planned experiments of a sensor: planned, led cell by cell, told and printed. */
export default function StudiesPage() {
  const params = useParams();
  const sensorId = Number(params["sensorId"]);
  const sensor = useSensor(sensorId);
  const studies = useStudies(sensorId);
  if (sensor.isError) return <Trouble error={sensor.error} retry={() => void sensor.refetch()} />;
  if (studies.isError) return <Trouble error={studies.error} retry={() => void studies.refetch()} />;
  if (!sensor.data || !studies.data) {
    return (
      <div className="page">
        <Skeleton lines={9} />
      </div>
    );
  }
  const wanted = studies.data.find((one) => one.id === Number(params["studyId"]));
  return <Studies key={wanted?.id ?? 0} sensor={sensor.data} studies={studies.data} study={wanted ?? null} />;
}

interface Props {
  sensor: Sensor;
  studies: Study[];
  study: Study | null;
}

function Studies({ sensor, studies, study }: Props) {
  const [planning, setPlanning] = useState(studies.length === 0);
  const navigate = useNavigate();
  const deed = useDeed();
  const shown = study ?? (planning ? null : (studies[0] ?? null));
  const [again, setAgain] = useState<string | null>(null);
  const next = shown?.cells.find((cell) => (again ? cell.key === again : !cell.is_taken));

  function remove(gone: Study) {
    const params = { path: { study_id: gone.id } };
    void navigate(`/sensors/${sensor.id}/studies`);
    return deed(
      () => body(client.DELETE("/api/studies/{study_id}", { params })),
      `The study “${gone.name}” is gone.`,
      () => body(client.POST("/api/studies/{study_id}/restore", { params })),
    );
  }

  return (
    <div className="page studies">
      <header className="studies-head">
        <h1>{sensor.name}, studies</h1>
        <Link className="btn btn-outline-primary btn-sm" to={`/sensors/${sensor.id}/calibrated`}>
          Back to the bench
        </Link>
      </header>
      {studies.length > 0 && (
        <nav className="output-tabs" aria-label="Studies">
          {studies.map((one) => (
            <Link
              key={one.id}
              to={`/sensors/${sensor.id}/studies/${one.id}`}
              aria-current={one.id === shown?.id ? "page" : undefined}
              onClick={() => setPlanning(false)}
            >
              {one.name} <b>{day(one.made_at)}</b>
            </Link>
          ))}
          <button
            type="button"
            aria-current={shown ? undefined : "page"}
            onClick={() => {
              setPlanning(true);
              void navigate(`/sensors/${sensor.id}/studies`);
            }}
          >
            Plan another
          </button>
        </nav>
      )}
      {!shown && <PlanStudy sensor={sensor} />}
      {shown && (
        <>
          {next && (
            <LedCell
              key={next.key}
              sensor={sensor}
              study={shown}
              cell={next}
              isAgain={again !== null}
              onDone={() => setAgain(null)}
            />
          )}
          <StudyResult study={shown} />
          <StudyCells study={shown} onAgain={setAgain} />
          <p className="empty-actions no-print">
            <Button size="sm" variant="outline-primary" onClick={() => window.print()}>
              Print
            </Button>
            <Button size="sm" variant="outline-primary" onClick={() => void remove(shown)}>
              Remove this study
            </Button>
          </p>
        </>
      )}
    </div>
  );
}
