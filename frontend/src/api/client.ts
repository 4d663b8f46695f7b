import createClient from "openapi-fetch";
import * as t from "../words/texts/api/client";
import type { PART_STATES, QUALITIES, UNITS, UPS } from "./generated/facts";
import type { components, paths } from "./generated/schema";
import { TAB } from "./tab";

export const api = createClient<paths>({ baseUrl: "/", headers: { "Usual-Lamp-Tab": TAB } });

export type { components };

export type Schemas = components["schemas"];

/** As it comes in an answer: what a request may leave out is there, by its default. */
export type Whole<T> = T extends readonly unknown[]
  ? { [K in keyof T]: Whole<T[K]> }
  : T extends object
    ? { [K in keyof T]-?: Whole<Exclude<T[K], undefined>> }
    : T;

export type Appearance = Schemas["Appearance"];
export type OpenPBR = Schemas["OpenPBR"];
export type Camera = Whole<Schemas["Camera"]>;
export type Lighting = Whole<Schemas["Lighting"]>;
export type Laying = Schemas["Laying"];
export type Model = Whole<Schemas["Model"]>;
export type Node = Whole<Schemas["Node"]>;
export type ReviewLine = Schemas["ReviewLine"];
export type IntakeLine = Schemas["IntakeLine"];
export type ModelUse = Whole<Schemas["ModelUse"]>;
export type Placement = Schemas["Placement"];
export type Sample = Schemas["Sample"];
export type Scene = Whole<Schemas["Scene"]>;
export type Shot = Whole<Schemas["Shot"]>;
export type Section = NonNullable<Shot["section"]>;
export type ReviewList = Schemas["ReviewList"];
export type ReviewOpened = Schemas["ReviewOpened"];
export type Shaded = Schemas["Shaded"];
export type Shelf = Schemas["Shelf"];
export type Lamp = Lighting["lamps"][string];
export type Decal = Standing["scene"]["decals"][string];
export type Drawing = NonNullable<Decal["drawing"]>;
export type LampKind = Schemas["LampWished"]["kind"];
export type LampSet = Schemas["SetWished"]["set"];
export type TracingSettings = Schemas["TracingSettings"];
export type Stills = Schemas["Stills"];
export type Check = Schemas["Check"];
export type Standing = Whole<Schemas["Standing"]>;
export type Operation = Schemas["Operation"];
export type StandingChange = Whole<Schemas["StandingChange"]>;
export type StandingAnswer = Standing | StandingChange;
export type Step = Schemas["Step"];
export type StillLine = Schemas["StillLine"];
export type Edit = Schemas["EditBody"]["edit"];
export type PartState = (typeof PART_STATES)[number];
export type Quality = (typeof QUALITIES)[number];
export type Unit = (typeof UNITS)[number];
export type Up = (typeof UPS)[number];

/** A failed request, in the server's own words (RFC 9457 `detail`). */
export class ApiProblem extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** Whether asking again in a moment will do: the server or its database is being started. */
export function isPassing(problem: unknown): boolean {
  return problem instanceof ApiProblem && [0, 502, 503, 504].includes(problem.status);
}

/** Milliseconds before asking again. */
export function pauseBefore(failures: number): number {
  return Math.min(2000, 300 * 2 ** failures);
}

interface Outcome {
  data?: unknown;
  error?: unknown;
  response: Response;
}

/**
 * The data of a reply, or an ApiProblem thrown. The type is named by the caller, since the client's own widens
 * tuples to arrays.
 */
export async function taken<T = void>(request: Promise<Outcome>): Promise<T> {
  let outcome: Outcome;
  try {
    outcome = await request;
  } catch {
    throw new ApiProblem(t.usualLampDoesNot, 0);
  }
  if (!outcome.response.ok) {
    const detail = (outcome.error as { detail?: string } | undefined)?.detail;
    throw new ApiProblem(detail ?? t.theServerAnswered(outcome.response.status), outcome.response.status);
  }
  return outcome.data as T;
}
