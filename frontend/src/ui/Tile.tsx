import { useEffect, useRef } from "react";

interface Props {
  picture?: ImageBitmap;
  /** Pixels. */
  width: number;
  height: number;
  className?: string;
}

/** A small traced picture, grey until it is there. */
export function Tile({ picture, width, height, className = "" }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (picture) canvas.current?.getContext("2d")?.drawImage(picture, 0, 0, width, height);
  }, [picture, width, height]);
  return (
    <canvas
      ref={canvas}
      width={width}
      height={height}
      data-lit={picture !== undefined}
      className={`block ${className}`}
    />
  );
}
