import { useQuery } from "@tanstack/react-query";
import { type Schemas, body, client } from "../api/client";

export type FamilySummary = Schemas["FamilySummary"];
export type Family = Schemas["FamilyOut"];

export function useFamilies() {
  return useQuery({ queryKey: ["families"], queryFn: () => body(client.GET("/api/families")) });
}

export function useFamily(kind: FamilySummary["kind"], name: string) {
  return useQuery({
    queryKey: ["family", kind, name],
    queryFn: () => body(client.GET("/api/families/{kind}/{name}", { params: { path: { kind, name } } })),
  });
}

/** The JSON Schema of a kind of family: it says which figures there may be. */
export function useFamilySchema(kind: FamilySummary["kind"]) {
  return useQuery({
    queryKey: ["family schema", kind],
    staleTime: Infinity,
    queryFn: () => body(client.GET("/api/families/schemas/{kind}", { params: { path: { kind } } })),
  });
}

/** Devices in groups, as they stand in a list to choose from. */
export const GROUPS = [
  { group: "sensor", title: "Sensors" },
  { group: "indicator", title: "Indicators" },
  { group: "actuator", title: "Actuators" },
] as const;
