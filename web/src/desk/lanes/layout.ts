/** Where the lanes lie, in pixels. */

/** Left of the lanes their names stand; right of them a margin for the last tick. */
export const LEFT = 118;
export const MARGIN = 14;
/** Where the lanes begin under the strip of the whole part. */
export const TOP = 14;
/** Begin and height of the lanes that are always drawn. */
export const ROWS = {
  part: [30, 30],
  height: [66, 66],
  decides: [138, 17],
  error: [161, 38],
  time: [205, 26],
} as const;
/** Where the lanes of settings begin. */
export const SETTINGS_FROM = 237;
/** Under the lanes: what is folded, the ticks of the axis, the cursor's flag. */
export const FOOT = 50;
