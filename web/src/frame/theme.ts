/**
 * Paper for daylight, dim for a dark room. Chosen once while the page loads, because colours are
 * also handed to drawings and shaders that keep them; another theme loads the page again.
 */
import { keepHere, kept } from "./useKept";

export const THEMES = ["paper", "dim", "as this computer"] as const;
export type Theme = (typeof THEMES)[number];

const KEY = "northpace.theme";
const isTheme = (value: unknown): value is Theme => THEMES.includes(value as Theme);

export const chosenTheme = (): Theme => kept<Theme>(KEY, "as this computer", isTheme);

/** Whether the page is drawn dim. */
export const DIM: boolean =
  typeof window !== "undefined" &&
  (chosenTheme() === "dim" ||
    (chosenTheme() === "as this computer" &&
      window.matchMedia("(prefers-color-scheme: dark)").matches));

export function chooseTheme(theme: Theme): void {
  keepHere(KEY, theme);
  window.location.reload();
}
