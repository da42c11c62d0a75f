// Cells of a matrix: each saves itself when it is left, and a second after the last key. What somebody else wrote
// meanwhile is never written
// over unseen.
import { post, say } from '../../Shell/shell.js';
import { endVisit, takeAround, tokenHeader, typingHeader, watch } from '../../Shell/saving.js';

const chapter = document.getElementById('chapter');
const pause = 1000;
/** A SKU, a GTIN and a count are taken when they are typed to their end: half of one means another thing, and the ledger forgets
    nothing. */
const whole = new Set(['sku', 'gtin', 'stock']);

/** The address of a handler, with the look that the page's own address holds. */
export const at = (handler) =>
  `${location.pathname}?${new URLSearchParams([...new URLSearchParams(location.search), ['handler', handler]])}`;

const cellAt = (values, figure) =>
  chapter.querySelector(`input.cell[data-values="${CSS.escape(values)}"][data-figure="${figure}"]`);

/** The cell that a fault is about. */
export function cellOf({ where }) {
  const cut = where.lastIndexOf('|');
  return cellAt(where.slice(0, cut), where.slice(cut + 1));
}

const isTyped = (cell) => cell.dataset.was !== undefined && cell.value !== cell.dataset.was && cell.value !== cell.dataset.saved;

function paint(values, row) {
  for (const cell of chapter.querySelectorAll(`input.cell[data-values="${CSS.escape(values)}"]`)) {
    const figure = row.figures[cell.dataset.figure];
    if (!figure) continue;
    if (cell !== document.activeElement) {
      if (cell.value === cell.dataset.sent || !isTyped(cell)) cell.value = figure.text;
    } else if (cell.value === cell.dataset.sent) cell.dataset.saved = cell.value;
    else if (!isTyped(cell)) cell.value = figure.text;
    cell.dataset.was = figure.text;
    const td = cell.closest('td');
    if (cell.dataset.figure === 'picture') td.querySelector('img')?.setAttribute('src', `/pictures/small/${row.picture}`);
    if (td.closest('.matrix')) td.className = td.classList.contains('sku') ? `sku ${figure.kind}` : figure.kind;
  }
  for (const out of chapter.querySelectorAll(`[data-out=available][data-values="${CSS.escape(values)}"]`))
    out.textContent = row.figures.available?.text ?? out.textContent;
  const line = chapter.querySelector(`tr[data-values="${CSS.escape(values)}"]`);
  if (line) paintLeft(line, row);
}

function paintLeft(line, { left, margin, loses }) {
  const out = line.querySelector('[data-out=margin]');
  if (!out) return;
  const rest = line.querySelector('[data-out=left]');
  if (rest) rest.textContent = left;
  out.textContent = margin;
  out.classList.toggle('bad', loses);
}

// One save after the other, so that undo takes them back in the order they were typed.
let saving = Promise.resolve();
let under = 0;

/** Writes cells once those before are written; says whether it was done. */
export function send(edits, headers = {}) {
  under++;
  return (saving = saving.then(() => deliver(edits, headers)).finally(() => under--));
}

async function deliver(edits, headers) {
  const key = edits.length === 1 ? `cell ${edits[0].values}|${edits[0].figure}` : 'cells';
  const reply = await post(
    at('Cells'),
    { edits: JSON.stringify(edits) },
    { key, again: () => send(edits, headers), repeats: true, headers },
  );
  if (!reply) return false;
  const { faults, rows, around } = await reply.json();
  const place = document.getElementById('cell-fault');
  if (place) place.textContent = faults.map((f) => f.what).join(' ');
  for (const cell of chapter.querySelectorAll('input.cell[aria-invalid]')) cell.removeAttribute('aria-invalid');
  for (const fault of faults) refuse(fault, rows);
  if (faults.length) {
    if (!place) say(faults[0].what, { trouble: true });
    return false;
  }
  for (const [values, row] of Object.entries(rows)) paint(values, row);
  if (around) takeAround(reply, around);
  return true;
}

/** Marks a cell; where somebody else wrote another figure meanwhile, that stands there now, and typing again replaces it. */
function refuse(fault, rows) {
  const cell = cellOf(fault);
  if (!cell) return;
  cell.setAttribute('aria-invalid', 'true');
  cell.title = fault.what;
  if (fault.with?.now === undefined || cell === document.activeElement) return;
  cell.value = cell.dataset.was = fault.with.now;
  const row = rows[cell.dataset.values];
  if (row) paint(cell.dataset.values, row);
}

const edit = (cell) => ({ values: cell.dataset.values, figure: cell.dataset.figure, text: cell.value, was: cell.dataset.was });

function save(cell) {
  clearTimeout(timers.get(cell));
  timers.delete(cell);
  if (cell.dataset.was === undefined || cell.value === cell.dataset.was) return;
  cell.dataset.sent = cell.value;
  send([edit(cell)], typingHeader(cell));
}

const timers = new Map();

document.addEventListener('focusin', (e) => {
  const cell = e.target.closest?.('input.cell');
  if (!cell) return;
  if (!cell.hasAttribute('aria-invalid')) cell.dataset.was = cell.value;
  cell.dataset.first = cell.value;
  delete cell.dataset.saved;
  cell.select();
});
document.addEventListener('focusout', (e) => {
  const cell = e.target.closest?.('input.cell');
  if (!cell) return;
  save(cell);
  endVisit(cell);
});

let waiting;
document.addEventListener('input', (e) => {
  const cell = e.target.closest?.('input.cell');
  if (!cell) return;
  if (!whole.has(cell.dataset.figure)) {
    clearTimeout(timers.get(cell));
    timers.set(
      cell,
      setTimeout(() => save(cell), pause),
    );
  }
  const line = cell.closest('tr[data-values]');
  if (!line || !['price', 'cost'].includes(cell.dataset.figure) || line.dataset.values.includes('|')) return;
  clearTimeout(waiting);
  waiting = setTimeout(async () => {
    const of = (figure) => line.querySelector(`[data-figure=${figure}]`).value;
    const query = new URLSearchParams({ values: line.dataset.values, price: of('price'), cost: of('cost') });
    const reply = await fetch(`${at('Left')}&${query}`, { headers: { 'HX-Request': 'true' } }).catch(() => null);
    if (reply?.ok) paintLeft(line, await reply.json());
  }, 120);
});

/** Puts back what stood in the cell when it was entered. */
export function restore(cell) {
  cell.value = cell.dataset.first ?? cell.dataset.was ?? cell.value;
  cell.removeAttribute('aria-invalid');
  clearTimeout(timers.get(cell));
  timers.delete(cell);
  if (cell.dataset.saved !== undefined) save(cell);
}

const typed = () => [...(chapter?.querySelectorAll('input.cell') ?? [])].filter(isTyped);

/** Ends when what was typed before is written. */
export const written = () => saving;

watch(
  () => under > 0 || timers.size > 0 || typed().length > 0,
  async () => {
    for (const cell of [...timers.keys()]) save(cell);
    await saving;
  },
);

// Whoever leaves all the same: what stands in a cell counts as typed to its end.
addEventListener('pagehide', () => {
  const edits = typed()
    .filter((cell) => !cell.hasAttribute('aria-invalid'))
    .map(edit);
  if (!edits.length) return;
  fetch(at('Cells'), {
    method: 'POST',
    keepalive: true,
    body: new URLSearchParams({ edits: JSON.stringify(edits) }),
    headers: { 'HX-Request': 'true', ...tokenHeader() },
  });
});
