import { useDesk } from "../state/deskStore";

const LINES: Record<string, [number, number, number, number][]> = {
  thirds: [1 / 3, 2 / 3].flatMap((at): [number, number, number, number][] => [
    [at, 0, at, 1],
    [0, at, 1, at],
  ]),
  centre: [
    [0.5, 0, 0.5, 1],
    [0, 0.5, 1, 0.5],
    [0, 0, 1, 1],
    [0, 1, 1, 0],
  ],
  // What every projector and trimmed print still shows: nine tenths of width and height.
  "safe area": [
    [0.05, 0.05, 0.95, 0.05],
    [0.95, 0.05, 0.95, 0.95],
    [0.95, 0.95, 0.05, 0.95],
    [0.05, 0.95, 0.05, 0.05],
  ],
};

/** Lines over the picture to frame by; in no still. */
export function GuideLines() {
  const guides = useDesk((state) => state.guides);
  const lines = LINES[guides];
  if (!lines) return null;
  return (
    <svg
      aria-hidden="true"
      className="pointer-events-none absolute inset-0 z-10 h-full w-full"
      viewBox="0 0 1 1"
      preserveAspectRatio="none"
    >
      {lines.flatMap(([x1, y1, x2, y2]) =>
        // A dark line under a light one shows on anything.
        (["#0008", "#fffc"] as const).map((stroke, k) => (
          <line
            key={`${x1} ${y1} ${x2} ${y2} ${stroke}`}
            {...{ x1, y1, x2, y2, stroke }}
            strokeWidth={k === 0 ? 2 : 1}
            vectorEffect="non-scaling-stroke"
          />
        )),
      )}
    </svg>
  );
}
