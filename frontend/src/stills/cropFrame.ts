/** A frame on a still, in its pixels. */
export interface Frame {
  x: number;
  y: number;
  width: number;
  height: number;
}

export interface Size {
  width: number;
  height: number;
}

/** Shapes of a frame; undefined: as it is dragged. */
export const SHAPES: readonly (readonly [string, string, number | undefined])[] = [
  ["free", "any", undefined],
  ["16:9", "16 : 9", 16 / 9],
  ["4:3", "4 : 3", 4 / 3],
  ["1:1", "1 : 1", 1],
  ["3:4", "3 : 4", 3 / 4],
];

/** The frame between two corners, inside the picture and in a shape: the first corner stays. */
export function dragged(from: [number, number], to: [number, number], whole: Size, shape?: number): Frame {
  const [toX, toY] = [within(to[0], whole.width), within(to[1], whole.height)];
  let [width, height] = [Math.abs(toX - from[0]), Math.abs(toY - from[1])];
  if (shape) {
    // As large as the longer drag asks for, and no larger than the picture has room.
    const roomX = toX >= from[0] ? whole.width - from[0] : from[0];
    const roomY = toY >= from[1] ? whole.height - from[1] : from[1];
    width = Math.min(Math.max(width, height * shape), roomX, roomY * shape);
    height = width / shape;
  }
  const x = toX >= from[0] ? from[0] : from[0] - width;
  const y = toY >= from[1] ? from[1] : from[1] - height;
  return rounded({ x, y, width, height });
}

/** The frame moved by so many pixels, as far as the picture goes. */
export function moved(frame: Frame, by: [number, number], whole: Size): Frame {
  const x = Math.min(Math.max(0, frame.x + by[0]), whole.width - frame.width);
  const y = Math.min(Math.max(0, frame.y + by[1]), whole.height - frame.height);
  return rounded({ ...frame, x, y });
}

/** The frame in another size, about its middle and inside the picture. */
export function sized(frame: Frame, size: Partial<Size>, whole: Size): Frame {
  const width = Math.min(size.width ?? frame.width, whole.width);
  const height = Math.min(size.height ?? frame.height, whole.height);
  const centered = {
    x: frame.x + (frame.width - width) / 2,
    y: frame.y + (frame.height - height) / 2,
    width,
    height,
  };
  return moved(centered, [0, 0], whole);
}

/** Left, top, right, bottom as shares of the picture. */
export function regionOf(frame: Frame, whole: Size): [number, number, number, number] {
  return [
    frame.x / whole.width,
    frame.y / whole.height,
    (frame.x + frame.width) / whole.width,
    (frame.y + frame.height) / whole.height,
  ];
}

export const covers = (frame: Frame, [x, y]: [number, number]) =>
  x >= frame.x && y >= frame.y && x <= frame.x + frame.width && y <= frame.y + frame.height;

const within = (value: number, most: number) => Math.min(most, Math.max(0, value));

function rounded(frame: Frame): Frame {
  const x = Math.round(frame.x);
  const y = Math.round(frame.y);
  return {
    x,
    y,
    width: Math.round(frame.x + frame.width) - x,
    height: Math.round(frame.y + frame.height) - y,
  };
}
