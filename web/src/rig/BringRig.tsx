import { useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import ProgressBar from "react-bootstrap/ProgressBar";
import { useNavigate } from "react-router";
import { useRefresh } from "../api/queries";
import { sendFile } from "../api/sendFile";
import { Trouble } from "../shell/States";

/** A whole rig from a zip somebody took away. */
export function BringRig() {
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const refresh = useRefresh();

  async function take(file: File | undefined) {
    if (!file) return;
    setError(null);
    setShare(0);
    try {
      const made = await sendFile<{ rig_id: number }>("/api/archives", file, setShare).done;
      await refresh();
      await navigate(`/rigs/${made.rig_id}`);
    } catch (failure) {
      setError(failure);
    } finally {
      setShare(null);
    }
  }

  return (
    <div className="bring-rig">
      <input
        ref={chooser}
        type="file"
        accept=".zip,application/zip"
        className="visually-hidden"
        aria-label="Zip of a rig"
        onChange={(event) => {
          void take(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      {share === null ? (
        <Button size="sm" variant="outline-primary" onClick={() => chooser.current?.click()}>
          Bring in a rig’s zip
        </Button>
      ) : (
        <ProgressBar now={100 * share} label={share < 1 ? "sending" : "reading"} aria-label="Sending the zip" />
      )}
      {error !== null && <Trouble error={error} />}
    </div>
  );
}
