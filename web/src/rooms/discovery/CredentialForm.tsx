import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { ApiProblem, client, ok, type Schemas } from "../../api/client";
import { Dialog, Labelled } from "../../parts/Dialog";
import { Problem } from "../../parts/Problem";

type Credential = Schemas["CredentialOut"];
type Protocol = Schemas["CredentialIn"]["protocol"];

const SECRETS: Record<Protocol, [string, string][]> = {
  "snmp-v2c": [["community", "Community"]],
  "snmp-v3": [
    ["auth", "Authentication secret"],
    ["privacy", "Privacy secret"],
  ],
  ssh: [
    ["password", "Password"],
    ["key", "Private key"],
    ["passphrase", "Passphrase of the key"],
  ],
};
const PORTS: Record<Protocol, number> = { "snmp-v2c": 161, "snmp-v3": 161, ssh: 22 };

export function CredentialForm({ credential, close }: { credential: Credential | null; close: () => void }) {
  const [protocol, setProtocol] = useState<Protocol>((credential?.protocol as Protocol) ?? "ssh");
  const [values, setValues] = useState({
    name: credential?.name ?? "",
    user: credential?.user ?? "",
    port: credential?.port ?? 0,
    auth: credential?.auth || "sha256",
    privacy: credential?.privacy || "aes128",
    preference: credential?.preference ?? 100,
  });
  const [secrets, setSecrets] = useState<Record<string, string>>({});
  const [error, setError] = useState<unknown>(null);
  const queries = useQueryClient();
  const wrong = (field: string) =>
    error instanceof ApiProblem && error.problem.field === field ? error.problem.detail : undefined;
  const placed = error instanceof ApiProblem && error.problem.field !== undefined;
  const done = async (message: string) => {
    await queries.invalidateQueries({ queryKey: ["credentials"] });
    toast.success(message);
    close();
  };
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
    const given = Object.fromEntries(
      SECRETS[protocol].map(([key]) => [key, secrets[key] ?? ""]).filter(([, v]) => v !== ""),
    ) as Record<string, string>;
    const body = {
      ...values,
      auth: protocol === "snmp-v3" ? values.auth : "",
      privacy: protocol === "snmp-v3" ? values.privacy : "",
      port: values.port || PORTS[protocol],
      protocol,
      secrets: given,
      version: credential?.version ?? 0,
    };
    try {
      if (credential)
        await ok(
          client.PUT("/api/credentials/{number}", { params: { path: { number: credential.id } }, body }),
        );
      else await ok(client.POST("/api/credentials", { body }));
      await done(`“${values.name}” is saved.`);
    } catch (refused) {
      setError(refused);
    }
  };
  const drop = async () => {
    if (!credential || !window.confirm(`Drop “${credential.name}”? Its secret is gone then. This is final.`))
      return;
    try {
      await ok(client.DELETE("/api/credentials/{number}", { params: { path: { number: credential.id } } }));
      await done(`“${credential.name}” is dropped.`);
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <Dialog title={credential ? `Change “${credential.name}”` : "New credential"} close={close}>
      <form onSubmit={save} autoComplete="off">
        <div className="grid grid-cols-2 gap-x-4">
          <Labelled label="Name" wrong={wrong("name")}>
            {(id) => (
              <input
                id={id}
                className="input mono w-full"
                required
                value={values.name}
                onChange={(e) => setValues({ ...values, name: e.target.value })}
              />
            )}
          </Labelled>
          <Labelled label="Protocol" wrong={wrong("protocol")}>
            {(id) => (
              <select
                id={id}
                className="select w-full"
                value={protocol}
                onChange={(e) => setProtocol(e.target.value as Protocol)}
              >
                <option value="ssh">SSH</option>
                <option value="snmp-v2c">SNMP v2c</option>
                <option value="snmp-v3">SNMP v3</option>
              </select>
            )}
          </Labelled>
          {protocol !== "snmp-v2c" && (
            <Labelled label="User" wrong={wrong("user")}>
              {(id) => (
                <input
                  id={id}
                  className="input mono w-full"
                  value={values.user}
                  onChange={(e) => setValues({ ...values, user: e.target.value })}
                />
              )}
            </Labelled>
          )}
          <Labelled label="Port" wrong={wrong("port")}>
            {(id) => (
              <input
                id={id}
                type="number"
                min={1}
                max={65535}
                className="input w-full"
                placeholder={String(PORTS[protocol])}
                value={values.port || ""}
                onChange={(e) => setValues({ ...values, port: Number(e.target.value) })}
              />
            )}
          </Labelled>
          {protocol === "snmp-v3" && (
            <>
              <Labelled label="Authentication">
                {(id) => (
                  <select
                    id={id}
                    className="select w-full"
                    value={values.auth}
                    onChange={(e) => setValues({ ...values, auth: e.target.value })}
                  >
                    {["sha256", "sha512", "sha384", "sha224", "sha1", "md5"].map((p) => (
                      <option key={p}>{p}</option>
                    ))}
                  </select>
                )}
              </Labelled>
              <Labelled label="Privacy">
                {(id) => (
                  <select
                    id={id}
                    className="select w-full"
                    value={values.privacy}
                    onChange={(e) => setValues({ ...values, privacy: e.target.value })}
                  >
                    {["aes128", "aes192", "aes256", "des"].map((p) => (
                      <option key={p}>{p}</option>
                    ))}
                  </select>
                )}
              </Labelled>
            </>
          )}
          {SECRETS[protocol].map(([key, label]) => (
            <Labelled
              key={key}
              label={label}
              wrong={wrong(key)}
              hint={credential ? "Leave empty to keep the one stored." : undefined}
            >
              {(id) =>
                key === "key" ? (
                  <textarea
                    id={id}
                    rows={2}
                    className="textarea mono w-full"
                    value={secrets[key] ?? ""}
                    onChange={(e) => setSecrets({ ...secrets, [key]: e.target.value })}
                  />
                ) : (
                  <input
                    id={id}
                    type="password"
                    autoComplete="new-password"
                    className="input w-full"
                    value={secrets[key] ?? ""}
                    onChange={(e) => setSecrets({ ...secrets, [key]: e.target.value })}
                  />
                )
              }
            </Labelled>
          ))}
        </div>
        {error !== null && !placed && <Problem error={error} />}
        <div className="mt-3 flex gap-2">
          {credential && (
            <button type="button" className="btn text-error" onClick={drop}>
              Drop
            </button>
          )}
          <span className="flex-1" />
          <button type="button" className="btn" onClick={close}>
            Leave
          </button>
          <button type="submit" className="btn btn-primary">
            Save
          </button>
        </div>
      </form>
    </Dialog>
  );
}
