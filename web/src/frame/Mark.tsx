/** The mark: an N and the chevron of a contour, north up. */
export function Mark({ size = 28 }: { size?: number }) {
  return <img src="/mark.svg" width={size} height={size} alt="North Pace" />;
}
