import { useMemo } from "react";
import type { Edit, Lighting, Standing } from "../../api/client";
import { keepPanorama, useSurroundings } from "../../api/lighting";
import { type TileWish, useTiles } from "../../api/tiles";
import { toast } from "../../api/toast";
import { useDesk } from "../../state/deskStore";
import { FileButton } from "../../ui/FileButton";
import { oneTabStop } from "../../ui/oneTabStop";
import { Tile } from "../../ui/Tile";
import * as t from "../../words/texts/schedules/lights/SurroundingsStrip";

interface Props {
  reviewId: string;
  standing: Standing;
  shotId: string;
  id: string;
  lighting: Lighting;
  edit: (change: Edit) => void;
}

const SIZE = { width: 160, height: 120 };
/** Names this tab's tiles to the lamp, which keeps one scene for all of them. */
const STRIP = crypto.randomUUID();

/** The product as it is lit by each of the surroundings, traced small, to select by looking. */
export function SurroundingsStrip({ reviewId, standing, shotId, id, lighting, edit }: Props) {
  const shipped = useSurroundings().data ?? [];
  const imported = Object.entries(standing.scene.panoramas).map(([hash, label]) => ({
    name: `map:${hash}`,
    label,
  }));
  const listed = shipped.filter((one) => one.listed || one.name === lighting.surroundings);
  const choices = [...imported, ...listed];
  const { camera } = standing.scene.shots[shotId]!;
  const names = choices.map((one) => one.name).join(" ");
  const wishes = useMemo(
    () =>
      names
        .split(" ")
        .filter(Boolean)
        .map((surroundings): TileWish => {
          // Every tile is sharp throughout: so small, blur would say nothing of the light.
          const sharp = { ...camera, f_number: null };
          return { key: surroundings, shot: shotId, camera: sharp, ...SIZE, lighting: id, surroundings };
        }),
    [names, camera, shotId, id],
  );
  const pictures = useTiles(reviewId, standing.seq, STRIP, wishes);
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
      aria-label={t.surroundings}
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
        <span className="cap">{t.surroundingsOnThisProduct}</span>
        <FileButton label={t.panoramaFile} accept=".hdr,.exr" onFile={bring}>
          {t.importHdr}
        </FileButton>
      </div>
      <div ref={oneTabStop} className="grid grid-cols-3 gap-2" role="radiogroup" aria-label={t.surroundings}>
        {choices.map(({ name, label }) => {
          const on = name === lighting.surroundings;
          return (
            <button
              key={name}
              type="button"
              role="radio"
              aria-checked={on}
              data-row={label}
              className="cursor-pointer text-left"
              onClick={() => select(name)}
            >
              <Tile
                picture={pictures.get(name)}
                {...SIZE}
                className={`mb-1 w-full bg-mat ${on ? "outline-2 outline-mark outline-offset-1" : "outline outline-rule-strong"}`}
              />
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
