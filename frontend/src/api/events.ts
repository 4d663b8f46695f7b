import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import type { Standing } from "./client";
import { feed, type Link, type Pulse } from "./feed";

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

/** What is to be fetched again after news of a review, given the news before; of its scene, see `catchUp`. */
export function staleAfter(news: Pulse, before: Pulse | undefined): string[][] {
  const { id } = news;
  const stale = [["stills", id]];
  if (news.pulse === before?.pulse) return stale;
  stale.push(["findings", id], ["runs", id], ["followed", id]);
  const onlyEdits = before && news.pulse - before.pulse === news.seq - before.seq;
  // Large, and no edit changes them: a model that was rearranged is fetched with the scene that says so.
  if (!onlyEdits) stale.push(["review", id], ["shelf"]);
  return stale;
}

/** Keeps a review's data fresh. */
export function useLiveReview(id: string) {
  const client = useQueryClient();
  useEffect(() => {
    let last: Pulse | undefined;
    const pulse = (news: Pulse) => {
      if (news.id !== id) return;
      catchUp(client, id, news.seq);
      for (const key of staleAfter(news, last)) client.invalidateQueries({ queryKey: key });
      last = news;
    };
    return feed.listen({ pulse, missed: () => client.invalidateQueries() });
  }, [client, id]);
}

/** What stands between this page and the server, as it changes. */
export function useLink(): Link {
  return useSyncExternalStore(
    (changed) => feed.watch(changed),
    () => feed.link,
  );
}
