/**
 * Whether this browser draws without a graphics processor: then edges are not smoothed, which would
 * cost it several times the work.
 */
export const SOFTWARE = (() => {
  const context = document
    .createElement("canvas")
    .getContext("webgl2", { failIfMajorPerformanceCaveat: true });
  if (!context) return true;
  const info = context.getExtension("WEBGL_debug_renderer_info");
  const name = String(
    context.getParameter(info ? info.UNMASKED_RENDERER_WEBGL : context.RENDERER),
  );
  context.getExtension("WEBGL_lose_context")?.loseContext();
  return /swiftshader|llvmpipe|software|basic render/i.test(name);
})();
