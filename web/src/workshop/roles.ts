import type { Schemas } from "../api/client";

export type Role = NonNullable<Schemas["Session"]["role"]>;

/** What each role does; each may do what those below it may. */
export const ROLES: Record<Role, string> = {
  owner: "people, money, machines and their connections",
  planner: "parts, plans, recipes, materials; commits jobs",
  operator: "the board, beds, outcomes, spools; sees everything",
};

export const ROLE_NAMES = Object.keys(ROLES) as Role[];
