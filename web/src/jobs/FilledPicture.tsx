import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";

import { refusalOf } from "../api/client";

/**
 * A part's contour picture, drawn firmly up to a share of its height and faintly above: how far a
 * print has come.
 */
export function FilledPicture({
  address,
  name,
  share,
  size,
}: {
  address: string;
  name: string;
  share: number;
  size: number;
}) {
  const picture = useQuery({
    queryKey: ["picture", address],
    queryFn: async () => {
      const answer = await fetch(address);
      if (!answer.ok) throw await refusalOf(answer);
      return answer.text();
    },
    enabled: address !== "",
    staleTime: Infinity,
  });
  const svg = picture.data ?? "";
  const drawn = useMemo(() => filled(svg, share), [svg, share]);
  if (!svg)
    return (
      <div
        style={{ width: size, height: size }}
        className="border border-dashed border-hairline"
        aria-hidden
      />
    );
  return (
    <img
      src={`data:image/svg+xml;utf8,${encodeURIComponent(drawn)}`}
      width={size}
      height={size}
      alt={`${name}, laid up to ${Math.round(100 * share)} % of its height`}
    />
  );
}

/**
 * Contours up to the share keep their line and are tinted; those above turn faint. Each says at
 * which share of the height it lies.
 */
function filled(svg: string, share: number): string {
  const count = svg.split("<path ").length - 1;
  let k = 0;
  return svg.replace(/<path (?:data-z="([\d.]+)" )?/g, (_, z: string | undefined) => {
    const at = z === undefined ? (k + 0.5) / Math.max(count, 1) : Number(z);
    k += 1;
    return at <= share
      ? '<path fill="#E3D3B4" stroke="#1C2733" '
      : '<path fill="none" stroke="#8E8777" stroke-width="0.45" stroke-opacity="0.6" ';
  });
}
