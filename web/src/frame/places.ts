/** The screens that can be gone to from anywhere, in the order of the work. */
export const PLACES = [
  ["/parts", "Parts"],
  ["/plans", "Plans"],
  ["/beds", "Beds"],
  ["/orders", "Orders"],
  ["/jobs", "Jobs"],
  ["/workshop", "Workshop"],
] as const;
