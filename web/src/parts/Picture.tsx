/** The contour picture the core drew of a part. */
export function Picture({
  svg,
  name,
  size = 96,
}: {
  svg: string;
  name: string;
  size?: number;
}) {
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
      src={`data:image/svg+xml;utf8,${encodeURIComponent(svg)}`}
      width={size}
      height={size}
      alt={`Contours of ${name}`}
    />
  );
}
