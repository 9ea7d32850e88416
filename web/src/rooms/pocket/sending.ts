import { ApiProblem, client, ok, postForm, type Schemas } from "../../api/client";
import { change, drop, type Waiting, waiting } from "./store";

export type Told = Schemas["TakingMet"];
const AT_ONCE = 100;

/** What came of sending: what Tarn says of each, and whether it answered at all. */
export interface Sent {
  told: Told[];
  reached: boolean;
}

let underWay: Promise<Sent> | null = null;

/**
 * Send what waits, in the order it was met. What Tarn noted is done with; what it refuses stays, with its words; where
 * it does not answer all stays as it is. Sent twice, it is noted once: each carries a key of its own.
 */
export function send(): Promise<Sent> {
  underWay ??= sendAll().finally(() => {
    underWay = null;
  });
  return underWay;
}

async function sendAll(): Promise<Sent> {
  const told: Told[] = [];
  const all = await waiting();
  for (const count of new Set(all.map((w) => w.count))) {
    const mine = all.filter((w) => w.count === count && w.met === undefined && !w.trouble);
    for (let n = 0; n < mine.length; n += AT_ONCE) {
      const some = mine.slice(n, n + AT_ONCE);
      try {
        told.push(...(await noted(count, some)));
      } catch (error) {
        if (!refused(error)) return { told, reached: false };
        for (const one of some) await change({ ...one, trouble: error.problem.detail });
      }
    }
  }
  for (const one of await waiting()) {
    if (one.met === undefined || one.trouble) continue;
    const body = new FormData();
    body.set("text", one.note);
    if (one.photo) body.set("file", new Blob([one.photo]), "photo.jpg");
    try {
      await postForm(`/api/papers-of/met/${one.met}`, body);
      await drop(one.key);
    } catch (error) {
      if (!refused(error)) return { told, reached: false };
      await change({ ...one, trouble: error.problem.detail });
    }
  }
  return { told, reached: true };
}

/** Whether Tarn answered and said no, for good: who is not signed in any more sends it later. */
function refused(error: unknown): error is ApiProblem {
  return error instanceof ApiProblem && [404, 409, 413, 422].includes(error.problem.status);
}

async function noted(count: number, some: Waiting[]): Promise<Told[]> {
  const told = await ok(
    client.POST("/api/counts/{number}/met", {
      params: { path: { number: count } },
      body: {
        sent_at: Math.floor(Date.now() / 1000),
        met: some.map(({ key, how, code, place, note, at }) => ({ key, how, code, place, note, at })),
      },
    }),
  );
  const by = new Map(told.map((line) => [line.key, line]));
  for (const one of some) {
    const answer = by.get(one.key);
    if (answer?.trouble) await change({ ...one, trouble: answer.trouble });
    else if (one.photo && answer?.id) await change({ ...one, met: answer.id, note: "" });
    else if (answer) await drop(one.key);
  }
  return told;
}
