import Button from "react-bootstrap/Button";
import { useNavigate } from "react-router";
import { useRefresh } from "../api/queries";
import { FileDrop } from "../files/FileDrop";
import { SendingRow } from "../files/SendingRow";
import { useSending } from "../files/useSending";
import { Trouble } from "../shell/States";

/** A whole rig from a zip somebody took away. */
export function BringRig() {
  const navigate = useNavigate();
  const refresh = useRefresh();
  const sending = useSending<{ rig_id: number }>(
    () => "/api/archives",
    async (made) => {
      await navigate(`/rigs/${made.rig_id}`);
      await refresh();
    },
  );
  return (
    <FileDrop label="Zip of a rig" accept=".zip,application/zip" className="mt-3" sending={sending}>
      {(choose) => (
        <>
          {sending.share === null ? (
            <Button size="sm" variant="outline-primary" onClick={choose}>
              Bring in a rig’s zip
            </Button>
          ) : (
            <SendingRow sending={sending} then="reading" />
          )}
          {sending.error !== null && <Trouble error={sending.error} />}
        </>
      )}
    </FileDrop>
  );
}
