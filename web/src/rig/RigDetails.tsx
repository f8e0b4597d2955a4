import { body, client } from "../api/client";
import type { Rig } from "../api/queries";
import { DetailsForm } from "../shell/DetailsForm";

/** What a rig is called and what it is for; and putting it away. */
export function RigDetails({ rig }: { rig: Rig }) {
  const params = { path: { rig_id: rig.id } };
  return (
    <DetailsForm
      title="The rig"
      thing="rig"
      fields={[
        { name: "name", label: "Its name", placeholder: "its name", longest: 120 },
        { name: "description", label: "What it is", placeholder: "a cart for seed trays", longest: 2000 },
      ]}
      kept={{ name: rig.name, description: rig.description }}
      write={(next) => body(client.PATCH("/api/rigs/{rig_id}", { params, body: next }))}
      putAway={() => body(client.DELETE("/api/rigs/{rig_id}", { params }))}
      bringBack={() => body(client.POST("/api/rigs/{rig_id}/restore", { params }))}
      home="/rigs"
    />
  );
}
