import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

/** The generated client: a call returns data or an error, never both. */
export const api = createClient<paths>({ baseUrl: "" });

export type Schemas = components["schemas"];
export type ProjectCard = Schemas["ProjectCard"];
export type ProjectState = Schemas["ProjectState"];
export type SongView = Schemas["SongView"];
export type SongDetail = Schemas["SongDetail"];
export type SectionView = Schemas["SectionView"];
export type PhraseView = Schemas["PhraseView"];
export type MarkView = Schemas["MarkView"];
export type MediaView = Schemas["MediaView"];
export type TakeView = Schemas["TakeView"];
export type PassView = Schemas["PassView"];
export type SelectView = Schemas["SelectView"];
export type SaidView = Schemas["SaidView"];
export type AlternateView = Schemas["AlternateView"];
export type Filler = Schemas["Filler"];
export type Listed = Schemas["Listed"];
export type FilmShots = Schemas["FilmShots"];
export type AngleView = Schemas["AngleView"];
export type SpanView = Schemas["SpanView"];
export type EditView = Schemas["EditView"];
export type ItemView = Schemas["ItemView"];
export type LaneView = Schemas["LaneView"];
export type FindingView = Schemas["FindingView"];
export type JobView = Schemas["JobView"];
export type FolderView = Schemas["FolderView"];
/** One operation on the edit; what has a default may be left out. */
export type Operation = WithOp<Schemas["Operation"]>;
type WithOp<O> = O extends { op?: infer T } ? O & { op: NonNullable<T> } : never;
export type Unit = NonNullable<Schemas["Cut"]["unit"]>;
export type HitKind = NonNullable<Schemas["SetOfHits"]["kinds"]>[number];

/** A refusal from the server, in its own words. */
export class Refusal extends Error {}

/** Unwrap a client answer: its data, or a Refusal thrown with the server's words. */
export async function data<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  let answer: { data?: T; error?: unknown };
  try {
    answer = await call;
  } catch {
    throw new Refusal("The server does not answer. Start it again (make demo, or zembi serve); nothing is lost.");
  }
  if (answer.error !== undefined || answer.data === undefined) {
    const detail = (answer.error as { detail?: string } | undefined)?.detail;
    throw new Refusal(typeof detail === "string" ? detail : "The server could not do that.");
  }
  return answer.data;
}

/** The fields of a file that the address of something made from it needs. */
export type Made = Pick<MediaView, "id" | "made_of" | "prepared">;

/**
 * Address of something made from a file. It names the content, so that of a replaced file nothing old is shown from the
 * browser's cache; the first stills, which are replaced once the file is prepared, have an address of their own.
 */
export function derivedUrl(project: string, file: Made, what: string): string {
  const first = what === "stills.jpg" && !file.prepared ? "~" : "";
  return `/api/v1/projects/${project}/media/${file.id}/${what}${file.made_of ? `?of=${file.made_of}${first}` : ""}`;
}
