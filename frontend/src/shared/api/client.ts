import createClient from "openapi-fetch";
import type { components, paths } from "./schema.generated";

export const api = createClient<paths>({ baseUrl: "/" });
/** Tags of the parts of a plan as they were last shown, by path. */
const seen = new Map<string, string>();

/** The path of the part that a path changes: its own, or the nearest above it that was shown. */
function partOf(path: string): string | undefined {
  for (let part = path; part.length > 1; part = part.slice(0, part.lastIndexOf("/"))) if (seen.has(part)) return part;
}

// Says with each change what this window has seen, so that of two who change the same the second is told.
api.use({
  onRequest({ request }) {
    const part = request.method === "GET" ? undefined : partOf(new URL(request.url).pathname);
    const tag = part && seen.get(part);
    if (tag) request.headers.set("If-Match", tag);
  },
  onResponse({ request, response }) {
    const tag = response.headers.get("ETag");
    const path = new URL(request.url).pathname;
    if (tag) seen.set(request.method === "GET" ? path : (partOf(path) ?? path), tag);
  },
});

type Schemas = components["schemas"];
export type Berth = Schemas["Berth"];
export type Rehearsed = Schemas["Rehearsed"];
export type Picture = Schemas["Picture"];
export type MetricStripData = Schemas["MetricStrip"];
export type Threshold = Schemas["Threshold"];
export type Distribution = Schemas["Distribution"];
export type Lanes = Schemas["Lanes"];
export type Change = Schemas["Change"];
export type TakeLine = Schemas["TakeLine"];
export type VerdictView = Schemas["VerdictView"];
export type Difference = Schemas["Difference"];
export type PageSection = Schemas["PageSection"];
export type PageSentence = Schemas["PageSentence"];
export type Word = Schemas["EditableWord"];
export type Editor = Schemas["Editor"];
export type Offer = Schemas["Offer"];
export type Reading = Schemas["ReadingView"];
export type MomentView = Schemas["MomentView"];
export type Ghost = Schemas["Ghost"];
export type GroupRow = Schemas["GroupRow"];
export type NetworkLine = Schemas["NetworkLine"];
export type MachineRow = Schemas["MachineRow"];
export type PlanLine = Schemas["PlanLine"];
export type PlanView = Schemas["PlanView"];
export type BroughtView = Schemas["BroughtView"];
export type TemplateView = Schemas["TemplateView"];
export type VersionView = Schemas["VersionView"];
export type TemplateField = Schemas["TemplateField"];
export type DemandView = Schemas["DemandView"];
export type DemandSentence = Schemas["DemandSentence"];
export type DemandPicture = Schemas["DemandPicture"];
export type LayerStrip = Schemas["LayerStrip"];
export type CurvePoint = Schemas["CurvePoint"];
export type Block = Schemas["Block"];
export type ArrangementLine = Schemas["ArrangementLine"];
export type Band = Schemas["Band"];
export type LiveView = Schemas["LiveView"];
export type LiveGroup = Schemas["LiveGroup"];
export type Behind = Schemas["Behind"];
export type GroupLife = Schemas["GroupLife"];
export type ElsewhereGroup = Schemas["ElsewhereGroup"];
export type WatchingView = Schemas["WatchingView"];
export type Tile = Schemas["Tile"];
export type Line = Schemas["Line"];
export type Budget = Schemas["Budget"];
export type CostsView = Schemas["CostsView"];
export type MadeOf = Schemas["MadeOf"];
export type CostCurve = Schemas["Curve"];
export type ColumnView = Schemas["ColumnView"];
export type CourseOf = Schemas["CourseOf"];
export type ScatterView = Schemas["ScatterView"];
export type SearchView = Schemas["SearchView"];
export type SetView = Schemas["SetView"];
export type Nudge = Schemas["Nudge"];
export type VariedView = Schemas["VariedView"];
export type ManySetting = Schemas["Setting"];
export type NewGroupBody = Schemas["NewGroup"];
export type Course = Schemas["Course"];
export type CourseStrip = Schemas["CourseStrip"];
export type Numbers = (number | null)[];

/** Why something was refused, or nothing where it was not. */
export async function refusalOf(asked: Promise<unknown>): Promise<string | null> {
  try {
    await asked;
    return null;
  } catch (cause) {
    return cause instanceof Refusal ? cause.what : String(cause);
  }
}

/** What the server says is wrong, or that it did not answer. */
export class Refusal extends Error {
  readonly status: number;
  /** Of a file that cannot be read. */
  readonly columns: string[];
  /** What is wrong, without the place where it stands. */
  readonly what: string;

  constructor(message: string, status: number, columns: string[] = [], what = message) {
    super(message);
    this.status = status;
    this.columns = columns;
    this.what = what;
  }
}

export function isProblem(error: unknown): error is Schemas["ProblemDetails"] {
  return typeof error === "object" && error !== null && "detail" in error;
}

/** The data of an answer; throws a Refusal in the server's words where there is none. */
export async function answered<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<NonNullable<T>> {
  let outcome: Awaited<typeof call>;
  try {
    outcome = await call;
  } catch (cause) {
    if (cause instanceof DOMException && cause.name === "AbortError") throw cause;
    throw new Refusal("The server does not answer. Your edit is kept here and sent with the next one.", 0);
  }
  if (outcome.data === undefined || outcome.data === null) {
    const { error, response } = outcome;
    if (isProblem(error)) throw new Refusal(error.detail, response.status, error.columns, error.errors?.[0]?.message);
    throw new Refusal(`The server answered ${response.status}.`, response.status);
  }
  return outcome.data;
}
