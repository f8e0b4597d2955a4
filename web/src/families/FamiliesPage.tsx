import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { Link, NavLink, useNavigate, useParams } from "react-router";
import { body, client } from "../api/client";
import { useDeed } from "../shell/useDeed";
import { Skeleton, Trouble } from "../shell/States";
import { FamilyEditor } from "./FamilyEditor";
import { FamilyFacts } from "./FamilyFacts";
import { type FamilySummary, useFamilies, useFamily } from "./queries";
import { Explained } from "../shell/Explained";

/** Families of boards and devices: what is known of each, and one's own beside them. */
export default function FamiliesPage() {
  const params = useParams();
  const kind = params["kind"] === "device" ? "device" : "board";
  const families = useFamilies();
  const mine = families.data?.filter((family) => family.kind === kind) ?? [];
  return (
    <div className="page families-page">
      <header className="page-head">
        <h1>Families</h1>
        <nav className="stage-tabs" aria-label="Kinds of family">
          <NavLink to="/families/board" className={kind === "board" ? "is-current" : ""}>
            Boards
          </NavLink>
          <NavLink to="/families/device" className={kind === "device" ? "is-current" : ""}>
            Devices
          </NavLink>
        </nav>
      </header>
      {families.isPending && <Skeleton lines={8} />}
      {families.isError && <Trouble error={families.error} retry={() => void families.refetch()} />}
      {families.data && (
        <div className={`families ${params["name"] ? "is-open" : ""}`}>
          <nav className="family-list" aria-label={kind === "board" ? "Board families" : "Device families"}>
            {mine.map((family) => (
              <NavLink
                key={family.name}
                to={`/families/${kind}/${family.name}`}
                className={params["name"] === family.name ? "is-current" : ""}
              >
                {family.label} {family.is_own && <span className="own">your own</span>}
              </NavLink>
            ))}
          </nav>
          {params["name"] ? (
            <FamilyView key={params["name"]} kind={kind} name={params["name"]} />
          ) : (
            <HowTo key={kind} kind={kind} />
          )}
        </div>
      )}
    </div>
  );
}

function HowTo({ kind }: { kind: FamilySummary["kind"] }) {
  const [text, setText] = useState<string | null>(null);
  const navigate = useNavigate();
  if (text !== null) {
    return (
      <FamilyEditor
        kind={kind}
        name={null}
        text={text}
        onDone={(family) => void navigate(`/families/${kind}/${family}`)}
        onLeave={() => setText(null)}
      />
    );
  }
  return (
    <section className="family-view">
      <h2>{kind === "board" ? "A board of your own" : "A device of your own"}</h2>
      <p>
        Families are generic: they say what a kind of {kind} can do and bear, each figure with its source. Open the one
        nearest to yours and clone it, then change what your datasheet says otherwise.
      </p>
      <Form.Group controlId="family-file">
        <Form.Label>Or bring in a file somebody shared</Form.Label>
        <Form.Control
          size="sm"
          type="file"
          accept=".json"
          onChange={(event) => {
            void (event.target as HTMLInputElement).files?.[0]?.text().then(setText);
          }}
        />
      </Form.Group>
      <p className="quiet">
        Files keep to a published <a href={`/api/families/schemas/${kind}`}>JSON Schema</a>.
      </p>
    </section>
  );
}

function FamilyView({ kind, name }: { kind: FamilySummary["kind"]; name: string }) {
  const family = useFamily(kind, name);
  const [editing, setEditing] = useState<"clone" | "change" | null>(null);
  const navigate = useNavigate();
  const deed = useDeed();
  const params = { path: { kind, name } };

  async function putAway() {
    const leave = async () => {
      await body(client.DELETE("/api/families/{kind}/{name}", { params }));
      await navigate(`/families/${kind}`);
    };
    await deed(leave, "It is removed. Rigs that use it keep it.", () =>
      body(client.POST("/api/families/{kind}/{name}/restore", { params })),
    );
  }

  if (family.isPending) return <Skeleton lines={6} />;
  if (family.isError) return <Trouble error={family.error} />;
  if (editing) {
    const document =
      editing === "clone"
        ? { ...family.data.document, name: `my_${name}`.slice(0, 60), label: `my ${family.data.label}` }
        : family.data.document;
    return (
      <FamilyEditor
        kind={kind}
        name={editing === "change" ? name : null}
        text={JSON.stringify(document, null, 2)}
        onLeave={() => setEditing(null)}
        onDone={(saved) => {
          setEditing(null);
          void navigate(`/families/${kind}/${saved}`);
        }}
      />
    );
  }
  return (
    <section className="family-view" aria-label={family.data.label}>
      <header className="page-head">
        <div>
          <h2>{family.data.label}</h2>
          <p>
            <Explained text={family.data.what} />
          </p>
        </div>
        <div className="page-actions">
          <Button size="sm" onClick={() => setEditing("clone")}>
            Clone it
          </Button>
          {family.data.is_own && (
            <>
              <Button size="sm" variant="outline-primary" onClick={() => setEditing("change")}>
                Change it
              </Button>
              <Button size="sm" variant="outline-primary" onClick={() => void putAway()}>
                Remove it
              </Button>
            </>
          )}
          <a
            className="btn btn-sm btn-outline-primary"
            href={`/api/families/${kind}/${name}/file`}
            download={`${name}.json`}
          >
            Take as a file
          </a>
        </div>
      </header>
      <FamilyFacts family={family.data} />
      <p>
        <Link to={`/families/${kind}`}>How to add your own</Link>
      </p>
    </section>
  );
}
