import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Feed, type Link, pauseAfter } from "./feed";

/** A stream that the test opens, feeds and breaks. */
class Source {
  static made: Source[] = [];
  onopen = () => {};
  onerror = () => {};
  closed = false;
  private heard = new Map<string, (event: { data: string }) => void>();
  constructor() {
    Source.made.push(this);
  }
  addEventListener(kind: string, hear: (event: { data: string }) => void) {
    this.heard.set(kind, hear);
  }
  say(kind: string, data: unknown) {
    this.heard.get(kind)?.({ data: JSON.stringify(data) });
  }
  close() {
    this.closed = true;
  }
}

const source = (place: number) => Source.made[place] as Source;

describe("news of reviews", () => {
  let status = 200;
  let links: Link[] = [];
  let seen: [string, number][] = [];
  let missed = 0;

  beforeEach(() => {
    Source.made = [];
    [links, seen, missed, status] = [[], [], 0, 200];
    vi.useFakeTimers();
    vi.stubGlobal("EventSource", Source);
    vi.stubGlobal(
      "BroadcastChannel",
      class {
        postMessage() {}
      },
    );
    vi.stubGlobal("navigator", { locks: { request: async (_: string, held: () => unknown) => held() } });
    vi.stubGlobal("fetch", async () => ({ status }));
    const feed = new Feed();
    feed.watch((link) => links.push(link));
    feed.listen({ pulse: (one) => seen.push([one.id, one.seq]), missed: () => missed++ });
    source(0).onopen();
  });
  afterEach(() => vi.unstubAllGlobals());

  it("come once each", () => {
    source(0).say("pulses", [["a", 1, 1, 0, false]]);
    source(0).say("pulses", [
      ["a", 1, 1, 0, false],
      ["b", 4, 9, 0, false],
    ]);
    expect(seen).toEqual([
      ["a", 1],
      ["b", 4],
    ]);
  });

  it("come when stills alone have changed", () => {
    source(0).say("pulses", [["a", 1, 1, 0, false]]);
    source(0).say("pulses", [["a", 1, 1, 1, false]]);
    expect(seen).toHaveLength(2);
  });

  it("come again after a break, with all that was missed", async () => {
    source(0).onerror();
    expect(source(0).closed).toBe(true);
    expect(links).toEqual(["lost"]);
    status = 502;
    await vi.advanceTimersByTimeAsync(2000);
    expect(Source.made).toHaveLength(1);
    status = 200;
    await vi.advanceTimersByTimeAsync(20_000);
    source(1).onopen();
    expect([links, missed]).toEqual([["lost", "live"], 1]);
  });

  it("say when one has to sign in, and when the database is away", async () => {
    source(0).say("away", true);
    source(0).say("away", false);
    expect([links, missed]).toEqual([["database away", "live"], 1]);
    status = 401;
    source(0).onerror();
    await vi.advanceTimersByTimeAsync(1000);
    expect(links.at(-1)).toBe("signed out");
  });

  it("are asked for less and less often", () => {
    expect(pauseAfter(0)).toBeLessThan(501);
    expect(pauseAfter(20)).toBeGreaterThan(5000);
    expect(pauseAfter(20)).toBeLessThan(8001);
  });
});
