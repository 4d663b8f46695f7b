/** Whether WebGL runs on hardware; in software multisampling alone would double the time of a frame. */
export function hasGpu(): boolean {
  const probe = document.createElement("canvas").getContext("webgl2");
  if (!probe) return false;
  const info = probe.getExtension("WEBGL_debug_renderer_info");
  const name = String(probe.getParameter(info ? info.UNMASKED_RENDERER_WEBGL : probe.RENDERER));
  probe.getExtension("WEBGL_lose_context")?.loseContext();
  return !/swiftshader|llvmpipe|software/i.test(name);
}
