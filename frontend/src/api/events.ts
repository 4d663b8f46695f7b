import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Standing } from "./client";

interface Pulse {
  seq: number;
  pulse: number;
  removed: boolean;
}

export const editsOf = (id: string) => ["edits", id];

/** Fetches the scene if it is older than this; while edits of our own are on the way, their answers may bring it. */
export function catchUp(client: QueryClient, id: string, seq: number) {
  const known = client.getQueryData<Standing>(["scene", id]);
  if (known && known.seq >= seq) return;
  if (client.isMutating({ mutationKey: editsOf(id) })) newest.set(id, Math.max(seq, newest.get(id) ?? 0));
  else client.invalidateQueries({ queryKey: ["scene", id] });
}

/** What is known of scenes that are newer than the last answer. */
const newest = new Map<string, number>();

/** When the last of our edits has been answered: someone else's may have come in between. */
export function afterOurEdits(client: QueryClient, id: string) {
  const seq = newest.get(id);
  newest.delete(id);
  if (seq !== undefined) catchUp(client, id, seq);
}

/**
 * Keeps a review's data fresh. Tabs of one browser share a single stream: whoever holds the lock listens and
 * tells the others, since a browser opens only six connections to a host.
 */
export function useLiveReview(id: string) {
  const client = useQueryClient();
  useEffect(() => {
    const channel = new BroadcastChannel(`usual-lamp-${id}`);
    const stop = new AbortController();
    let source: EventSource | undefined;

    let last: Pulse | undefined;
    const take = (pulse: Pulse) => {
      catchUp(client, id, pulse.seq);
      const onlyEdits = last && pulse.pulse - last.pulse === pulse.seq - last.seq;
      last = pulse;
      const fresh = [
        ["stills", id],
        ["findings", id],
        ["runs", id],
        ["followed", id],
      ];
      // Large, and no edit changes them: a model that was rearranged is fetched with the scene that says so.
      if (!onlyEdits) fresh.push(["review", id], ["shelf"]);
      for (const key of fresh) client.invalidateQueries({ queryKey: key });
    };
    channel.onmessage = (message) => take(message.data as Pulse);
    navigator.locks
      .request(`usual-lamp-${id}`, { signal: stop.signal }, () => {
        source = new EventSource(`/api/reviews/${id}/events`);
        source.onmessage = (event) => {
          const pulse = JSON.parse(event.data) as Pulse;
          take(pulse);
          channel.postMessage(pulse);
        };
        return new Promise<void>((done) => stop.signal.addEventListener("abort", () => done()));
      })
      .catch(() => undefined);
    return () => {
      stop.abort();
      source?.close();
      channel.close();
    };
  }, [client, id]);
}
