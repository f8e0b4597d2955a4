import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import type { Sensor, Stone } from "../api/queries";
import { useKey } from "../shell/keys";
import { STATE_WORDS, StoneMark } from "../stones/StoneMark";
import { STAGES } from "../stones/stages";

interface Props {
  sensor: Sensor;
  stage: Stone["stage"];
  children?: ReactNode;
}

/** The sensor in hand and its five stones; the keys 1 to 5 go from one to another. */
export function BenchHead({ sensor, stage, children }: Props) {
  const navigate = useNavigate();
  const at = (to: Stone["stage"]) => ({ pathname: `/sensors/${sensor.id}/${to}`, search: location.search });
  STAGES.forEach(({ stage: to }, index) => {
    // eslint-disable-next-line react-hooks/rules-of-hooks -- STAGES never changes length
    useKey(String(index + 1), () => void navigate(at(to)));
  });
  return (
    <header className="bench-head">
      <h1>{sensor.name}</h1>
      <nav className="stage-tabs" aria-label="Stages of the work">
        {sensor.stones.map((stone, index) => (
          <Link
            key={stone.stage}
            to={at(stone.stage)}
            className={stone.stage === stage ? "is-current" : ""}
            aria-current={stone.stage === stage ? "page" : undefined}
            title={stone.reason}
          >
            <StoneMark state={stone.state} size={22} />
            {STAGES[index]?.name}
            <span className="visually-hidden">: {STATE_WORDS[stone.state]}</span>
          </Link>
        ))}
      </nav>
      {children}
    </header>
  );
}
