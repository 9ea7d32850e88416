import { t } from "../words";
import { ApiProblem, csrf } from "./client";

const ROOT = "/api/account/browser/v1";

/** What signing in still asks for: a flow that has been begun, with the ways it can be gone on with. */
export interface Flow {
  id: string;
  is_pending?: boolean;
  types?: string[];
}

interface Answer {
  status: number;
  data?: Record<string, unknown> & { flows?: Flow[] };
  meta?: Record<string, unknown>;
  errors?: { message: string; param?: string }[];
}

/** Asked again for the password: a screen left open is no leave to change how one signs in. */
export class ProveYourself extends Error {}

/** Call the accounts' own interface. A refusal is thrown as a problem at its field. */
export async function account(method: string, path: string, body?: unknown): Promise<Answer> {
  if (!csrf()) await fetch("/api/csrf");
  let answer: Response;
  try {
    answer = await fetch(ROOT + path, {
      method,
      headers: { "Content-Type": "application/json", "X-CSRFToken": csrf() },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  } catch {
    throw new ApiProblem({
      title: t("No connection"),
      status: 0,
      detail: t("Tarn does not answer. Try again."),
    });
  }
  const said = (await answer.json().catch(() => ({}))) as Answer;
  const told = { ...said, status: answer.status };
  if (answer.status === 401 && said.data?.flows?.some((f) => f.id === "reauthenticate"))
    throw new ProveYourself();
  if (answer.ok || answer.status === 401 || answer.status === 404) return told;
  const first = said.errors?.[0];
  const detail =
    said.errors?.map((e) => e.message).join(" ") ||
    (answer.status === 429 ? t("Too many attempts. Wait a minute, then try again.") : t("It was refused."));
  throw new ApiProblem({ title: t("Refused"), status: answer.status, detail, field: first?.param });
}

/** Make a passkey in the browser from what the server offers. */
export async function makePasskey(options: unknown): Promise<unknown> {
  const offered = (options as { publicKey: PublicKeyCredentialCreationOptionsJSON }).publicKey;
  const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(offered);
  const made = (await navigator.credentials.create({ publicKey })) as PublicKeyCredential | null;
  if (!made) throw new Error(t("No passkey was made."));
  return made.toJSON();
}

/** Sign what the server asks with a passkey of this browser or of a key that is plugged in. */
export async function usePasskey(options: unknown): Promise<unknown> {
  const offered = (options as { publicKey: PublicKeyCredentialRequestOptionsJSON }).publicKey;
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(offered);
  const found = (await navigator.credentials.get({ publicKey })) as PublicKeyCredential | null;
  if (!found) throw new Error(t("No passkey was given."));
  return found.toJSON();
}

/** What went wrong, in words; what the browser itself refuses is said plainly. */
export function asProblem(error: unknown): unknown {
  if (error instanceof DOMException)
    return new ApiProblem({
      title: t("No passkey"),
      status: 0,
      detail: t("The browser gave no passkey: it was cancelled, or there is none for this address."),
    });
  return error;
}
