import { HAIRLINE, NORTH } from "../tokens";

/** Contour lines of a made-up hill: the motif, used here and nowhere else at this size. */
export function Contours() {
  const rings = Array.from({ length: 16 }, (_, k) => {
    const r = 60 + 34 * k;
    const points = Array.from({ length: 90 }, (_, j) => {
      const a = (j / 90) * 2 * Math.PI;
      const d =
        r * (1 + 0.13 * Math.sin(3 * a + 0.16 * k) + 0.06 * Math.cos(5 * a - 0.11 * k));
      return `${(900 + d * 1.25 * Math.cos(a)).toFixed(1)} ${(380 + d * Math.sin(a)).toFixed(1)}`;
    });
    return `M${points.join("L")}Z`;
  });
  return (
    <svg
      aria-hidden
      className="absolute inset-0 h-full w-full"
      viewBox="0 0 1280 800"
      preserveAspectRatio="xMidYMid slice"
    >
      {rings.map((d, k) => (
        <path key={k} d={d} fill="none" stroke={HAIRLINE} strokeWidth={k % 4 ? 0.9 : 1.8} />
      ))}
      <circle cx="900" cy="380" r="4" fill={NORTH} />
    </svg>
  );
}
