/** Words of drawer/model/RoundedEdges.tsx. */
export const edges = "Edges";
export const rounded = (rounding: string | number) => `rounded ${rounding}`;
export const roundSharpEdgesIn = "Round sharp edges in traced pictures";
export const realEdgesAreA =
  "Real edges are a little round and catch the light. Only the light sees it: the geometry stays as it is.";
export const radius = "Radius";
export const radiusOfEdges = "Radius of edges";
