import { useQueries, useQuery } from "@tanstack/react-query";
import * as t from "../words/texts/api/forecast";
import { api, type Camera, type Schemas, taken } from "./client";

/** A still that somebody thinks of taking. */
export interface ForecastWish {
  shot: string;
  camera: Camera;
  width: number;
  height: number;
  look?: string;
  lighting?: string;
  /** Noise that would be accepted, relative. */
  grain?: number;
  /** That it may take. */
  minutes?: number;
}

export type StillForecast = Schemas["StillForecast"];

/** Times that a probe is asked for again while others come first. */
const TRIES = 6;

const forecast = (reviewId: string, seq: number, wish: ForecastWish) => ({
  queryKey: ["forecast", reviewId, seq, wish],
  queryFn: async ({ signal }: { signal: AbortSignal }) => {
    for (let tries = 0; tries < TRIES; tries++) {
      const found = await taken<StillForecast | undefined>(
        api.POST("/api/reviews/{review_id}/forecast", {
          params: { path: { review_id: reviewId } },
          body: {
            ...wish,
            seq,
            look: wish.look ?? null,
            lighting: wish.lighting ?? null,
            grain: wish.grain ?? null,
            minutes: wish.minutes ?? null,
          },
          signal,
        }),
      );
      if (found) return found;
    }
    throw new Error(t.theLampIsBusy);
  },
  retry: false,
  staleTime: Number.POSITIVE_INFINITY,
  gcTime: 60_000,
});

/** What a still would take, measured on a small part of it; asked for while it is `wanted`. */
export function useForecast(reviewId: string, seq: number, wish: ForecastWish, wanted: boolean) {
  return useQuery({ ...forecast(reviewId, seq, wish), enabled: wanted });
}

/** The same for several stills. */
export function useForecasts(reviewId: string, seq: number, wishes: ForecastWish[]) {
  return useQueries({ queries: wishes.map((wish) => forecast(reviewId, seq, wish)) });
}
