import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { type Schemas, body, client } from "../api/client";
import { useRefresh } from "../api/queries";
import { useNotices } from "../shell/Notices";

export type Wiring = Schemas["WiringOut"];
export type WiredDevice = Schemas["WiredDeviceOut"];
export type Lead = Schemas["LeadOut"];
export type Bead = Schemas["BeadIn"];
export type ShownBead = Schemas["BeadOut"];
export type Connection = Schemas["ConnectionIn"];
export type WiringFinding = Schemas["WiringFindingOut"];
export type WiringStep = Schemas["WiringStepOut"];
export type BillLine = Schemas["BillLineOut"];
export type Settings = Schemas["SettingsIn"];

export function useWiring(rigId: number) {
  return useQuery({
    queryKey: ["wiring", rigId],
    enabled: rigId > 0,
    queryFn: () => body(client.GET("/api/rigs/{rig_id}/wiring", { params: { path: { rig_id: rigId } } })),
  });
}

/** Every connection of a wiring, as it is sent back. */
export function connectionsOf(wiring: Wiring): Connection[] {
  return wiring.devices.flatMap((device) =>
    device.leads.flatMap(({ name, end }) =>
      end
        ? [{ device: device.id, lead: name, to: end.to, beads: end.beads.map(sent), colour: end.colour, is_fixed: end.is_fixed }]
        : [],
    ),
  );
}

/** A part without what is only shown of it. */
export function sent({ kind, ohm, farad, rail, tolerance, power_w }: ShownBead): Bead {
  return { kind, ohm, farad, rail, tolerance, power_w };
}

/** What one can do to a wiring. Each change is written at once and can be undone. */
export function useWiringChanges(wiring: Wiring) {
  const queries = useQueryClient();
  const refresh = useRefresh();
  const notices = useNotices();
  const params = { path: { rig_id: wiring.rig_id } };

  const show = useCallback(
    async (next: Wiring) => {
      queries.setQueryData(["wiring", next.rig_id], next);
      await refresh();
    },
    [queries, refresh],
  );

  /** Runs a change; says what was done, offers to take it back, and shows what went wrong. */
  async function change(what: string, run: () => Promise<Wiring>): Promise<boolean> {
    try {
      const next = await run();
      const before = { connections: connectionsOf(wiring), settings: wiring.settings };
      notices.done(what, async () => {
        await show(await body(client.PUT("/api/rigs/{rig_id}/wiring", { params, body: { ...before, revision: next.revision } })));
      });
      await show(next);
      return true;
    } catch (error) {
      notices.failed(error);
      await refresh();
      return false;
    }
  }

  const put = (connections: Connection[], settings: Settings = wiring.settings) =>
    body(client.PUT("/api/rigs/{rig_id}/wiring", { params, body: { connections, settings, revision: wiring.revision } }));

  return {
    /** Puts one lead somewhere, or takes it off with null. */
    connect: (device: WiredDevice, lead: Lead, to: Connection | null) => {
      const others = connectionsOf(wiring).filter((one) => one.device !== device.id || one.lead !== lead.name);
      const what = to ? `${device.name} ${lead.name} goes to ${to.to}.` : `${device.name} ${lead.name} is off.`;
      return change(what, () => put(to ? [...others, to] : others));
    },
    setSettings: (settings: Settings) => change("The settings are kept.", () => put(connectionsOf(wiring), settings)),
    repair: (finding: WiringFinding) =>
      change(finding.repair ?? "Mended.", () =>
        body(client.POST("/api/rigs/{rig_id}/wiring/repair", { params, body: { key: finding.key, revision: wiring.revision } })),
      ),
    repairAll: () =>
      change("Everything that has a repair is mended.", () =>
        body(client.POST("/api/rigs/{rig_id}/wiring/repair", { params, body: { key: "*", revision: wiring.revision } })),
      ),
    /** Returns why some leads got no pin, or an empty word. */
    propose: async (again: boolean) => {
      let impossible = "";
      await change("The proposal is wired up.", async () => {
        const proposal = await body(
          client.POST("/api/rigs/{rig_id}/wiring/proposal", { params, body: { again, revision: wiring.revision } }),
        );
        impossible = proposal.impossible;
        return proposal.wiring;
      });
      return impossible;
    },
    importText: (text: string) =>
      change("The file is taken over.", () =>
        body(client.POST("/api/rigs/{rig_id}/wiring/import", { params, body: { text } })),
      ),
    tick: async (key: string, tick: { done?: boolean; seen?: boolean; measured_v?: number | null }) => {
      try {
        await show(await body(client.PUT("/api/rigs/{rig_id}/wiring/steps", { params, body: { key, ...tick } })));
      } catch (error) {
        notices.failed(error);
        await refresh();
      }
    },
    sign: async (names: { wired_by: string; looked_by: string; rest: boolean }) => {
      try {
        await show(await body(client.POST("/api/rigs/{rig_id}/wiring/sign", { params, body: names })));
        notices.done("The wiring is noted as right.");
      } catch (error) {
        notices.failed(error);
      }
    },
  };
}
