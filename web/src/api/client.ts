import createClient from "openapi-fetch";
import { language, t } from "../words";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

/** What the server says when it refuses: problem details (RFC 9457) with what Tarn adds. */
export interface ProblemDetails {
  title: string;
  status: number;
  detail: string;
  field?: string;
  start?: number;
  end?: number;
  tries?: string[];
}

export class ApiProblem extends Error {
  constructor(readonly problem: ProblemDetails) {
    super(problem.detail);
  }
}

/** Return the token that a change carries; its cookie is bound to this host alone where Tarn is reached by HTTPS. */
export function csrf(): string {
  const found = document.cookie.split("; ").find((c) => /^(__Host-csrf|csrftoken)=/.test(c));
  return found ? decodeURIComponent(found.slice(found.indexOf("=") + 1)) : "";
}

let handed: string | null = null;

/** Make a call's requests in a branch: in the one its question was asked in, whatever the address bar says by now. */
export function standingIn<T>(branch: string, call: () => T): T {
  const before = handed;
  handed = branch;
  try {
    return call();
  } finally {
    handed = before;
  }
}

/** The branch of the estate one stands in: a question's own, else as the address bar says it; empty for everywhere. */
export function standing(): string {
  if (handed !== null) return handed;
  return new URLSearchParams(window.location.search).get("in") ?? "";
}

/** Return an address of the API with the branch one stands in. */
export function narrowed(path: string): string {
  const stand = standing();
  return stand ? `${path}${path.includes("?") ? "&" : "?"}standing_in=${encodeURIComponent(stand)}` : path;
}

export const client = createClient<paths>({ baseUrl: "/" });

client.use({
  onRequest({ request }) {
    request.headers.set("Accept-Language", language());
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrf());
    return standing() ? new Request(narrowed(request.url), request) : request;
  },
});

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Return the data of an answer, or throw what the server refused with. */
export async function ok<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ApiProblem({
      title: t("No connection"),
      status: 0,
      detail: t(
        "Tarn does not answer. Nothing was lost; it will be tried again when the connection is back.",
      ),
    });
  }
  if (answer.response.ok) return answer.data as T;
  const body = answer.error;
  if (body && typeof body === "object" && "detail" in body) throw new ApiProblem(body as ProblemDetails);
  throw new ApiProblem({
    title: t("Failed"),
    status: answer.response.status,
    detail: t("The server failed ({{status}}). Nothing was changed; its log says why.", {
      status: answer.response.status,
    }),
  });
}

async function answered<T>(response: Response): Promise<Answer<T>> {
  const body = (await response.json().catch(() => null)) as unknown;
  return response.ok ? { data: body as T, response } : { error: body, response };
}

/** For calls whose shape the schema leaves open. */
export async function getJson<T>(
  path: string,
  params: Record<string, string | number | undefined> = {},
): Promise<T> {
  const query = new URLSearchParams();
  for (const [key, value] of Object.entries(params))
    if (value !== undefined && value !== "") query.set(key, String(value));
  const text = query.toString();
  return ok(fetch(narrowed(text ? `${path}?${text}` : path)).then(answered<T>));
}

/** Send a form with files, which the typed client has no words for. */
export async function postForm<T>(path: string, body: FormData): Promise<T> {
  const headers = { "X-CSRFToken": csrf() };
  return ok(fetch(path, { method: "POST", body, headers }).then(answered<T>));
}

/** Ask for a file by a body, and hand it to the person as a download. */
export async function postFile(path: string, body: unknown): Promise<void> {
  const headers = { "X-CSRFToken": csrf(), "Content-Type": "application/json" };
  const response = await ok(
    fetch(narrowed(path), { method: "POST", body: JSON.stringify(body), headers }).then(async (answer) =>
      answer.ok ? { data: answer, response: answer } : answered<Response>(answer),
    ),
  );
  const name = /filename="([^"]+)"/.exec(response.headers.get("Content-Disposition") ?? "")?.[1] ?? "list";
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await response.blob());
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
