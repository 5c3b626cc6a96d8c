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

/**
 * Pixels drawn for each pixel of the page. In software every one counts, and where the page is made
 * smaller fewer are seen.
 */
export const DENSITY: [number, number] = SOFTWARE ? [0.5, 1] : [1, 2];
