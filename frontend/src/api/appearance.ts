import { keepPreviousData, useQuery } from "@tanstack/react-query";
import * as t from "../words/texts/api/appearance";
import { type Appearance, api, type Edit, type OpenPBR, type Schemas, type Shaded, taken } from "./client";

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

/** Sends a file as it is, and takes the answer. Throws with words on what is wrong with it. */
export async function send<T>(address: string, file: File): Promise<T> {
  const reply = await fetch(address, { method: "POST", body: await file.arrayBuffer() });
  const found = await reply.json();
  if (!reply.ok) throw new Error(found.detail ?? t.theFileCouldNot);
  return found;
}

/** The difference that a schedule from a spreadsheet would make. */
export const readSchedule = (id: string, file: File) =>
  send<ScheduleDifference>(`/api/reviews/${id}/schedule`, file);

/** Appearances of a MaterialX document, with the edit that keeps them. */
export const readAppearances = (id: string, file: File) =>
  send<Schemas["TakenAppearances"]>(`/api/reviews/${id}/appearances`, file);

/** Keeps a picture, or a page of a PDF. */
export const keepPicture = (file: File, page = 1) =>
  send<Schemas["PictureKept"]>(`/api/pictures?page=${page}`, file);

export function useMadePictures() {
  return useQuery({
    queryKey: ["made pictures"],
    queryFn: () => taken<Schemas["MadeLines"]>(api.GET("/api/made-pictures")),
    select: (found) => found.pictures,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** A colour in the ways that it can be entered. */
export const convertColor = (color: { lab?: [number, number, number]; linear?: [number, number, number] }) =>
  taken<Schemas["ColorInAll"]>(api.POST("/api/color", { body: { lab: null, linear: null, ...color } }));

/** What the shaded picture shows of values that are tried. */
export const shade = (params: OpenPBR[]): Promise<Shaded[]> =>
  taken<Schemas["ShadedLines"]>(api.POST("/api/shaded", { body: { params } })).then(({ shaded }) => shaded);

/** Keeps an appearance as a sample for all reviews. */
export const keepSample = (appearance: Appearance) =>
  taken<Schemas["Id"]>(api.POST("/api/shelf/kept", { body: { appearance } }));

export const removeKeptSample = (id: string) =>
  taken<undefined>(api.DELETE("/api/shelf/kept/{sample_id}", { params: { path: { sample_id: id } } }));

/** The colour of light of a temperature in kelvin. */
export const blackBody = (kelvin: number) =>
  taken<Schemas["GlowColor"]>(api.GET("/api/black-body", { params: { query: { kelvin } } }));

/** What one may want to mend in a shot before a still; `metered` is in EV, from the
 * traced picture, `latest` the last still of the shot that is done: its noise is told. */
export function usePreflight(
  id: string,
  shotId: string,
  seq: number,
  metered: number | undefined,
  latest: string | undefined,
  enabled: boolean,
) {
  return useQuery({
    queryKey: ["preflight", id, shotId, seq, metered, latest],
    enabled,
    queryFn: () =>
      taken<Schemas["Checks"]>(
        api.GET("/api/reviews/{review_id}/shots/{shot_id}/preflight", {
          params: { path: { review_id: id, shot_id: shotId }, query: { metered } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** Appearances proposed for parts that were given none, as of a step of the review. */
export function useFirstCoat(id: string, seq: number) {
  return useQuery({
    queryKey: ["first coat", id, seq],
    queryFn: () => taken<Schemas["FirstCoat"]>(api.GET("/api/reviews/{review_id}/first-coat", review(id))),
  });
}
