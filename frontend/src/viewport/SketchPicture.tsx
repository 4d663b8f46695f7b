import { useEffect, useState } from "react";
import type { Matrix4 } from "three";
import { type SketchPart, sketch } from "./sketch";

interface Props {
  parts: SketchPart[];
  width: number;
  height: number;
  turn?: Matrix4;
  alt: string;
}

/** A small picture of parts, drawn when it is first shown. */
export function Sketch({ parts, width, height, turn, alt }: Props) {
  const [address, setAddress] = useState<string>();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the parts are compared by what they are
  useEffect(() => {
    let passed = false;
    sketch(parts, { width, height }, turn).then(
      (made) => !passed && setAddress(made),
      () => undefined,
    );
    return () => {
      passed = true;
    };
  }, [
    parts
      .map(
        ({ mesh, world, decal, color, faces }) =>
          `${mesh}${world.join()}${JSON.stringify([decal, color, faces])}`,
      )
      .join(),
    turn?.elements.join(),
    width,
    height,
  ]);
  return address ? (
    <img src={address} alt={alt} width={width} height={height} draggable={false} />
  ) : (
    <span role="img" aria-label={alt} className="block bg-sunk" style={{ width, height }} />
  );
}
