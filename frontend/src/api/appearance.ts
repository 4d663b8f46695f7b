import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, type components, type Edit, taken } from "./client";

type Schemas = components["schemas"];
export type Consequence = Schemas["Consequence"];
export type Rule = Schemas["Rule"];
export type RuleLine = Schemas["RuleLine"];
export type Look = Schemas["Look"];
export type ScheduleDifference = Schemas["ScheduleDifference"];

const review = (id: string) => ({ params: { path: { review_id: id } } });

/** What an edit would change, asked before it is made. */
export function useConsequence(id: string, seq: number, edit: Edit | undefined) {
  return useQuery({
    queryKey: ["would", id, seq, edit],
    queryFn: () =>
      taken<Consequence>(
        api.POST("/api/reviews/{review_id}/would", { ...review(id), body: { edit: edit! } }),
      ),
    enabled: edit !== undefined,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  });
}

export function useRules(id: string, seq: number) {
  return useQuery({
    queryKey: ["rules", id, seq],
    queryFn: () => taken<Schemas["RuleLines"]>(api.GET("/api/reviews/{review_id}/rules", review(id))),
    select: (found) => found.rules,
    placeholderData: keepPreviousData,
  });
}

/** The difference that a schedule from a spreadsheet would make. Throws with words on what is wrong with it. */
export async function readSchedule(id: string, file: File): Promise<ScheduleDifference> {
  const reply = await fetch(`/api/reviews/${id}/schedule`, {
    method: "POST",
    body: await file.arrayBuffer(),
  });
  const found = await reply.json();
  if (!reply.ok) throw new Error(found.detail ?? "The schedule could not be read.");
  return found;
}
