/** Names for answers that many rooms speak of. A row's keys are names of fields, which the registry tells. */
import type { Schemas } from "./client";

export type Value = string | number | null;
export type Row = Record<string, Value> & { id: number; marks?: string[] };

export type Claim = Schemas["ClaimOut"];
export type Claims = Record<string, Schemas["FieldClaims"]>;
export type RibbonDay = Schemas["RibbonDay"];
export type FieldInfo = Schemas["FieldOut"];
export type Registry = Schemas["RegistryOut"];
export type IntakeDevice = Schemas["WaitingDevice"];
export type IntakeGroup = Schemas["IntakeGroupOut"];
export type Undecided = Schemas["UndecidedOut"];
export type Intake = Schemas["IntakeOut"];
export type Sighting = Schemas["SightingOut"];
export type SoftwareRow = Schemas["InstalledOut"];

/** What is believed of a field: the first of what is said. */
export const believed = (claims: Claims, field: string) => claims[field]?.said[0]?.value ?? null;

/** A plate as a row: its keys are names of fields. */
export const asRow = (plate: Record<string, unknown>) => plate as Row;
