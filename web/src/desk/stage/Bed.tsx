import { useMemo } from "react";
import { BufferGeometry, Float32BufferAttribute } from "three";
import { HAIRLINE, EDGE, SHEET } from "../../tokens";

export interface BedShape {
  round: boolean;
  x: number;
  y: number;
  z: number;
  /** Where its middle lies in the machine's coordinates. */
  origin: [number, number];
}

/** Width of a square of the grid in mm. */
export const STEP = 20;

/**
 * The bed to scale with a 20 mm grid, and the build volume as thin lines. The middle of the bed is
 * the origin.
 */
export function Bed({ bed }: { bed: BedShape }) {
  const [grid, frame] = useMemo(
    () => [lines(gridPoints(bed)), lines(framePoints(bed))],
    [bed],
  );
  return (
    <>
      <lineSegments geometry={grid}>
        <lineBasicMaterial color={HAIRLINE} />
      </lineSegments>
      <lineSegments geometry={frame}>
        <lineBasicMaterial color={EDGE} transparent opacity={0.55} />
      </lineSegments>
      <mesh position={[0, 0, -0.4]}>
        {bed.round ? (
          <circleGeometry args={[bed.x / 2, 96]} />
        ) : (
          <planeGeometry args={[bed.x, bed.y]} />
        )}
        <meshBasicMaterial color={SHEET} />
      </mesh>
    </>
  );
}

function lines(points: number[]): BufferGeometry {
  return new BufferGeometry().setAttribute("position", new Float32BufferAttribute(points, 3));
}

function gridPoints({ round, x, y }: BedShape): number[] {
  const out: number[] = [];
  const reach = (at: number, other: number, half: number) =>
    round ? Math.sqrt(Math.max(0, half * half - at * at)) : other;
  for (let a = -Math.floor(x / 2 / STEP) * STEP; a <= x / 2; a += STEP) {
    const r = reach(a, y / 2, x / 2);
    out.push(a, -r, -0.2, a, r, -0.2);
  }
  for (let a = -Math.floor(y / 2 / STEP) * STEP; a <= y / 2; a += STEP) {
    const r = reach(a, x / 2, x / 2);
    out.push(-r, a, -0.2, r, a, -0.2);
  }
  return out;
}

function framePoints({ round, x, y, z }: BedShape): number[] {
  const sides = round ? 72 : 4;
  const corner = (k: number): [number, number] => {
    if (!round)
      return [((k % 4 === 0 || k % 4 === 3 ? -1 : 1) * x) / 2, ((k % 4 < 2 ? -1 : 1) * y) / 2];
    return [
      (Math.cos((2 * Math.PI * k) / sides) * x) / 2,
      (Math.sin((2 * Math.PI * k) / sides) * x) / 2,
    ];
  };
  const out: number[] = [];
  for (let k = 0; k < sides; k++) {
    const [a, b] = [corner(k), corner(k + 1)];
    for (const h of [0, z]) out.push(...a, h, ...b, h);
    if (!round || k % 18 === 0) out.push(...a, 0, ...a, z);
  }
  return out;
}
