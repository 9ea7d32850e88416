import type { Schemas } from "../../api/client";

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
    safer: "A private key is safer: a device that is not what it seems cannot keep it.",
    port: 22,
    user: "User",
    secrets: [
      ["password", "Password"],
      ["key", "Private key"],
      ["passphrase", "Passphrase of the key"],
    ],
  },
  winrm: {
    label: "WinRM",
    devices: true,
    safer: "Kerberos and NTLM never send the password itself; basic does.",
    port: 5986,
    plainPort: 5985,
    user: "User, with its domain",
    manners: ["ntlm", "basic", "kerberos"],
    secrets: [["password", "Password"]],
  },
  "snmp-v3": {
    label: "SNMP v3",
    devices: true,
    port: 161,
    user: "User",
    secrets: [
      ["auth", "Authentication secret"],
      ["privacy", "Privacy secret"],
    ],
  },
  "snmp-v2c": {
    label: "SNMP v2c",
    devices: true,
    safer: "The community goes in clear text; SNMP v3 does not.",
    port: 161,
    secrets: [["community", "Community"]],
  },
  "snmp-v1": {
    label: "SNMP v1",
    devices: true,
    safer: "The community goes in clear text; SNMP v3 does not.",
    port: 161,
    secrets: [["community", "Community"]],
  },
  ldap: {
    label: "LDAP",
    port: 636,
    plainPort: 389,
    user: "Bind name",
    secrets: [["password", "Password"]],
  },
  http: {
    label: "HTTP",
    port: 443,
    plainPort: 80,
    user: "User or header",
    manners: ["basic", "bearer", "header"],
    secrets: [["password", "Password, token or key"]],
  },
  cloud: { label: "Cloud", port: 443, user: "Key id", secrets: [["password", "Secret key"]] },
};

export function protocolLabel(protocol: string): string {
  return PROTOCOLS[protocol as Protocol]?.label ?? protocol;
}
