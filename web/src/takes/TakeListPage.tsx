import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, useNavigate, useParams } from "react-router";
import { body, client } from "../api/client";
import { useRig } from "../api/queries";
import { LineTabs } from "../line/LineTabs";
import { rate } from "../line/words";
import { Shell } from "../shell/Shell";
import { Empty, Skeleton, Trouble } from "../shell/States";
import { useNotices } from "../shell/Notices";
import { useDeed } from "../shell/useDeed";
import { dayAndTime } from "../units/dates";
import { grouped } from "../units/units";
import { BringIn } from "./BringIn";
import { type Take, useTakes } from "./queries";
import { duration } from "./words";

/** All recordings of a rig: find, play, join, put away; bring files in. */
export default function TakeListPage() {
  const rigId = Number(useParams()["rigId"]) || -1;
  const rig = useRig(rigId);
  const [search, setSearch] = useState("");
  const [tag, setTag] = useState("");
  const [putAway, setPutAway] = useState(false);
  const [chosen, setChosen] = useState<number[]>([]);
  const [isBringing, setBringing] = useState(false);
  const takes = useTakes(rigId, search, tag, putAway);
  const deed = useDeed();
  const notices = useNotices();
  const navigate = useNavigate();
  const tags = [...new Set(takes.data?.flatMap((take) => take.tags) ?? [])].sort();

  const of = (take: Take) => ({ params: { path: { take_id: take.id } } });
  const away = (take: Take) =>
    void deed(
      () => body(client.DELETE("/api/takes/{take_id}", of(take))),
      `“${take.name}” is put away.`,
      () => body(client.POST("/api/takes/{take_id}/restore", of(take))),
    );
  const back = (take: Take) =>
    void deed(
      () => body(client.POST("/api/takes/{take_id}/restore", of(take))),
      `“${take.name}” is back.`,
      () => body(client.DELETE("/api/takes/{take_id}", of(take))),
    );

  async function play(take: Take) {
    try {
      await body(client.POST("/api/rigs/{rig_id}/line/replay", { params: { path: { rig_id: rigId } }, body: { take_id: take.id, pace: 1 } }));
      await navigate(`/rigs/${rigId}/line`);
    } catch (error) {
      notices.failed(error);
    }
  }

  async function join() {
    const inOrder = takes.data?.filter((take) => chosen.includes(take.id)).reverse() ?? [];
    const first = inOrder[0];
    if (!first) return;
    const done = await deed(
      () => body(client.POST("/api/takes/join", { body: { take_ids: inOrder.map((take) => take.id), name: `${first.name}, joined` } })),
      (made) => `“${made.name}” holds ${grouped(made.samples, 0)} samples.`,
      (made) => body(client.DELETE("/api/takes/{take_id}", of(made))),
    );
    if (done) setChosen([]);
  }

  return (
    <Shell rig={rig.data} stage="line">
      <div className="bench-page">
        <header className="bench-head">
          <h1>{rig.data ? `${rig.data.name}, line` : "Line"}</h1>
          <LineTabs rigId={rigId} view="recordings" />
          <div className="page-actions ms-auto">
            <Button size="sm" aria-expanded={isBringing} onClick={() => setBringing(!isBringing)}>
              Bring in a file
            </Button>
            <a className="btn btn-sm btn-outline-primary" href={`/api/rigs/${rigId}/archive`} download>
              Whole rig as zip
            </a>
          </div>
        </header>
        <div className="page">
          {rig.data && isBringing && <BringIn rig={rig.data} onDone={() => setBringing(false)} />}
          <div className="take-tools">
            <Form.Control size="sm" type="search" aria-label="Search recordings" placeholder="search names, notes, tags, channels" value={search} onChange={(event) => setSearch(event.target.value)} />
            {tags.map((one) => (
              <button key={one} type="button" className={`tag ${tag === one ? "is-on" : ""}`} aria-pressed={tag === one} onClick={() => setTag(tag === one ? "" : one)}>
                {one}
              </button>
            ))}
            <Form.Check type="switch" id="put-away" label="put away" checked={putAway} onChange={(event) => setPutAway(event.target.checked)} />
            {chosen.length > 1 && (
              <Button size="sm" variant="outline-primary" onClick={() => void join()}>
                Join {chosen.length}
              </Button>
            )}
          </div>
          {takes.isPending && <Skeleton lines={6} />}
          {takes.isError && <Trouble error={takes.error} retry={() => void takes.refetch()} />}
          {takes.data?.length === 0 && (
            <Empty title={search || tag ? "No recording fits." : putAway ? "Nothing is put away." : "Nothing recorded yet."}>
              {!search && !tag && !putAway && (
                <p>
                  <Link to={`/rigs/${rigId}/line`}>Listen to the line</Link> and press <kbd>C</kbd>, or bring in a file: CSV, JSON lines, Parquet, VCD, MCAP or any log with numbers in it.
                </p>
              )}
            </Empty>
          )}
          {takes.data && takes.data.length > 0 && (
            <table className="takes">
              <thead>
                <tr>
                  <th scope="col">
                    <span className="visually-hidden">choose</span>
                  </th>
                  <th scope="col">name</th>
                  <th scope="col">when</th>
                  <th scope="col" className="figure">
                    length
                  </th>
                  <th scope="col" className="figure">
                    samples
                  </th>
                  <th scope="col" className="figure">
                    a second
                  </th>
                  <th scope="col">channels</th>
                  <th scope="col">
                    <span className="visually-hidden">do</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {takes.data.map((take) => (
                  <tr key={take.id}>
                    <td>
                      <Form.Check
                        aria-label={`Choose ${take.name}`}
                        checked={chosen.includes(take.id)}
                        onChange={(event) => setChosen(event.target.checked ? [...chosen, take.id] : chosen.filter((id) => id !== take.id))}
                      />
                    </td>
                    <td>
                      <Link to={`/rigs/${rigId}/recordings/${take.id}`}>{take.name}</Link>
                      {take.state === "cut" && (
                        <span className="badge-cut" title="Tick Stone ended before it was stopped; all that was written is here.">
                          ✂ cut
                        </span>
                      )}
                      {take.state === "open" && <span className="badge-cut">● recording</span>}
                      {take.tags.map((one) => (
                        <span key={one} className="tag is-small">
                          {one}
                        </span>
                      ))}
                      <span className="quiet take-source">
                        {take.source_name}
                        {take.bad_lines > 0 && `, ${grouped(take.bad_lines, 0)} lines aside`}
                        {take.gaps.length > 0 && `, ${take.gaps.length} gap${take.gaps.length === 1 ? "" : "s"}`}
                      </span>
                    </td>
                    <td>{dayAndTime(take.recorded_at)}</td>
                    <td className="figure">{duration(take.duration_s)}</td>
                    <td className="figure">{grouped(take.samples, 0)}</td>
                    <td className="figure">{rate(take.rate_hz)}</td>
                    <td className="quiet">
                      {take.channels
                        .slice(0, 4)
                        .map((channel) => channel.name)
                        .join(", ")}
                      {take.channels.length > 4 && ` and ${take.channels.length - 4} more`}
                    </td>
                    <td className="take-actions">
                      {putAway ? (
                        <Button size="sm" variant="outline-primary" onClick={() => back(take)}>
                          Bring back
                        </Button>
                      ) : (
                        <>
                          <Button size="sm" variant="outline-primary" disabled={take.samples === 0} onClick={() => void play(take)}>
                            Replay
                          </Button>
                          <Button size="sm" variant="outline-primary" disabled={take.state === "open"} onClick={() => away(take)}>
                            Put away
                          </Button>
                        </>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
      </div>
    </Shell>
  );
}
