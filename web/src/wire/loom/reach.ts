import type { LoomModel } from "./model";

/** Whether two things light up together: a thread with those on its pin, a card with its threads. */
export function related(model: LoomModel, traced: string, id: string): boolean {
  if (traced === id) return true;
  const card = /^card (\d+)$/.exec(traced);
  const thread = model.threads.find((one) => one.id === id);
  if (card) return thread?.device.id === Number(card[1]);
  const tag = model.tags.find((one) => `tag ${one.key}` === id);
  const places = placesOf(model, traced);
  if (places.length === 0) return false;
  if (thread) return places.includes(thread.to);
  if (tag) return tag.legs.some((leg) => places.includes(leg.to));
  const owner = /^card (\d+)$/.exec(id);
  return owner
    ? model.threads.some((one) => one.device.id === Number(owner[1]) && (one.id === traced || places.includes(one.to)))
    : false;
}

/** The pins and joints a thread or a part is on. */
export function placesOf(model: LoomModel, id: string): string[] {
  const thread = model.threads.find((one) => one.id === id);
  if (thread) return [thread.to];
  const tag = model.tags.find((one) => `tag ${one.key}` === id || one.legs.some((leg) => leg.id === id));
  return tag?.legs.filter((leg) => leg.way === "west" || leg.way === "east").map((leg) => leg.to) ?? [];
}
