import { useEffect, useRef, useState } from "react";
import type { Edit, Lighting, Standing } from "../../api/client";
import { keepPanorama, useSurroundings } from "../../api/lighting";
import { toast } from "../../api/toast";
import { useDesk } from "../../state/deskStore";
import { FileButton } from "../../ui/FileButton";

interface Props {
  reviewId: string;
  standing: Standing;
  shotId: string;
  id: string;
  lighting: Lighting;
  edit: (change: Edit) => void;
}

const SIZE = { width: 160, height: 120 };
/** Samples of a tile; more than the lamp can tell from few. */
const ENOUGH = 6;
/** Names this tab's tiles to the lamp, which keeps one scene for all of them. */
const STRIP = crypto.randomUUID();

/** The product as it is lit by each of the surroundings, traced small, to select by looking. */
export function SurroundingsStrip({ reviewId, standing, shotId, id, lighting, edit }: Props) {
  const shipped = useSurroundings().data ?? [];
  const imported = Object.entries(standing.scene.panoramas).map(([hash, label]) => ({
    name: `map:${hash}`,
    label,
  }));
  const choices = [...imported, ...shipped];
  const pictures = useTiles(reviewId, standing, shotId, id, choices.map((one) => one.name).join(" "));
  const select = (surroundings: string) => {
    useDesk.setState({ light: "surroundings" });
    if (surroundings !== lighting.surroundings)
      edit({ kind: "set_lighting", id, lighting: { ...lighting, surroundings, on: true } });
  };
  const bring = async (file: File) => {
    try {
      const kept = await keepPanorama(file);
      const label = file.name.replace(/\.(hdr|exr)$/i, "").slice(0, 120);
      edit({ kind: "set_panoramas", panoramas: { [kept.panorama]: label } });
      edit({
        kind: "set_lighting",
        id,
        lighting: { ...lighting, surroundings: `map:${kept.panorama}`, on: true },
      });
      for (const note of kept.notes) toast(`${label}: ${note}`);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <section
      aria-label="Surroundings"
      className="flex flex-col gap-2 px-3 py-2.5"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        const file = [...event.dataTransfer.files].find((one) => /\.(hdr|exr)$/i.test(one.name));
        if (!file) return;
        event.preventDefault();
        event.stopPropagation();
        bring(file);
      }}
    >
      <div className="flex items-center justify-between">
        <span className="cap">Surroundings, on this product</span>
        <FileButton label="Panorama file" accept=".hdr,.exr" onFile={bring}>
          Import HDR…
        </FileButton>
      </div>
      <div className="grid grid-cols-3 gap-2" role="radiogroup" aria-label="Surroundings">
        {choices.map(({ name, label }) => {
          const on = name === lighting.surroundings;
          return (
            <button
              key={name}
              type="button"
              role="radio"
              aria-checked={on}
              className="cursor-pointer text-left"
              onClick={() => select(name)}
            >
              <Tile picture={pictures.get(name)} on={on} />
              <span
                className={`font-narrow text-[11.5px] leading-[1.2] ${on ? "font-semibold" : "text-ink-2"}`}
              >
                {label}
              </span>
            </button>
          );
        })}
      </div>
    </section>
  );
}

function Tile({ picture, on }: { picture?: ImageBitmap; on: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (picture) canvas.current?.getContext("2d")?.drawImage(picture, 0, 0, SIZE.width, SIZE.height);
  }, [picture]);
  return (
    <canvas
      ref={canvas}
      {...SIZE}
      data-lit={picture !== undefined}
      className={`mb-1 block w-full bg-mat ${on ? "outline-2 outline-mark outline-offset-1" : "outline outline-rule-strong"}`}
    />
  );
}

/** Asks for one tile after the other while the sheet is open; each again when what they show has changed. */
function useTiles(reviewId: string, standing: Standing, shotId: string, lighting: string, names: string) {
  const [tiles, setTiles] = useState<ReadonlyMap<string, ImageBitmap>>(new Map());
  const { seq } = standing;
  const camera = standing.scene.shots[shotId]!.camera;
  useEffect(() => {
    const stop = new AbortController();
    const ask = async (surroundings: string) => {
      const body = {
        desk: STRIP,
        seq,
        shot: shotId,
        camera: cameraOfShot(camera),
        ...SIZE,
        lighting,
        surroundings,
        aside: true,
      };
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
        setTiles((before) => new Map(before).set(surroundings, picture));
        if (Number(reply.headers.get("X-Samples")) >= ENOUGH) return;
      }
    };
    const all = async () => {
      // One more edit may follow at once.
      await new Promise((done) => setTimeout(done, 600));
      for (const name of names.split(" ").filter(Boolean)) {
        if (stop.signal.aborted) return;
        await ask(name).catch(() => undefined);
      }
    };
    all();
    return () => {
      stop.abort();
      fetch(`/api/lamp/${STRIP}`, { method: "DELETE", keepalive: true }).catch(() => undefined);
    };
  }, [reviewId, seq, shotId, camera, lighting, names]);
  return tiles;
}

function cameraOfShot(camera: Standing["scene"]["shots"][string]["camera"]) {
  return { ...camera, f_number: null };
}
