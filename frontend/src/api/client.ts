/* The server's API, typed from its OpenAPI document. An answer that is not a success becomes a Refused error. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Recipe = Schemas["Recipe"];
export type Reading = Schemas["Reading"];
export type Kind = Reading["kind"];
export type Solution = Schemas["Solution"];
export type SolvedReading = Schemas["SolvedReading"];
export type SolvedAxis = Schemas["SolvedAxis"];
export type Note = Schemas["Note"];
export type Action = Schemas["Action"];
export type HeldAgainst = Schemas["HeldAgainst"];
export type Axis = "roll" | "lean" | "swing";
export type Direction = "level" | "plumb";
export type PictureState = Schemas["PictureState"];
export type PictureSummary = Schemas["PictureSummary"];
export type SetSummary = Schemas["SetSummary"];
export type ExportState = Schemas["ExportState"];
export type Added = Schemas["Added"];
export type GuideShape = Schemas["GuideShape"];
export type GuideName = GuideShape["guide"];
export type PrintSize = Schemas["PrintSize"];
export type ListedSize = Schemas["PrintSizeOut"];
export type OutputSize = Schemas["OutputSize"];
export type ExportOptions = Omit<Schemas["NewExport"], "entry_id">;
export type FillMethod = Recipe["corners"]["method"];
export type Placed = NonNullable<Recipe["frame"]["placed"]>;
export type SourceBox = NonNullable<Recipe["frame"]["keep"]>;
export type ExportFormat = ExportState["format"];

export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

export const UNREACHABLE = "The server does not answer. Everything stored so far is kept; start Sequor again and reload this page.";

export const client = createClient<paths>({ baseUrl: window.location.origin });

/** The body of a successful answer; throws Refused with the server's sentence otherwise. */
export async function taken<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let result;
  try {
    result = await call;
  } catch {
    throw new Refused(UNREACHABLE, 0);
  }
  if (result.data !== undefined) return result.data;
  throw new Refused(problemOf(result.error), result.response.status);
}

export function problemOf(body: unknown): string {
  if (typeof body === "object" && body !== null && "problem" in body) return String(body.problem);
  return "The server gave an answer that makes no sense; reload the page.";
}
