/** The generated client, with the session's CSRF token and one kind of error. */
import createClient, { type Middleware } from "openapi-fetch";

import { noteAnswer } from "./away";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Part = Schemas["Part"];
export type Plan = Schemas["Plan"];
export type PlanRow = Schemas["PlanList"];
export type Version = Schemas["Version"];
export type Report = Schemas["Report"];
export type Now = Schemas["Now"];
export type Quick = Schemas["QuickReport"];
export type Surface = Schemas["Surface"];
export type Pace = Schemas["Pace"];
export type Layers = Schemas["Layers"];
export type Frontier = Schemas["Frontier"];
export type Baseline = Schemas["Baseline"];
export type TestSlice = Schemas["TestSlice"];
export type Finding = Schemas["FindingFigures"];
export type Setting = Schemas["Setting"];
export type Machine = Schemas["Machine"];
export type Material = Schemas["Material"];
export type Job = Schemas["Job"];
export type Recipe = Schemas["Recipe"];
export type Turn = Schemas["Turn"];
export type Tried = Schemas["Tried"];
export type Effect = Schemas["Effect"];

/** What the service says is wrong, where, and what is allowed. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly where: string,
    readonly status: number,
  ) {
    super(message);
  }
}

export function csrf(): string {
  return /csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

/** Tells this screen from others of the same person: who changes a plan where. */
const DESK = Math.random().toString(36).slice(2);

const guard: Middleware = {
  onRequest({ request }) {
    request.headers.set("X-Desk", DESK);
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrf());
    return request;
  },
  async onResponse({ response }) {
    noteAnswer(response.status);
    if (response.ok) return response;
    throw await refusalOf(response);
  },
  onError({ request }) {
    // what was called off here says nothing about the service
    if (!request.signal.aborted) noteAnswer(0);
    return new Refusal(
      "The service does not answer. Nothing is lost; it is tried again.",
      "",
      0,
    );
  },
};

export async function refusalOf(response: Response): Promise<Refusal> {
  try {
    const body = (await response.json()) as { detail?: string; where?: string };
    return new Refusal(body.detail ?? response.statusText, body.where ?? "", response.status);
  } catch {
    return new Refusal(
      `The service answered ${response.status}; nothing is lost, try again.`,
      "",
      response.status,
    );
  }
}

export const api = createClient<paths>({ baseUrl: "/" });
api.use(guard);

/** The data of an answer; the middleware has already turned failures into a `Refusal`. */
export async function data<T>(answer: Promise<{ data?: T }>): Promise<T> {
  return (await answer).data as T;
}

export async function binary(path: string): Promise<ArrayBuffer> {
  const response = await fetch(path);
  if (!response.ok) throw await refusalOf(response);
  return response.arrayBuffer();
}
