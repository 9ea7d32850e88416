import { type DBSchema, deleteDB, type IDBPDatabase, openDB } from "idb";
import type { Schemas } from "../../api/client";

export type Pack = Schemas["TakingPack"];
export type Device = Schemas["PackDevice"];

/** A count that was taken along: by whom and when. */
export interface Kept extends Pack {
  who: string;
  at: number;
}

/** Something met, kept until Tarn has noted it; `trouble`: why it was refused. */
export interface Waiting {
  key: string;
  count: number;
  how: "scan" | "typed" | "tick";
  code: string;
  place: string;
  note: string;
  /** Seconds since 1970, by this phone's clock. */
  at: number;
  /** The order in which things were met. */
  turn: number;
  photo?: ArrayBuffer;
  /** The number Tarn has given it, where only its photo, or a note on it, is still to be sent. */
  met?: number;
  trouble?: string;
}

/** Who was signed in here last: their page opens without signal, nobody else's. */
export interface Person {
  username: string;
  full_name: string;
}

interface Pocket extends DBSchema {
  packs: { key: number; value: Kept };
  waiting: { key: string; value: Waiting; indexes: { count: number } };
  person: { key: "here"; value: Person };
}

const NAME = "tarn-pocket";
let held: Promise<IDBPDatabase<Pocket>> | null = null;

function store(): Promise<IDBPDatabase<Pocket>> {
  held ??= openDB<Pocket>(NAME, 1, {
    upgrade(db) {
      db.createObjectStore("packs", { keyPath: "id" });
      db.createObjectStore("waiting", { keyPath: "key" }).createIndex("count", "count");
      db.createObjectStore("person");
    },
  });
  return held;
}

/** Note who is signed in; what somebody else took along on this phone is put away, what they met is kept for them. */
export async function here(person: Person): Promise<void> {
  const db = await store();
  const before = await db.get("person", "here");
  if (before && before.username !== person.username) await db.clear("packs");
  await db.put("person", person, "here");
}

export async function lastHere(): Promise<Person | undefined> {
  return (await store()).get("person", "here");
}

export async function takeAlong(pack: Pack, who: string): Promise<Kept> {
  const kept = { ...pack, who, at: Date.now() };
  await (await store()).put("packs", kept);
  return kept;
}

export async function packs(): Promise<Kept[]> {
  return (await store()).getAll("packs");
}

export async function packOf(count: number): Promise<Kept | undefined> {
  return (await store()).get("packs", count);
}

export async function putDown(count: number): Promise<void> {
  await (await store()).delete("packs", count);
}

/** Keep something met until Tarn has noted it. */
export async function keep(met: Omit<Waiting, "turn">): Promise<Waiting> {
  const db = await store();
  const turn = Math.max(0, ...(await db.getAll("waiting")).map((w) => w.turn)) + 1;
  const kept = { ...met, turn };
  await db.put("waiting", kept);
  return kept;
}

/** What waits to be sent, of one count or of all, in the order it was met. */
export async function waiting(count?: number): Promise<Waiting[]> {
  const db = await store();
  const found =
    count === undefined ? await db.getAll("waiting") : await db.getAllFromIndex("waiting", "count", count);
  return found.sort((a, b) => a.turn - b.turn);
}

export async function change(met: Waiting): Promise<void> {
  await (await store()).put("waiting", met);
}

export async function drop(key: string): Promise<void> {
  await (await store()).delete("waiting", key);
}

/** Put all of it away: whoever signs out leaves nothing on the phone. */
export async function forget(): Promise<void> {
  const db = await held;
  db?.close();
  held = null;
  await deleteDB(NAME);
  navigator.serviceWorker?.controller?.postMessage({ forget: true });
}
