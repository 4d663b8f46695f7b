import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Standing } from "./client";

interface Pulse {
  seq: number;
  pulse: number;
  removed: boolean;
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

    const take = (pulse: Pulse) => {
      const known = client.getQueryData<Standing>(["scene", id]);
      if (!known || known.seq < pulse.seq) client.invalidateQueries({ queryKey: ["scene", id] });
      const fresh = [
        ["stills", id],
        ["review", id],
        ["shelf"],
        ["runs", id],
        ["followed", id],
        ["findings", id],
      ];
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
