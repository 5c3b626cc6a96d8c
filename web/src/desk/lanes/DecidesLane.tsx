import { INK, SHEET } from "../../tokens";
import type { LaneScale } from "./scale";
import { RULES, type Rule, type Span } from "./rules";

/** Tiles of the rules, once in the drawing. */
export function RulePatterns() {
  return (
    <defs>
      {(Object.keys(RULES) as Rule[]).map((rule) => (
        <pattern
          key={rule}
          id={`rule-${rule}`}
          width="8"
          height="8"
          patternUnits="userSpaceOnUse"
        >
          <rect width="8" height="8" fill={RULES[rule].colour} fillOpacity="0.13" />
          <path
            d={RULES[rule].tile}
            stroke={RULES[rule].colour}
            fill="none"
            strokeWidth="1.2"
            strokeLinecap="round"
          />
        </pattern>
      ))}
    </defs>
  );
}

/**
 * What decides: the binding rule at every height, labelled where there is room; a span is chosen to
 * see what relaxing it would bring.
 */
export function DecidesLane({
  scale,
  spans,
  chosen,
  y,
  tall,
  onChoose,
}: {
  scale: LaneScale;
  spans: Span[];
  chosen: Span | null;
  y: number;
  tall: number;
  onChoose: (span: Span) => void;
}) {
  return (
    <g>
      {spans.map((span) => {
        const x = Math.max(scale.left, scale.x(scale.edges[span.from] ?? 0));
        const wide = Math.min(scale.right, scale.x(scale.edges[span.to] ?? 0)) - x;
        if (wide <= 0) return null;
        const { word } = RULES[span.rule];
        const on = chosen?.from === span.from && chosen.to === span.to;
        return (
          <g
            key={span.from}
            data-rule={span.rule}
            className="cursor-pointer"
            onPointerDown={(event) => event.stopPropagation()}
            onClick={() => onChoose(span)}
          >
            <title>
              {`${word}, layers ${span.from + 1} to ${span.to}: select to see ` +
                "what relaxing it would bring"}
            </title>
            <rect
              x={x}
              y={y}
              width={Math.max(wide, 0.5)}
              height={tall}
              fill={`url(#rule-${span.rule})`}
              stroke={on ? INK : "none"}
              strokeWidth="1.5"
            />
            {wide > word.length * 6.3 + 8 && (
              <text
                x={x + 5}
                y={y + tall - 4}
                fontSize="12"
                fill={INK}
                stroke={SHEET}
                strokeWidth="4"
                paintOrder="stroke"
              >
                {word}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}
