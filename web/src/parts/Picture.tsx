/** The contour picture the core drew of a part. */
export function Picture({
  address,
  name,
  size = 96,
}: {
  /** Where its drawing is; empty while there is none. */
  address: string;
  name: string;
  size?: number;
}) {
  if (!address)
    return (
      <div
        style={{ width: size, height: size }}
        className="border border-dashed border-hairline"
        aria-hidden
      />
    );
  return <img src={address} width={size} height={size} alt={`Contours of ${name}`} />;
}
