import { QueryClient } from "@tanstack/react-query";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { afterOurEdits, catchUp, editsOf, staleAfter } from "./events";

const scene = ["scene", "r"];

describe("a scene that is newer on the server", () => {
  let client: QueryClient;
  const fetched = () => client.getQueryState(scene)!.isInvalidated;
  /** Puts an edit on its way; the function it gives answers it. */
  const send = () => {
    let answer = () => {};
    const run = client.getMutationCache().build(client, {
      mutationKey: editsOf("r"),
      mutationFn: () => new Promise<void>((done) => (answer = done)),
    });
    const over = run.execute(undefined);
    return async () => {
      answer();
      await over;
    };
  };

  beforeEach(() => {
    client = new QueryClient();
    client.setQueryData(scene, { seq: 4 });
  });

  it("is fetched", () => {
    catchUp(client, "r", 4);
    expect(fetched()).toBe(false);
    catchUp(client, "r", 5);
    expect(fetched()).toBe(true);
  });

  it.each([
    ["is not fetched when it is our own edit, whose answer brings it", 5, false],
    ["is fetched after our own edit when someone else's came on top", 6, true],
  ])("%s", async (_, told, again) => {
    const answered = send();
    await vi.waitFor(() => expect(client.isMutating({ mutationKey: editsOf("r") })).toBe(1));
    catchUp(client, "r", told);
    expect(fetched()).toBe(false);
    client.setQueryData(scene, { seq: 5 });
    await answered();
    afterOurEdits(client, "r");
    expect(fetched()).toBe(again);
  });
});

const before = { id: "a", seq: 3, pulse: 7, stills: 2, removed: false };
const names = (news: Partial<typeof before>, was: typeof before | undefined = before) =>
  staleAfter({ ...before, ...news }, was).map(([name]) => name);

describe("what is fetched again", () => {
  it("is the list of stills alone while one is traced", () => {
    expect(names({ stills: 3 })).toEqual(["stills"]);
  });

  it("is not the model after edits", () => {
    expect(names({ seq: 5, pulse: 9 })).not.toContain("review");
    expect(names({ seq: 5, pulse: 9 })).toContain("findings");
  });

  it("is everything after other news, and after the first", () => {
    expect(names({ pulse: 8 })).toContain("review");
    expect(staleAfter(before, undefined).map(([name]) => name)).toContain("shelf");
  });
});
