/** Ways from a figure to its place. */
import type { Sight } from "../../state/useSight";

export type Go = Pick<Sight, "toHeight" | "toPlace">;
