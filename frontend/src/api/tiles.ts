import { useEffect, useState } from "react";
import type { Camera } from "./client";

/** Samples of a tile; more than the lamp can tell from few. */
const ENOUGH = 6;
/** Milliseconds without another edit after which tiles are traced again. */
const REST = 600;

/** A small traced picture: a camera, and what differs from the scene as it is. */
export interface TileWish {
  key: string;
  shot: string;
  camera: Camera;
  width: number;
  height: number;
  lighting?: string;
  surroundings?: string;
}

/**
 * Asks for one tile after the other while they are in sight; each again when what it shows has changed. `desk` names
 * this tab's tiles to the lamp, which keeps one scene for all of them.
 */
export function useTiles(
  reviewId: string,
  seq: number,
  desk: string,
  wishes: TileWish[],
): ReadonlyMap<string, ImageBitmap> {
  const [tiles, setTiles] = useState<ReadonlyMap<string, ImageBitmap>>(new Map());
  useEffect(() => {
    const stop = new AbortController();
    const ask = async ({ key, ...wish }: TileWish) => {
      const body = { desk, seq, aside: true, ...wish };
      for (let have = "", tries = 0; tries < ENOUGH && !stop.signal.aborted; tries++) {
        const reply = await fetch(`/api/reviews/${reviewId}/lamp`, {
          method: "POST",
          headers: { "Content-Type": "application/json" },
          body: JSON.stringify({ ...body, have }),
          signal: stop.signal,
        });
        if (reply.status === 204) continue;
        if (!reply.ok) return;
        have = reply.headers.get("X-Frame") ?? "";
        const picture = await createImageBitmap(await reply.blob());
        if (stop.signal.aborted) return;
        setTiles((before) => new Map(before).set(key, picture));
        if (Number(reply.headers.get("X-Samples")) >= ENOUGH) return;
      }
    };
    const all = async () => {
      await new Promise((done) => setTimeout(done, REST));
      for (const wish of wishes) {
        if (stop.signal.aborted) return;
        await ask(wish).catch(() => undefined);
      }
    };
    all();
    return () => {
      stop.abort();
      fetch(`/api/lamp/${desk}`, { method: "DELETE", keepalive: true }).catch(() => undefined);
    };
  }, [reviewId, seq, desk, wishes]);
  return tiles;
}
