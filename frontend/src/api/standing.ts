import * as t from "../words/texts/api/standing";
import {
  ApiProblem,
  type Operation,
  type Standing,
  type StandingAnswer,
  type StandingChange,
} from "./client";

/** How many standings of a review are kept, newest last: an answer may build on one that was overtaken. */
const MOST = 6;
const known = new Map<string, Standing[]>();

/** seq of the newest standing that the server has told, to be asked with: it answers with what changed since. */
export function knownSeq(id: string): number | undefined {
  return known.get(id)?.at(-1)?.seq;
}

/** The whole standing that an answer comes to; undefined when it builds on one that is not here. */
export function received(id: string, answer: StandingAnswer): Standing | undefined {
  const before = known.get(id) ?? [];
  const whole = "base" in answer ? after(before, answer) : answer;
  if (whole) {
    const others = before.filter(({ seq }) => seq !== whole.seq);
    known.set(id, [...others, whole].toSorted((a, b) => a.seq - b.seq).slice(-MOST));
  }
  return whole;
}

function after(before: Standing[], change: StandingChange): Standing | undefined {
  const base = before.find(({ seq }) => seq === change.base);
  if (!base) return undefined;
  const { patch, base: _, worn, appearances, shaded, burns, ...rest } = change;
  return {
    ...base,
    ...rest,
    scene: patched(base.scene, patch),
    worn: merged(base.worn, worn),
    appearances: merged(base.appearances, appearances),
    shaded: merged(base.shaded, shaded),
    burns: merged(base.burns, burns),
  };
}

function merged<T>(old: Record<string, T>, change: Record<string, T>): Record<string, T> {
  return Object.keys(change).length > 0 ? { ...old, ...change } : old;
}

/** A document after a JSON Patch of adding, replacing and removing; what is not touched stays the same object. */
export function patched<T>(document: T, operations: Operation[]): T {
  const fresh = new Set<object>();
  const own = (value: unknown): Record<string, unknown> => {
    const found = value as Record<string, unknown>;
    if (fresh.has(found)) return found;
    const copy = { ...found };
    fresh.add(copy);
    return copy;
  };
  const root = operations.length > 0 ? own(document) : (document as Record<string, unknown>);
  for (const { op, path, value } of operations) {
    const keys = path
      .split("/")
      .slice(1)
      .map((key) => key.replaceAll("~1", "/").replaceAll("~0", "~"));
    const last = keys.pop()!;
    let place = root;
    for (const key of keys) {
      if (typeof place[key] !== "object" || place[key] === null) throw new ApiProblem(t.theServerToldOf, 0);
      place[key] = own(place[key]);
      place = place[key] as Record<string, unknown>;
    }
    if (op === "remove") delete place[last];
    else place[last] = value;
  }
  return root as T;
}

/** Forget a review's standings, so that the next answer is a whole one. */
export function forget(id: string) {
  known.delete(id);
}
