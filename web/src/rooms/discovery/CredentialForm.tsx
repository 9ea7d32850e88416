import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField, Tick } from "../../parts/Form";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { t } from "../../words";
import { PROTOCOLS, type Protocol } from "./protocols";

type Credential = Schemas["CredentialOut"];

/** Protocols over which what everybody knows may be tried. */
const TRIED: Protocol[] = ["ssh", "winrm", "snmp-v1", "snmp-v2c"];
const HASHES = ["sha256", "sha512", "sha384", "sha224", "sha1", "md5"].map((p) => [p, p] as const);
const CIPHERS = ["aes128", "aes192", "aes256", "des"].map((p) => [p, p] as const);

export function CredentialForm({ credential, close }: { credential: Credential | null; close: () => void }) {
  const {
    v: values,
    set,
    field,
    tick,
    attempt,
    submit,
    wrong,
    rest,
  } = useDraft({
    name: credential?.name ?? "",
    user: credential?.user ?? "",
    port: credential?.port ?? 0,
    auth: credential?.auth ?? "",
    privacy: credential?.privacy ?? "",
    preference: credential?.preference ?? 100,
    plain: credential?.plain ?? false,
    verify: credential?.verify ?? false,
    places: credential?.places.join(", ") ?? "",
    reach: credential ? credential.reach.join("\n") : null,
    outposts: credential?.outposts ?? [],
    acts: credential?.acts ?? false,
    known_to_all: credential?.known_to_all ?? false,
    organisation: credential?.organisation ? String(credential.organisation) : "",
    protocol: (credential?.protocol as Protocol) ?? ("ssh" as Protocol),
  });
  const { protocol } = values;
  const [secrets, setSecrets] = useState<Record<string, string>>({});
  const queries = useQueryClient();
  const facts = PROTOCOLS[protocol];
  const outposts = useQuery(asks("/api/outposts"));
  const networks = useQuery({
    ...asks("/api/networks"),
    enabled: !credential,
  });
  // A new credential of devices is offered the company's networks; who makes it strikes out what it is not for.
  const offered = facts.devices
    ? (networks.data ?? []).filter((n) => !n.never_probe).map((n) => n.range)
    : [];
  const reach = values.reach ?? (credential ? "" : offered.join("\n"));
  const posts = outposts.data ?? [];
  const usual = values.plain && facts.plainPort ? facts.plainPort : facts.port;
  const done = async (message: string) => {
    await queries.invalidateQueries(under("credentials"));
    toast.success(message);
    close();
  };
  const save = submit(async () => {
    const given = Object.fromEntries(
      facts.secrets.map(([key]) => [key, secrets[key] ?? ""]).filter(([, v]) => v !== ""),
    ) as Record<string, string>;
    const manner = facts.manners?.includes(values.auth) ? values.auth : (facts.manners?.[0] ?? "");
    const body = {
      ...values,
      auth: protocol === "snmp-v3" ? values.auth || "sha256" : manner,
      privacy: protocol === "snmp-v3" ? values.privacy || "aes128" : "",
      port: values.port || usual,
      reach: reach.split("\n").filter((line) => line.trim()),
      places: values.places
        .split(",")
        .map((p) => p.trim())
        .filter(Boolean),
      protocol,
      acts: values.acts && (protocol === "ssh" || protocol === "winrm"),
      known_to_all: values.known_to_all && TRIED.includes(protocol),
      secrets: given,
      organisation: asOrganisation(values.organisation),
      version: credential?.version ?? 0,
    };

    if (credential)
      await ok(
        client.PUT("/api/credentials/{number}", { params: { path: { number: credential.id } }, body }),
      );
    else await ok(client.POST("/api/credentials", { body }));
    await done(t("“{{name}}” is saved.", { name: values.name }));
  });
  const drop = async () => {
    if (
      !credential ||
      !window.confirm(
        t("Drop “{{name}}”? Its secret is gone then. This is final.", { name: credential.name }),
      )
    )
      return;
    await attempt(async () => {
      await ok(client.DELETE("/api/credentials/{number}", { params: { path: { number: credential.id } } }));
      await done(t("“{{name}}” is dropped.", { name: credential.name }));
    });
  };
  return (
    <Dialog
      title={credential ? t("Change “{{name}}”", { name: credential.name }) : t("New credential")}
      close={close}
    >
      <form onSubmit={save} autoComplete="off">
        <div className="grid grid-cols-2 gap-x-4">
          <TextField label={t("Name")} mono required {...field("name")} />
          <Choice
            label={t("Protocol")}
            {...field("protocol")}
            options={(Object.keys(PROTOCOLS) as Protocol[]).map((p) => [p, PROTOCOLS[p].label] as const)}
          />
          {facts.user && <TextField label={facts.user} mono {...field("user")} />}
          <TextField
            label={t("Port")}
            type="number"
            value={values.port ? String(values.port) : ""}
            set={(port) => set({ port: Number(port) })}
            placeholder={String(usual)}
            wrong={wrong("port")}
          />
          {facts.manners && (
            <Choice
              label={t("Signs in by")}
              value={values.auth || (facts.manners[0] ?? "")}
              set={(auth) => set({ auth })}
              options={facts.manners.map((m) => [m, m] as const)}
              wrong={wrong("auth")}
            />
          )}
          {protocol === "snmp-v3" && (
            <>
              <Choice
                label={t("Authentication")}
                value={values.auth || "sha256"}
                set={(auth) => set({ auth })}
                options={HASHES}
              />
              <Choice
                label={t("Privacy")}
                value={values.privacy || "aes128"}
                set={(privacy) => set({ privacy })}
                options={CIPHERS}
              />
            </>
          )}
          {facts.secrets.map(([key, label]) => (
            <TextField
              key={key}
              label={label}
              type="password"
              rows={key === "key" ? 2 : undefined}
              mono={key === "key"}
              value={secrets[key] ?? ""}
              set={(value) => setSecrets({ ...secrets, [key]: value })}
              wrong={wrong(key)}
              hint={credential ? t("Leave empty to keep the one stored.") : undefined}
            />
          ))}
          {facts.safer && <p className="dim col-span-2 pb-2 text-[12.5px]">{facts.safer}</p>}
          <div className="col-span-2">
            <TextField
              label={t("Where it may be used")}
              rows={3}
              mono
              value={reach}
              set={(to) => set({ reach: to })}
              wrong={wrong("reach")}
              placeholder={facts.devices ? "10.60.4.0/24" : t("directory.example")}
              hint={t(
                "Networks, addresses or names of hosts, one a line. It is sent nowhere else; to widen this, type the secret again.",
              )}
            />
          </div>
          <TextField
            label={t("Only for these places")}
            {...field("places")}
            hint={t("Parted by commas; empty: for all.")}
          />
          <OrganisationChoice
            label={t("Only for")}
            {...field("organisation")}
            hint={t("Others cannot see that it exists.")}
            none={t("all organisations")}
          />
        </div>
        {facts.plainPort && (
          <div className="grid grid-cols-2 gap-x-4">
            <Tick label={t("Without TLS")} on={values.plain} set={(plain) => set({ plain, port: 0 })} />
            {!values.plain && <Tick label={t("Only a certificate we trust")} {...tick("verify")} />}
          </div>
        )}
        {posts.length > 0 && (
          <fieldset className="pb-2">
            <legend className="dim pb-1 text-[13px]">{t("Handed to these outposts, and to no other")}</legend>
            <div className="flex flex-wrap gap-x-5" role="group">
              {posts.map((o) => (
                <Tick
                  key={o.id}
                  label={o.name}
                  on={values.outposts.includes(o.id)}
                  set={(on) =>
                    set({
                      outposts: on ? [...values.outposts, o.id] : values.outposts.filter((n) => n !== o.id),
                    })
                  }
                />
              ))}
            </div>
          </fieldset>
        )}
        {(protocol === "ssh" || protocol === "winrm") && (
          <Tick
            label={t("May act: tasks such as a restart are run with it, not only readings")}
            {...tick("acts")}
          />
        )}
        {TRIED.includes(protocol) && (
          <Tick
            label={t(
              "Everybody knows it: only try whether devices still let it in, and read nothing with it",
            )}
            {...tick("known_to_all")}
          />
        )}
        {wrong("known_to_all") && (
          <p className="text-[13px] font-semibold text-error">{wrong("known_to_all")}</p>
        )}
        {rest}
        <FormFoot close={close} drop={credential ? drop : undefined} />
      </form>
    </Dialog>
  );
}
