import type { Rig } from "../api/queries";
import type { Take } from "./queries";

export type Channel = Take["channels"][number];

/** Channels of one sensor, or those of none. */
export interface ChannelGroup {
  sensor: Rig["sensors"][number] | null;
  name: string;
  channels: Channel[];
}

/** A recording's channels under their sensors, in the order of the rig; those of none come last. */
export function channelGroups(take: Take, rig: Rig | undefined): ChannelGroup[] {
  const groups = new Map<number | null, ChannelGroup>();
  for (const sensor of rig?.sensors ?? []) groups.set(sensor.id, { sensor, name: sensor.name, channels: [] });
  for (const channel of take.channels) {
    const group = groups.get(channel.sensor_id) ?? { sensor: null, name: channel.sensor_name, channels: [] };
    group.channels.push(channel);
    groups.set(channel.sensor_id, group);
  }
  return [...groups.values()]
    .filter((group) => group.channels.length > 0)
    .sort((a, b) => Number(a.name === "") - Number(b.name === ""));
}
