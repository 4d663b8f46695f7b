import { useEffect, useRef } from "react";
import { DataUtils } from "three";

const SOURCE = { width: 512, height: 256 };
const SHOWN = { width: 132, height: 60 };

/** The upper part of a lighting's map, tone-mapped small: front in the middle, zenith at the top. */
export function SurroundingsMap({ name }: { name: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    let gone = false;
    fetch(`/api/lightings/${name}/map?floor=C9C0B2`)
      .then((reply) => reply.arrayBuffer())
      .then((data) => {
        const context = canvas.current?.getContext("2d");
        if (gone || !context) return;
        const values = new Uint16Array(data);
        const image = context.createImageData(SHOWN.width, SHOWN.height);
        for (let y = 0; y < SHOWN.height; y++) {
          for (let x = 0; x < SHOWN.width; x++) {
            const row = Math.floor((y / SHOWN.height) * SOURCE.height * 0.55);
            const from = 4 * (row * SOURCE.width + Math.floor((x / SHOWN.width) * SOURCE.width));
            for (let k = 0; k < 3; k++) {
              const v = DataUtils.fromHalfFloat(values[from + k]!) * 0.5;
              image.data[4 * (y * SHOWN.width + x) + k] = 255 * (v / (1 + v)) ** (1 / 2.2);
            }
            image.data[4 * (y * SHOWN.width + x) + 3] = 255;
          }
        }
        context.putImageData(image, 0, 0);
      })
      .catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [name]);
  return (
    <canvas ref={canvas} width={SHOWN.width} height={SHOWN.height} className="border border-rule-strong" />
  );
}
