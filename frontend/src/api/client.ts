/* The server's API, typed from its OpenAPI document. An answer that is not a success becomes a
   Refused error. */
import createClient from "openapi-fetch";
import { t } from "../shared/words";
import { newId, patientFetch } from "./patience";
import { named, signInFirst } from "./signedIn";
import { problemOf, Refused } from "./refused";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Recipe = Schemas["Recipe"];
export type Reading = Schemas["Reading"];
export type Kind = Reading["kind"];
type WholeEdit = Schemas["Edits"]["edits"][number];
type NullIn<E, K extends keyof E> = null extends E[K] ? K : never;
type Nullable<E> = { [K in keyof E]: NullIn<E, K> }[keyof E];
type Shortened<E> = E extends unknown
  ? Omit<E, Nullable<E>> & Partial<Pick<E, Nullable<E>>>
  : never;
/** A change of a recipe; what may be null may be left out. */
export type Edit = Shortened<WholeEdit>;
/** Edits as they go over the wire. */
export const whole = (edits: Edit[]): WholeEdit[] => edits as WholeEdit[];
export type Solution = Schemas["Solution"];
export type SolvedReading = Schemas["SolvedReading"];
export type Report = Schemas["Report"];
export type ReadingWords = Schemas["ReadingWords"];
export type NoteWords = Schemas["NoteWords"];
export type ProposalOut = Schemas["ProposalOut"];
export type PencilWords = Schemas["PencilWords"];
export type Want = Schemas["ProposalIn"]["want"];
export type Draft = Schemas["Draft"];
export type GuideOut = Schemas["GuideOut"];
export type GuideEnds = Schemas["GuideIn"]["ends"];
export type Axis = Schemas["AxisOption"]["axis"];
export type AxisOption = Schemas["AxisOption"];
export type Direction = Schemas["GuideIn"]["direction"];
export type Options = Schemas["Options"];
export type Joins = Schemas["Joins"];
/** A choice: what is sent, and what it is called. */
export type Option = Pick<Schemas["Option"], "value" | "label">;
export type Range = Schemas["Range"];
export type PictureState = Schemas["PictureState"];
export type PictureSummary = Schemas["PictureSummary"];
export type SetSummary = Schemas["SetSummary"];
export type SetContents = Schemas["SetContents"];
export type ExportState = Schemas["ExportState"];
export type ExportList = Schemas["ExportList"];
export type FormatDepth = Schemas["DepthOption"];
export type ExportOptions = Schemas["ExportOptions"];
export type Weights = Schemas["HarmWeights"];
export type Weightings = Schemas["Weightings"];
export type FileOptions = Schemas["FileOptions"];
export type OutputSize = Schemas["OutputSize"];
export type Health = Schemas["Health"];
export type Added = Schemas["Added"];
export type Problem = Schemas["Problem"];
export type QuarantinedFile = Schemas["QuarantinedFile"];
export type Shown = Schemas["Shown"];
export type HistoryEntry = Schemas["HistoryEntry"];
export type Version = Schemas["Version"];
export type CarryLook = Schemas["CarryLook"];
export type CarryPart = Schemas["LookIn"]["parts"][number];
export type GuideShape = Schemas["GuideShape"];
export type GuideName = GuideShape["guide"];
export type PrintSize = Schemas["PrintSize"];
export type ListedSize = Schemas["PrintSizeOut"];
export type FillCandidate = Schemas["FillCandidate"];
export type Mend = Schemas["Mend"];
export type Me = Schemas["Me"];
export type Comment = Schemas["CommentOut"];
export type Sharing = Schemas["SharingOut"];
export type RightWord = Schemas["SetContents"]["may"][number];
export type RightName = Schemas["RightBody"]["right"];
export type Role = Schemas["RoleChange"]["role"];
export type ShownPicture = Schemas["ShownPicture"];
export type Remark = Schemas["RemarkOut"];
export type CandidateOption = Schemas["CandidateOption"];

export const UNREACHABLE = t(
  "The server does not answer. Everything stored so far is kept; start Sequor again and reload this page.",
);

/** By which this window is known to the server. */
export const WINDOW = newId();

export const client = createClient<paths>({
  baseUrl: window.location.origin,
  fetch: patientFetch,
  // So that no window's exports wait for all of another's.
  headers: { "X-Window": WINDOW, ...named() },
});

/** The body of a successful answer; throws Refused with the server's sentence otherwise. */
export async function taken<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let result;
  try {
    result = await call;
  } catch {
    throw new Refused(UNREACHABLE, 0);
  }
  if (result.data !== undefined) return result.data;
  if (result.response.status === 401) signInFirst();
  throw new Refused(problemOf(result.error), result.response.status);
}
