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
export type Part = Schemas["PartIn"];
export type PowerSupply = Schemas["PowerSupplyIn"];

/** Everything of a wiring that is sent back: what one change may alter. */
export interface Circuit {
  connections: Connection[];
  supplies: PowerSupply[];
  joints: string[];
  parts: Part[];
  left_open: Schemas["OpenLeadIn"][];
}

export function useWiring(rigId: number) {
  return useQuery({
    queryKey: ["wiring", rigId],
    enabled: rigId > 0,
    queryFn: () => body(client.GET("/api/rigs/{rig_id}/wiring", { params: { path: { rig_id: rigId } } })),
  });
}

/** Every connection of a wiring, as it is sent back. */
function connectionsOf(wiring: Wiring): Connection[] {
  return wiring.devices.flatMap((device) =>
    device.leads.flatMap(({ name, end }) =>
      end
        ? [
            {
              device: device.id,
              lead: name,
              to: end.to,
              beads: end.beads.map(sent),
              colour: end.colour,
              is_fixed: end.is_fixed,
            },
          ]
        : [],
    ),
  );
}

/** The whole circuit of a wiring, without what is only shown of it. */
export function circuitOf(wiring: Wiring): Circuit {
  return {
    connections: connectionsOf(wiring),
    supplies: wiring.supplies.map((one) => without(one, "words", "plus", "minus", "volts")),
    joints: wiring.joints,
    parts: wiring.parts.map((one) => without(one, "words")),
    left_open: wiring.left_open,
  };
}

function without<T extends object, K extends keyof T>(one: T, ...gone: K[]): Omit<T, K> {
  return Object.fromEntries(Object.entries(one).filter(([field]) => !gone.includes(field as K))) as Omit<T, K>;
}

/** A part on a wire without what is only shown of it. */
export function sent({ kind, ohm, farad, rail, tolerance, power_w }: ShownBead): Bead {
  return { kind, ohm, farad, rail, tolerance, power_w };
}

/** What another circuit in place of a wiring's would come to; nothing is asked while there is none. */
export function useTrial(wiring: Wiring, called: string, circuit: () => Circuit, isAsked: boolean) {
  return useQuery({
    queryKey: ["wiring trial", wiring.rig_id, wiring.revision, called],
    enabled: isAsked,
    staleTime: Infinity,
    queryFn: () =>
      body(
        client.POST("/api/rigs/{rig_id}/wiring/trial", {
          params: { path: { rig_id: wiring.rig_id } },
          body: { ...circuit(), settings: wiring.settings },
        }),
      ),
  });
}

let turn: Promise<unknown> = Promise.resolve();

/** One change after the other, so that quick fingers never overtake the server. */
function inTurn<T>(run: () => Promise<T>): Promise<T> {
  const mine = turn.then(run, run);
  turn = mine.catch(() => undefined);
  return mine;
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

  /** Runs a change on the newest wiring, after those before it; tells, and offers to take it back. */
  function change(what: string, run: (now: Wiring) => Promise<Wiring>): Promise<boolean> {
    return inTurn(async () => {
      try {
        const now = queries.getQueryData<Wiring>(["wiring", wiring.rig_id]) ?? wiring;
        const next = await run(now);
        const undo = () =>
          inTurn(async () => {
            const body_ = { ...circuitOf(now), settings: now.settings, revision: next.revision };
            queries.setQueryData(
              ["wiring", next.rig_id],
              await body(client.PUT("/api/rigs/{rig_id}/wiring", { params, body: body_ })),
            );
          });
        notices.done(what, now.board ? undo : undefined);
        await show(next);
        return true;
      } catch (error) {
        notices.failed(error);
        await refresh();
        return false;
      }
    });
  }

  const put = (now: Wiring, connections: Connection[], settings: Settings = now.settings) =>
    body(client.PUT("/api/rigs/{rig_id}/wiring", { params, body: { connections, settings, revision: now.revision } }));

  return {
    /** Changes supplies, joints, parts, and what goes with them. */
    alter: (what: string, run: (now: Circuit) => Partial<Circuit>) =>
      change(what, (now) => {
        const circuit = circuitOf(now);
        return body(
          client.PUT("/api/rigs/{rig_id}/wiring", {
            params,
            body: { ...circuit, ...run(circuit), settings: now.settings, revision: now.revision },
          }),
        );
      }),
    /** Marks a lead as left open on purpose; a wire on it comes off. */
    leaveOpen: (device: WiredDevice, lead: Lead) =>
      change(`${device.name} ${lead.name} stays open.`, (now) => {
        const circuit = circuitOf(now);
        const others = circuit.connections.filter((one) => one.device !== device.id || one.lead !== lead.name);
        const left_open = [...circuit.left_open, { device: device.id, lead: lead.name }];
        return body(
          client.PUT("/api/rigs/{rig_id}/wiring", {
            params,
            body: { ...circuit, connections: others, left_open, settings: now.settings, revision: now.revision },
          }),
        );
      }),
    /** Changes where one lead goes, or what is on its wire; what it is now comes from the newest wiring. */
    connect: (device: WiredDevice, lead: Lead, alter: (now: Connection) => Partial<Connection>) => {
      const at = `${device.name} ${lead.name}`;
      return change(`The wire of ${at} is changed.`, (now) => {
        const all = connectionsOf(now);
        const mine = (one: Connection) => one.device === device.id && one.lead === lead.name;
        const before = all.find(mine) ?? {
          device: device.id,
          lead: lead.name,
          to: "",
          beads: [],
          colour: "",
          is_fixed: false,
        };
        return put(now, [...all.filter((one) => !mine(one)), { ...before, ...alter(before) }]);
      });
    },
    /** Takes one lead off. */
    disconnect: (device: WiredDevice, lead: Lead) =>
      change(`${device.name} ${lead.name} is off.`, (now) => {
        const isOther = (one: { device: number; lead: string }) => one.device !== device.id || one.lead !== lead.name;
        const circuit = circuitOf(now);
        return body(
          client.PUT("/api/rigs/{rig_id}/wiring", {
            params,
            body: {
              ...circuit,
              connections: circuit.connections.filter(isOther),
              left_open: circuit.left_open.filter(isOther),
              settings: now.settings,
              revision: now.revision,
            },
          }),
        );
      }),
    setSettings: (settings: Settings) =>
      change("The settings are kept.", (now) => put(now, connectionsOf(now), settings)),
    repair: (finding: WiringFinding, remedy: number) =>
      change(finding.remedies[remedy] ?? "Mended.", (now) =>
        body(
          client.POST("/api/rigs/{rig_id}/wiring/repair", {
            params,
            body: { key: finding.key, remedy, revision: now.revision },
          }),
        ),
      ),
    repairAll: () =>
      change("Everything that has a repair is mended.", (now) =>
        body(client.POST("/api/rigs/{rig_id}/wiring/repair", { params, body: { key: "*", revision: now.revision } })),
      ),
    /** Returns why some leads got no pin, or an empty word. */
    propose: async (again: boolean) => {
      let impossible = "";
      await change("The proposal is wired up.", async (now) => {
        const proposal = await body(
          client.POST("/api/rigs/{rig_id}/wiring/proposal", { params, body: { again, revision: now.revision } }),
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
    tick: (key: string, tick: Omit<Schemas["TickIn"], "key">) =>
      inTurn(async () => {
        try {
          await show(await body(client.PUT("/api/rigs/{rig_id}/wiring/steps", { params, body: { key, ...tick } })));
        } catch (error) {
          notices.failed(error);
          await refresh();
        }
      }),
    sign: async (names: Schemas["SignIn"]) => {
      try {
        await show(await body(client.POST("/api/rigs/{rig_id}/wiring/sign", { params, body: names })));
        notices.done("The wiring is noted as right.");
      } catch (error) {
        notices.failed(error);
      }
    },
  };
}
