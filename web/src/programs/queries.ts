import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type Schemas, body, client } from "../api/client";

export type Programs = Schemas["ProgramsOut"];
export type Program = Schemas["ProgramOut"];
export type Wanted = Required<Schemas["ProgramWanted"]>;
export type Proof = Schemas["ProofOut"];
export type Constant = Schemas["ConstantOut"];
export type ProgramFinding = Schemas["ProgramFindingOut"];
export type ProgramFile = Schemas["ProgramFileOut"];

const at = (rigId: number) => ({ params: { path: { rig_id: rigId } } });

/** The languages a program can be written in for this rig's board. */
export function useTargets(rigId: number) {
  return useQuery({
    queryKey: ["programs", rigId],
    enabled: rigId > 0,
    queryFn: () => body(client.GET("/api/rigs/{rig_id}/programs", at(rigId))),
  });
}

/** A program for the rig as it is wired, calibrated and set now. */
export function useProgram(rigId: number, wanted: Wanted, isThere: boolean) {
  return useQuery({
    enabled: isThere,
    queryKey: ["programs", rigId, wanted],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () => body(client.POST("/api/rigs/{rig_id}/programs", { ...at(rigId), body: wanted })),
  });
}

/** Runs it on the server's machine. */
export function prove(rigId: number, wanted: Wanted): Promise<Proof> {
  return body(client.POST("/api/rigs/{rig_id}/programs/proof", { ...at(rigId), body: wanted }));
}

/** What the rig's calibrations and settings come to. */
export function useConstants(rigId: number) {
  return useQuery({
    queryKey: ["programs", rigId, "constants"],
    retry: false,
    queryFn: () => body(client.GET("/api/rigs/{rig_id}/constants", at(rigId))),
  });
}

/** A second pair of eyes on a person's own program. */
export function lookOver(rigId: number, asked: Schemas["LookOverIn"]) {
  return body(client.POST("/api/rigs/{rig_id}/programs/look-over", { ...at(rigId), body: asked }));
}
