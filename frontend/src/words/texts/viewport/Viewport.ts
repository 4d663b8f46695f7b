/** Words of viewport/Viewport.tsx. */
export const thisBrowserCannotDraw =
  "This browser cannot draw in 3D (WebGL is off). Turn it on, or take a still: tracing needs no WebGL.";
export const someMeshesCouldNot = "Some meshes could not be loaded. Reload the page to try again.";
export const theLightCouldNot = "The light could not be loaded.";
export const pictureOfTheAssembly =
  "Picture of the assembly. Drag to turn, right drag to move, wheel to zoom, click to select.";
export const fetchingTheMeshes = "Fetching the meshes…";
export const fetchingTheLight = "Fetching the light…";
