/** Answers made up from the API's own description, for tests: the least it allows, or one of everything. */

import description from "../../../docs/openapi.json?raw";

interface Shape {
  $ref?: string;
  type?: string;
  format?: string;
  enum?: unknown[];
  const?: unknown;
  anyOf?: Shape[];
  items?: Shape;
  prefixItems?: Shape[];
  properties?: Record<string, Shape>;
  additionalProperties?: Shape | boolean;
}

interface Operation {
  responses: Record<string, { content?: Record<string, { schema?: Shape }> }>;
}

const api = JSON.parse(description) as {
  paths: Record<string, Record<string, Operation>>;
  components: { schemas: Record<string, Shape> };
};

export type Fill = "least" | "full";

const MONEY =
  /^(amount|cost|price|book|total|cure|worth|charge|rate|residual|loss|gain|own|spare_value|energy|money|derecognised)$/;
const MOMENT =
  /(_at|^at|^since|^until|^first|^last|_seen|^published|^met|^came|^ended|^withdrawn|^used|_heard)$/;
const DAY =
  /(_day|^day|^days|^months?$|_on|^begins|^begun|^began|^ends?|^starts?|^given|^last_day|^due|^made|^expected|^bought|_by|_until|^holds_from|warranty|first_payment)$/;

function text(name: string, format: string | undefined): string {
  if (format === "date") return "2026-03-01";
  if (format === "date-time") return "2026-03-01T10:00:00Z";
  if (MONEY.test(name)) return "1250.50";
  if (MOMENT.test(name)) return "2026-03-01T10:00:00Z";
  if (DAY.test(name)) return "2026-03-01";
  return "quay";
}

/** Return a value of a shape: nothing where nothing may be, else one of each. */
export function sample(shape: Shape | undefined, fill: Fill, name = "", depth = 0): unknown {
  if (!shape) return null;
  if (shape.$ref) {
    // What holds its like, such as a tree, ends somewhere.
    if (depth > 14) return null;
    return sample(api.components.schemas[shape.$ref.split("/").at(-1) ?? ""], fill, name, depth + 1);
  }
  if (shape.const !== undefined) return shape.const;
  if (shape.enum) return shape.enum[0];
  if (shape.anyOf) {
    const none = shape.anyOf.some((s) => s.type === "null");
    if (none && fill === "least") return null;
    return sample(
      shape.anyOf.find((s) => s.type !== "null"),
      fill,
      name,
      depth,
    );
  }
  if (shape.properties)
    return Object.fromEntries(
      Object.entries(shape.properties).map(([key, of]) => [key, sample(of, fill, key, depth + 1)]),
    );
  if (shape.prefixItems) return shape.prefixItems.map((s) => sample(s, fill, name, depth + 1));
  if (shape.type === "array") return fill === "least" ? [] : [sample(shape.items, fill, name, depth + 1)];
  if (shape.type === "object") {
    const of = shape.additionalProperties;
    return fill === "full" && of && typeof of === "object" ? { quay: sample(of, fill, name, depth + 1) } : {};
  }
  if (shape.type === "boolean") return fill === "full";
  if (shape.type === "integer") return fill === "full" ? 3 : 0;
  if (shape.type === "number") return fill === "full" ? 2.5 : 0;
  if (shape.type === "string")
    return fill === "least" && !shape.format && !MOMENT.test(name) && !DAY.test(name)
      ? ""
      : text(name, shape.format);
  return fill === "full" ? "quay" : null;
}

/** Return what an operation answers, "GET /api/sets/7" being that of "/api/sets/{number}"; nothing where none is. */
export function answered(call: string, fill: Fill): unknown {
  const [method = "GET", path = ""] = call.split(" ");
  const fits = Object.keys(api.paths)
    .filter((p) => new RegExp(`^${p.replace(/\{[^}]+\}/g, "[^/]+")}$`).test(path))
    .sort((a, b) => a.split("{").length - b.split("{").length)[0];
  const operation = fits ? api.paths[fits]?.[method.toLowerCase()] : undefined;
  if (!operation) return undefined;
  const [good] = Object.entries(operation.responses).filter(([code]) => code.startsWith("2"));
  return sample(good?.[1].content?.["application/json"]?.schema, fill);
}
