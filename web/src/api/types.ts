/** Shapes of answers that the OpenAPI document leaves open, because their keys are field names. */
export type Value = string | number | null;
export type Row = Record<string, Value> & { id: number; marks?: string[] };

export interface Claim {
  why?: string;
  source_kind: string;
  source: string;
  value: Value;
  since: string;
  confirmed: string;
  believed: boolean;
  agrees: boolean;
}

export type Claims = Record<string, Claim[]>;

export interface RibbonDay {
  day: string;
  software?: number;
  facts?: number;
  hardware?: number;
}

export interface PeekData {
  plate: Row;
  claims: Claims;
  ribbon: RibbonDay[];
  until: string;
}

export interface FieldInfo {
  name: string;
  type: string;
  label: string;
  meaning: string;
  choices: string[];
}

export interface Registry {
  lists: {
    name: string;
    one: string;
    many: string;
    heading: string;
    columns: { name: string; label: string; type: string; unit: string; none: string }[];
  }[];
  fields: FieldInfo[];
  groups: Record<string, FieldInfo[]>;
  bands: string[];
}

export interface IntakeDevice extends Record<string, unknown> {
  id: number;
  name: string | null;
  number: string;
  kind: string | null;
  manufacturer: string | null;
  model: string | null;
  serial: string | null;
  place: string | null;
  address: string | null;
  mac: string | null;
  first_seen: string;
  last_seen: string;
  guess: string;
  sure: number;
  reasons: string[];
  aside_reason: string | null;
}

export interface IntakeGroup {
  kind: string;
  manufacturer: string;
  model: string;
  place: string;
  sure: number;
  first_seen: string;
  devices: IntakeDevice[];
}

export interface Undecided {
  document: string;
  source: string;
  source_kind: string;
  address: string;
  at: string;
  reasons: string[];
  says: Record<string, unknown>;
  candidates: Row[];
}

export interface Intake {
  groups: IntakeGroup[];
  total: number;
  shown: number;
  undecided: Undecided[];
}

export interface Sighting {
  document: string;
  source_kind: string;
  source: string;
  at: string;
  address: string;
  verdict: string;
  reasons: string[];
  readings: { section: string; collector: string; complete: boolean; note: string; took_ms: number | null }[];
}

export interface SoftwareRow {
  name: string;
  publisher: string;
  version: string;
  since: string;
  since_first_reading: boolean;
  source_kinds: string[];
}
