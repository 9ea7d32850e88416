import { type Query, queryOptions } from "@tanstack/react-query";
import type { FetchResponse, MaybeOptionalInit } from "openapi-fetch";
import type { PathsWithMethod, RequiredKeysOf } from "openapi-typescript-helpers";
import { client, getJson, ok } from "./client";
import type { paths } from "./schema";

type Gets = PathsWithMethod<paths, "get">;
type Posts = PathsWithMethod<paths, "post">;
type With<Init> = RequiredKeysOf<Init> extends never ? [init?: Init] : [init: Init];
type Answered<Method extends Record<string | number, unknown>, Init> = Exclude<
  FetchResponse<Method, Init, "application/json">["data"],
  undefined
>;
type Call = (path: string, init?: unknown) => Parameters<typeof ok>[0];

/**
 * A question of the API, as it is remembered and as it is asked: its key is the operation with what is asked of
 * it, so that two questions never share an answer and one question is never asked twice over.
 */
export function asks<P extends Gets, Init extends MaybeOptionalInit<paths[P], "get">>(
  path: P,
  ...[init]: With<Init>
) {
  return queryOptions({
    queryKey: [path, (init as { params?: object } | undefined)?.params ?? {}] as const,
    queryFn: () =>
      ok((client.GET as unknown as Call)(path, init)) as Promise<Answered<paths[P]["get"] & object, Init>>,
  });
}

/** A question that needs a body, and changes nothing. */
export function asksBy<P extends Posts, Init extends MaybeOptionalInit<paths[P], "post">>(
  path: P,
  init: Init,
) {
  return queryOptions({
    queryKey: [path, init] as const,
    queryFn: () =>
      ok((client.POST as unknown as Call)(path, init)) as Promise<Answered<paths[P]["post"] & object, Init>>,
  });
}

/** A question whose answer the schema leaves open. */
export function asksOpen<T>(path: string, query: Record<string, string | number | undefined> = {}) {
  return queryOptions({ queryKey: [path, { query }] as const, queryFn: () => getJson<T>(path, query) });
}

/** All questions below a part of the API: `under("licences")`, what is asked of licences. */
export function under(part: string) {
  const path = part.startsWith("/") ? part : `/api/${part}`;
  return {
    predicate: (query: Query) => {
      const asked = query.queryKey[0];
      return typeof asked === "string" && (asked === path || asked.startsWith(`${path}/`));
    },
  };
}
