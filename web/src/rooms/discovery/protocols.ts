import type { Schemas } from "../../api/client";
import { t } from "../../words";

export type Protocol = Schemas["CredentialIn"]["protocol"];

interface ProtocolFacts {
  label: string;
  port: number;
  plainPort?: number;
  user?: string;
  manners?: string[];
  secrets: [string, string][];
  /** Whether it is for devices, so that the company's networks are offered as where it may be used. */
  devices?: boolean;
  /** Which way to sign in keeps the secret safest. */
  safer?: string;
}

/** What each protocol a credential may be for needs, and what it is called. */
export const PROTOCOLS: Record<Protocol, ProtocolFacts> = {
  ssh: {
    label: "SSH",
    devices: true,
    safer: t("A private key is safer: a device that is not what it seems cannot keep it."),
    port: 22,
    user: t("User"),
    secrets: [
      ["password", t("Password")],
      ["key", t("Private key")],
      ["passphrase", t("Passphrase of the key")],
    ],
  },
  winrm: {
    label: t("WinRM"),
    devices: true,
    safer: t("Kerberos and NTLM never send the password itself; basic does."),
    port: 5986,
    plainPort: 5985,
    user: t("User, with its domain"),
    manners: ["ntlm", "basic", "kerberos"],
    secrets: [["password", t("Password")]],
  },
  "snmp-v3": {
    label: t("SNMP v3"),
    devices: true,
    port: 161,
    user: t("User"),
    secrets: [
      ["auth", t("Authentication secret")],
      ["privacy", t("Privacy secret")],
    ],
  },
  "snmp-v2c": {
    label: t("SNMP v2c"),
    devices: true,
    safer: t("The community goes in clear text; SNMP v3 does not."),
    port: 161,
    secrets: [["community", t("Community")]],
  },
  "snmp-v1": {
    label: t("SNMP v1"),
    devices: true,
    safer: t("The community goes in clear text; SNMP v3 does not."),
    port: 161,
    secrets: [["community", t("Community")]],
  },
  ldap: {
    label: "LDAP",
    port: 636,
    plainPort: 389,
    user: t("Bind name"),
    secrets: [["password", t("Password")]],
  },
  http: {
    label: "HTTP",
    port: 443,
    plainPort: 80,
    user: t("User or header"),
    manners: ["basic", "bearer", "header"],
    secrets: [["password", t("Password, token or key")]],
  },
  cloud: { label: t("Cloud"), port: 443, user: t("Key id"), secrets: [["password", t("Secret key")]] },
};

export function protocolLabel(protocol: string): string {
  return PROTOCOLS[protocol as Protocol]?.label ?? protocol;
}
