import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { follow } from "./lamp";

type Shown = { samples: number; grain?: number; remark?: string };

const frame = (token: string, more: Record<string, string> = {}) =>
  new Response("jpeg", { headers: { "X-Frame": token, "X-Samples": "4", ...more } });
const problem = (detail: string, token = "") =>
  new Response(JSON.stringify({ detail }), { status: 409, headers: token ? { "X-Frame": token } : {} });

describe("frames of the traced picture", () => {
  let asked: { have: string; desk: string }[];
  let shown: Shown[];
  let refused: string[];
  let waited: string[];
  let stop: AbortController;

  /** Answers one request after the other, then ends. */
  async function answered(...replies: (Response | Error)[]) {
    vi.stubGlobal("fetch", async (_: string, { body }: { body: string }) => {
      asked.push(JSON.parse(body));
      const reply = replies.shift();
      if (replies.length === 0) stop.abort();
      if (reply instanceof Error) throw reply;
      return reply;
    });
    const over = follow("/lamp", { desk: "d" }, 0, stop.signal, {
      show: (_, facts) => shown.push(facts),
      refuse: (why) => refused.push(why),
      wait: (why) => waited.push(why),
    });
    await vi.runAllTimersAsync();
    await over;
  }

  beforeEach(() => {
    vi.useFakeTimers();
    vi.stubGlobal("createImageBitmap", async () => ({}));
    [asked, shown, refused, waited, stop] = [[], [], [], [], new AbortController()];
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it("are asked for one after the other, each newer than the last", async () => {
    const end = new Response(null, { status: 204 });
    await answered(
      frame("one"),
      new Response(null, { status: 204 }),
      frame("two", { "X-Grain": "0.035" }),
      end,
    );
    expect(asked.map(({ have }) => have)).toEqual(["", "one", "one", "two"]);
    expect(shown).toEqual([
      { samples: 4, grain: undefined, remark: undefined },
      { samples: 4, grain: 0.035, remark: undefined },
    ]);
  });
  it("bring what is odd about them, in words", async () => {
    await answered(frame("one", { "X-Remark": encodeURIComponent("Dark – no light.") }), problem("over"));
    expect(shown[0]!.remark).toBe("Dark – no light.");
  });
  it("are asked for again when there is none, and why is said", async () => {
    await answered(problem("Nothing is shown."), new Error("offline"), frame("one"), problem("over"));
    expect(shown).toHaveLength(1);
    expect(asked).toHaveLength(4);
    expect(refused).toEqual(["Nothing is shown."]);
  });
  it("that there are none is told once, and a newer answer waited for", async () => {
    await answered(problem("Nothing is shown.", "none"), frame("one"), problem("over"));
    expect(asked.map(({ have }) => have)).toEqual(["", "none", "one"]);
  });
  it("that come after another was wished for are not shown", async () => {
    await answered(frame("late"));
    expect(shown).toEqual([]);
  });
  it("have a server that may answer without words", async () => {
    await answered(new Response("<html>", { status: 502 }), new Error("end"));
    expect(waited).toEqual(["The server answered 502."]);
    expect(refused).toEqual([]);
  });
});
