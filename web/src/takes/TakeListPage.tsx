import { useCallback, useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, useNavigate, useParams } from "react-router";
import { body, client } from "../api/client";
import { useRefresh, useRig } from "../api/queries";
import { BringIn } from "../files/BringIn";
import type { LogFile } from "../files/columns";
import { LineTabs } from "../line/LineTabs";
import { Empty, Skeleton, Trouble } from "../shell/States";
import { useNotices } from "../shell/Notices";
import { useDeed } from "../shell/useDeed";
import { grouped } from "../units/units";
import { TakeCard } from "./TakeCard";
import { type Take, useTakes } from "./queries";

/** All recordings of a rig: find, play, join, remove; bring files in. */
export default function TakeListPage() {
  const rigId = Number(useParams()["rigId"]);
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
  const refresh = useRefresh();
  const brought = useCallback(
    (file: LogFile) => {
      setBringing(false);
      void navigate(`/rigs/${rigId}/recordings/${file.take_id}`);
      void refresh();
    },
    [navigate, refresh, rigId],
  );
  const tags = [...new Set(takes.data?.flatMap((take) => take.tags) ?? [])].sort();

  const of = (take: Take) => ({ params: { path: { take_id: take.id } } });
  const away = (take: Take) =>
    void deed(
      () => body(client.DELETE("/api/takes/{take_id}", of(take))),
      `“${take.name}” is removed.`,
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
      await body(
        client.POST("/api/rigs/{rig_id}/line/replay", {
          params: { path: { rig_id: rigId } },
          body: { take_id: take.id, pace: 1 },
        }),
      );
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
      () =>
        body(
          client.POST("/api/takes/join", {
            body: { take_ids: inOrder.map((take) => take.id), name: `${first.name}, joined` },
          }),
        ),
      (made) => `“${made.name}” holds ${grouped(made.samples, 0)} samples.`,
      (made) => body(client.DELETE("/api/takes/{take_id}", of(made))),
    );
    if (done) setChosen([]);
  }

  return (
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
        {rig.data && isBringing && (
          <BringIn rigId={rigId} air={rig.data.air} onDone={brought}>
            {(choose) => (
              <>
                <p>
                  Drop a file here: CSV, JSON lines, Parquet, VCD, MCAP, or any log with numbers in it. Its format is
                  told by what is in it; comments, units in headers, counters and clocks are understood.
                </p>
                <p className="empty-actions">
                  <Button size="sm" onClick={choose}>
                    Choose a file
                  </Button>
                  <Button size="sm" variant="outline-primary" onClick={() => setBringing(false)}>
                    Cancel
                  </Button>
                </p>
              </>
            )}
          </BringIn>
        )}
        <div className="take-tools">
          <Form.Control
            size="sm"
            type="search"
            aria-label="Search recordings"
            placeholder="search names, notes, tags, channels"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          {tags.map((one) => (
            <button
              key={one}
              type="button"
              className={`tag ${tag === one ? "is-on" : ""}`}
              aria-pressed={tag === one}
              onClick={() => setTag(tag === one ? "" : one)}
            >
              {one}
            </button>
          ))}
          <Form.Check
            type="switch"
            id="put-away"
            label="show what was removed"
            checked={putAway}
            onChange={(event) => setPutAway(event.target.checked)}
          />
          <Button size="sm" variant="outline-primary" disabled={chosen.length < 2} onClick={() => void join()}>
            {chosen.length < 2 ? "Join the chosen" : `Join ${chosen.length}`}
          </Button>
        </div>
        {takes.isPending && <Skeleton lines={6} />}
        {takes.isError && <Trouble error={takes.error} retry={() => void takes.refetch()} />}
        {takes.data?.length === 0 && (
          <Empty
            title={search || tag ? "No recording fits." : putAway ? "Nothing was removed." : "Nothing recorded yet."}
          >
            {!search && !tag && !putAway && (
              <p>
                <Link to={`/rigs/${rigId}/line`}>Listen to the line</Link> and press <kbd>C</kbd>, or bring in a file:
                CSV, JSON lines, Parquet, VCD, MCAP or any log with numbers in it.
              </p>
            )}
          </Empty>
        )}
        {takes.data && takes.data.length > 0 && (
          <ul className="take-cards">
            {takes.data.map((take) => (
              <TakeCard
                key={take.id}
                take={take}
                isChosen={chosen.includes(take.id)}
                isPutAway={putAway}
                onChoose={(isChosen) =>
                  setChosen(isChosen ? [...chosen, take.id] : chosen.filter((id) => id !== take.id))
                }
                onPlay={() => void play(take)}
                onAway={() => away(take)}
                onBack={() => back(take)}
              />
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}
