import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { type Schemas, body, client } from "./client";
import { usePaced } from "./paced";

export type Rig = Schemas["RigOut"];
export type Sensor = Schemas["SensorOut"];
export type Recording = Schemas["RecordingOut"];
export type Look = Schemas["LookOut"];
export type LookRequest = Schemas["LookIn"];
export type OutputSeen = Schemas["OutputSeenOut"];
export type DrawnLine = Schemas["LineOfSamplesOut"];
export type Level = Schemas["LevelOut"];
export type Step = Schemas["StepOut"];
export type Stone = Schemas["StoneOut"];
export type Mark = Schemas["MarkOut"];
export type Fitted = Schemas["FittedOut"];
export type AirHeard = Schemas["AirHeardOut"];
export type Bench = Schemas["BenchOut"];
export type Calibration = Schemas["CalibrationOut"];
export type CalibrationKind = Schemas["CalibrationKindOut"];
export type TrialDraft = Schemas["Draft"];
export type Finding = Schemas["FindingOut"];
export type Air = Schemas["Air-Output"];

export function useRigs() {
  return useQuery({ queryKey: ["rigs"], queryFn: () => body(client.GET("/api/rigs")) });
}

export function useRig(rigId: number) {
  return useQuery({
    queryKey: ["rig", rigId],
    enabled: rigId > 0,
    queryFn: () => body(client.GET("/api/rigs/{rig_id}", { params: { path: { rig_id: rigId } } })),
  });
}

export function useSensor(sensorId: number) {
  return useQuery({
    queryKey: ["sensor", sensorId],
    enabled: sensorId > 0,
    queryFn: () => body(client.GET("/api/sensors/{sensor_id}", { params: { path: { sensor_id: sensorId } } })),
  });
}

export function useMarks(recordingId: number | null) {
  return useQuery({
    queryKey: ["marks", recordingId],
    enabled: recordingId !== null,
    queryFn: () =>
      body(
        client.GET("/api/recordings/{recording_id}/marks", {
          params: { path: { recording_id: recordingId ?? 0 } },
        }),
      ),
  });
}

/** What the marks of a recording say, with what is tried out. */
export function useFit(recordingId: number | null, kind: string, draft: TrialDraft) {
  return useQuery({
    queryKey: ["fit", recordingId, kind, draft],
    enabled: recordingId !== null && kind !== "",
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      body(
        client.POST("/api/recordings/{recording_id}/fit", {
          params: { path: { recording_id: recordingId ?? 0 } },
          body: { kind, draft },
        }),
      ),
  });
}

/** A look at a recording; the one before stays on screen until the next has come. */
export function useLook(recordingId: number | null, request: LookRequest) {
  const { asked, next } = usePaced(request, recordingId);
  const look = useQuery({
    queryKey: ["look", recordingId, asked],
    enabled: recordingId !== null,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    retry: false,
    // Thousands of points: to look which of them are as before takes longer than to draw them.
    structuralSharing: false,
    queryFn: ({ signal }) =>
      body(
        client.POST("/api/recordings/{recording_id}/look", {
          params: { path: { recording_id: recordingId ?? 0 } },
          body: asked,
          signal,
        }),
      ),
  });
  next(look.isFetching);
  return look;
}

/**
 * After anything was saved: every stone and every view may have changed. What was asked before is
 * dropped first: a first answer on its way would otherwise be taken for one of afterwards.
 * Go elsewhere before it, not after: a person may have moved on by the time all has been read.
 */
export function useRefresh() {
  const queries = useQueryClient();
  return useCallback(async () => {
    await queries.cancelQueries();
    await queries.invalidateQueries();
  }, [queries]);
}
