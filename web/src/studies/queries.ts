import { useQuery } from "@tanstack/react-query";
import { type Schemas, body, client } from "../api/client";

export type Study = Schemas["StudyOut"];
export type StudyCell = Schemas["CellOut"];

export function useStudies(sensorId: number) {
  return useQuery({
    queryKey: ["studies", sensorId],
    enabled: sensorId > 0,
    queryFn: () => body(client.GET("/api/sensors/{sensor_id}/studies", { params: { path: { sensor_id: sensorId } } })),
  });
}
