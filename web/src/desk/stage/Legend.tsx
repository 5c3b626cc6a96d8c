import { clsx } from "clsx";
import { HEIGHT_RAMP, NORTH, PAPER } from "../../tokens";

const TALL = 110;

/** The scale of what the part is painted by, with figures. */
export function Legend({
  title,
  from,
  to,
  unit,
  colours,
  format,
  placed = true,
  aside = false,
}: {
  title: string;
  from: number;
  to: number;
  unit: string;
  colours: string[];
  format: (v: number) => string;
  placed?: boolean;
  /** On the right, where a tool lies over the left. */
  aside?: boolean;
}) {
  const ticks = [0, 0.25, 0.5, 0.75, 1];
  return (
    <figure
      className={clsx(
        "narrow m-0 bg-paper/85 p-1 text-[12px]",
        placed && (aside ? "absolute top-11 right-3" : "absolute bottom-8 left-3"),
      )}
      aria-label={`${title}: ${format(from)} to ${format(to)} ${unit}`}
    >
      <figcaption className="mb-1">
        {title} {unit}
      </figcaption>
      <div className="flex" aria-hidden>
        <div
          style={{
            height: TALL,
            width: 12,
            background: `linear-gradient(to top, ${colours.join(",")})`,
          }}
          className="border border-hairline"
        />
        <div className="relative ml-1 w-9" style={{ height: TALL }}>
          {ticks.map((t) => (
            <span
              key={t}
              className="absolute leading-none"
              style={{ bottom: t * (TALL - 10) }}
            >
              {format(from + t * (to - from))}
            </span>
          ))}
        </div>
      </div>
    </figure>
  );
}

export const STEP_COLOURS = [PAPER, NORTH];
export const HEIGHT_COLOURS = [...HEIGHT_RAMP].reverse();
