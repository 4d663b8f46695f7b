import {
  keepPreviousData,
  type QueryClient,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useMemo } from "react";
import { type ApiProblem, api, type Schemas, type Standing, taken } from "./client";
import { keepStanding } from "./queries";
import { received } from "./standing";
import { toast } from "./toast";

export type Finding = Schemas["Finding"];
export type ImportedColor = Schemas["ImportedColor"];
export type IntakeAgain = Schemas["IntakeAgain"];
export type IntakeFound = Schemas["IntakeFound"];
export type RevisionReport = Schemas["RevisionReport"];
export type ReportPair = Schemas["ReportPair"];
export type ReportDecal = Schemas["ReportDecal"];
export type FilterField = Schemas["FilterField"];
export type PlaceStep = Partial<Schemas["PlaceStep"]>;
export type Piece = Schemas["Piece"];
export type Rest = Schemas["RestLine"];

const review = (review_id: string) => ({ params: { path: { review_id } } });
const run = (intake_id: string) => ({ params: { path: { intake_id } } });
const model = (review_id: string, id: string) => ({ params: { path: { review_id, model: id } } });

/** Parts that the filter lets through; everything while it is empty. Old answers stay until the new one is there. */
export function useFiltered(id: string, text: string, seq: number) {
  return useQuery({
    queryKey: ["filter", id, text, seq],
    queryFn: () => filterParts(id, text),
    enabled: text.trim() !== "",
    placeholderData: keepPreviousData,
  });
}

export const filterParts = (id: string, text: string) =>
  taken<Schemas["Filtered"]>(
    api.GET("/api/reviews/{review_id}/filter", { params: { path: { review_id: id }, query: { text } } }),
  );

export function useFields(id: string, seq: number) {
  return useQuery({
    queryKey: ["fields", id, seq],
    queryFn: () => taken<Schemas["FilterFields"]>(api.GET("/api/reviews/{review_id}/fields", review(id))),
    select: (found) => found.fields,
    placeholderData: keepPreviousData,
  });
}

export function useFindings(id: string, seq: number) {
  return useQuery({
    queryKey: ["findings", id, seq],
    queryFn: () => taken<Schemas["Findings"]>(api.GET("/api/reviews/{review_id}/findings", review(id))),
    placeholderData: keepPreviousData,
    refetchInterval: (query) => (query.state.data?.looking ? 700 : false),
  });
}

export function useImported(id: string, seq: number, threshold: number) {
  return useQuery({
    queryKey: ["imported", id, seq, threshold],
    queryFn: () =>
      taken<Schemas["ImportedColors"]>(
        api.GET("/api/reviews/{review_id}/imported", {
          params: { path: { review_id: id }, query: { threshold } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

export function useRests(id: string, which: string, arrangement: string) {
  return useQuery({
    queryKey: ["rests", id, which, arrangement],
    queryFn: () =>
      taken<Schemas["Rests"]>(api.GET("/api/reviews/{review_id}/models/{model}/rests", model(id, which))),
    select: (found) => found.rests,
  });
}

/** Work under way for the review: models on their way in, revisions to look at, tessellations. */
export function useRuns(id: string) {
  return useQuery({
    queryKey: ["runs", id],
    queryFn: () => taken<Schemas["IntakeLines"]>(api.GET("/api/reviews/{review_id}/intakes", review(id))),
    select: (found) => found.intakes,
    refetchInterval: (query) =>
      query.state.data?.intakes.some((line) => line.state === "queued" || line.state === "running")
        ? 700
        : false,
  });
}

export function useFollowed(id: string) {
  return useQuery({
    queryKey: ["followed", id],
    queryFn: () => taken<Schemas["Follows"]>(api.GET("/api/reviews/{review_id}/followed", review(id))),
    select: (found) => found.followed,
  });
}

export function useReport(intake: string | undefined) {
  return useQuery({
    queryKey: ["report", intake],
    queryFn: () => taken<RevisionReport>(api.GET("/api/intakes/{intake_id}/report", run(intake ?? ""))),
    enabled: intake !== undefined,
  });
}

export function useFound(intake: string) {
  return useQuery({
    queryKey: ["found", intake],
    queryFn: () => taken<IntakeFound>(api.GET("/api/intakes/{intake_id}/found", run(intake))),
    retry: false,
  });
}

/** Requests of a review that change something; those that edit the scene answer with how it stands then. */
export function useAssembly(id: string) {
  const client = useQueryClient();
  const again = () => {
    for (const key of ["runs", "followed", "report"]) client.invalidateQueries({ queryKey: [key] });
  };
  const send = useMutation({
    mutationFn: (request: () => Promise<Standing | unknown>) => request(),
    onSuccess: (answer) => {
      if (answer && typeof answer === "object" && "worn" in answer)
        keepStanding(client, id, received(id, answer as Standing)!);
      again();
    },
    onError: (problem: ApiProblem) => {
      toast.error(problem.message);
      again();
    },
  }).mutate;
  // The same object for as long as it is the same review: what shows them need not be drawn anew.
  return useMemo(() => requestsOf(id, client, send), [id, client, send]);
}

type Send = (request: () => Promise<unknown>) => void;

function requestsOf(id: string, client: QueryClient, send: Send) {
  return {
    place: (which: string, step: PlaceStep) =>
      send(() =>
        taken<Standing>(
          api.POST("/api/reviews/{review_id}/models/{model}/place", {
            ...model(id, which),
            body: step as Schemas["PlaceStep"],
          }),
        ),
      ),
    piece: (piece: Piece, which?: string) =>
      send(() =>
        taken<Standing>(
          api.POST("/api/reviews/{review_id}/pieces", {
            ...review(id),
            body: { piece, model: which ?? null },
          }),
        ),
      ),
    tessellate: (asked: Partial<Schemas["TessellationBody"]>) =>
      send(() => {
        const none = { quality: null, chord: null, angle: null, shot: null, crease: null };
        const body = { ...none, uids: [], flip: false, ...asked } as Schemas["TessellationBody"];
        return taken(api.POST("/api/reviews/{review_id}/tessellation", { ...review(id), body }));
      }),
    stop: (intake: string) => send(() => taken(api.POST("/api/intakes/{intake_id}/stop", run(intake)))),
    join: (intake: string, fresh: string, old: string | null) =>
      send(async () => {
        const report = await taken<RevisionReport>(
          api.POST("/api/intakes/{intake_id}/join", { ...run(intake), body: { new: fresh, old } }),
        );
        client.setQueryData(["report", intake], report);
      }),
    replace: (intake: string) =>
      send(() => taken<Standing>(api.POST("/api/intakes/{intake_id}/replace", run(intake)))),
    follow: (which: string, path: string) =>
      send(() =>
        taken(
          api.PUT("/api/reviews/{review_id}/models/{model}/follow", { ...model(id, which), body: { path } }),
        ),
      ),
    unfollow: (which: string) =>
      send(() => taken(api.DELETE("/api/reviews/{review_id}/models/{model}/follow", model(id, which)))),
    takeNewer: (which: string) =>
      send(() => taken(api.POST("/api/reviews/{review_id}/models/{model}/newer", model(id, which)))),
  };
}

export type AssemblyActions = ReturnType<typeof requestsOf>;

export const intakeActions = {
  accept: (intake: string, name: string, only: string | null) =>
    taken<{ id: string }>(
      api.POST("/api/intakes/{intake_id}/accept", { ...run(intake), body: { name, only } }),
    ),
  again: (intake: string, body: IntakeAgain) =>
    taken(api.POST("/api/intakes/{intake_id}/again", { ...run(intake), body })),
};
