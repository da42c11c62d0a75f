// An outside program that knows the shop by its OpenAPI document alone: it makes a set, configures, orders and cancels it.
import createClient from 'openapi-fetch';
import type { components, paths } from './made/api.js';

declare const process: { argv: string[] };
type Product = components['schemas']['Product'];

const [address, key] = process.argv.slice(2);
const client = createClient<paths>({ baseUrl: address!, headers: { Authorization: `Bearer ${key}` } });

/** What came of a call; a problem ends the story. */
function done<T>(reply: { data?: T; error?: unknown }): T {
  if (reply.data === undefined) throw new Error(JSON.stringify(reply.error));
  return reply.data;
}

function same(what: string, found: unknown, wanted: unknown): void {
  if (JSON.stringify(found) !== JSON.stringify(wanted))
    throw new Error(`${what}: ${JSON.stringify(found)} where ${JSON.stringify(wanted)} is right`);
}

async function make(product: Product): Promise<void> {
  const { code } = product;
  done(await client.PUT('/api/v1/products/{code}', { params: { path: { code } }, body: product }));
  same('edition', done(await client.POST('/api/v1/products/{code}/publish', { params: { path: { code } } })).edition, 1);
}

async function receive(sku: string, quantity: number): Promise<void> {
  const levels = done(await client.POST('/api/v1/stock/movements', { body: { sku, kind: 'receipt', quantity } }));
  same(`available of ${sku}`, levels.available, quantity);
}

const available = async (sku: string): Promise<number> =>
  done(await client.GET('/api/v1/stock/{sku}', { params: { path: { sku } } })).available;

await make({
  format: 'unicus-product/1', code: 'TS-HIVE', name: 'Typed hive', base: { price: '100.00' },
  options: [ { key: 'depth', label: 'Depth', role: 'variant', values: [
    { key: 'shallow', label: 'Shallow', sku: 'S' },
    { key: 'deep', label: 'Deep', sku: 'D', surcharge: { amount: '20.00' } } ] } ],
});
await make({ format: 'unicus-product/1', code: 'TS-STRAP', name: 'Typed strap', base: { price: '10.00' } });
await make({
  format: 'unicus-product/1', code: 'TS-KIT', name: 'Typed kit',
  parts: {
    sold: 'together', stock: 'parts', price: { rule: 'sum', reduce: { percent: '10' } },
    slots: [
      { key: 'hive', label: 'Hive', of: [ { product: 'TS-HIVE' } ], pick: 'shopper' },
      { key: 'straps', label: 'Straps', of: [ { product: 'TS-STRAP' } ], quantity: { min: 2, max: 2 } } ],
  },
});
await receive('TS-HIVE-D', 4);
await receive('TS-STRAP', 5);

const parts = { hive: [ { product: 'TS-HIVE', answers: { depth: 'deep' } } ] };
const standing = done(await client.POST('/api/v1/products/{code}/configure', {
  params: { path: { code: 'TS-KIT' }, query: { edition: 'latest' } }, body: { parts } }));
same('complete', standing.complete, true);
same('sets', standing.sets?.available, 2);
same('what runs out', standing.sets?.bottleneck, ['TS-STRAP']);
// 120.00 and two at 10.00, 10 % off.
same('price', standing.price?.unit, '126.00');

const ordered = done(await client.POST('/api/v1/orders', {
  body: { lines: [ { product: 'TS-KIT', parts } ], buyer: { name: 'Ada', email: 'ada@example.org' }, expectedTotal: '126.00' } }));
same('leaves', ordered.lines[0]?.parts.map(p => [p.sku, p.quantity, p.allocated]), [['TS-HIVE-D', 1, '108.00'], ['TS-STRAP', 2, '18.00']]);
same('straps held', await available('TS-STRAP'), 3);
const short = await client.POST('/api/v1/orders', { body: { lines: [ { product: 'TS-KIT', parts, quantity: 2 } ] } });
same('refused', short.response.status, 409);
same('short', short.error && 'shortages' in short.error && short.error.shortages?.[0]?.sku, 'TS-STRAP');

const { number } = ordered;
const cancelled = done(await client.POST('/api/v1/orders/{number}/cancel', {
  params: { path: { number } }, body: { reason: 'Changed my mind' } }));
same('state', cancelled.state, 'cancelled');
same('what stands', cancelled.standing.total, '0.00');
same('straps back', await available('TS-STRAP'), 5);
console.log('told');
