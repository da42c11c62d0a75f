// The matrix: moving with the keyboard, saving cells one by one, pasting blocks, selecting by value, made and not made.
import { post, say } from '../../Shell/shell.js';

const chapter = document.getElementById('chapter');
const url = () => location.pathname;
const picked = new Set();

const cellsOf = row => [...row.querySelectorAll('input.cell')];
const rowsOf = table => [...table.tBodies[0].rows].filter(r => cellsOf(r).length > 0);

function neighbour(cell, down, right) {
  const rows = rowsOf(cell.closest('table'));
  const at = rows.indexOf(cell.closest('tr'));
  const row = rows[at + down];
  if (!row) return null;
  const index = cell.closest('td').cellIndex;
  if (!right) return [...row.cells][index]?.querySelector('input.cell') ?? null;
  const list = cellsOf(row);
  return list[list.indexOf(cell) + right] ?? null;
}

function paint(values, row) {
  for (const cell of chapter.querySelectorAll(`input.cell[data-values="${CSS.escape(values)}"]`)) {
    const figure = row.figures[cell.dataset.figure];
    if (!figure) continue;
    if (cell !== document.activeElement || cell.value === cell.dataset.sent) { cell.value = figure.text; cell.dataset.was = figure.text; }
    const td = cell.closest('td');
    if (td.closest('.matrix')) td.className = td.classList.contains('sku') ? 'sku' : figure.kind;
  }
  const line = chapter.querySelector(`tr[data-values="${CSS.escape(values)}"]`);
  if (line) paintLeft(line, row);
}

function paintLeft(line, { left, margin, loses }) {
  const out = line.querySelector('[data-out=margin]');
  if (!out) return;
  line.querySelector('[data-out=left]').textContent = left;
  out.textContent = margin;
  out.classList.toggle('bad', loses);
}

// One save after the other, so that undo takes them back in the order they were typed.
let saving = Promise.resolve();
function send(edits) { return saving = saving.then(() => deliver(edits)); }

async function deliver(edits) {
  const reply = await post(`${url()}?handler=Cells`, { edits: JSON.stringify(edits) });
  if (!reply.ok) { say('Nothing was saved: the server did not take it. Load the page anew.', { trouble: true }); return; }
  const { faults, rows } = await reply.json();
  const place = document.getElementById('cell-fault');
  if (place) place.textContent = faults.map(f => f.what).join(' ');
  for (const cell of chapter.querySelectorAll('input.cell[aria-invalid]')) cell.removeAttribute('aria-invalid');
  if (faults.length) {
    for (const { where, what } of faults) {
      const [values, figure] = where.split('|');
      const cell = chapter.querySelector(`input.cell[data-values="${CSS.escape(values)}"][data-figure="${figure}"]`);
      if (cell) { cell.setAttribute('aria-invalid', 'true'); cell.title = what; }
    }
    if (!place) say(faults[0].what, { trouble: true });
    return;
  }
  for (const [values, row] of Object.entries(rows)) paint(values, row);
  htmx.trigger(document.body, 'changed');
}

function save(cell) {
  if (cell.dataset.was === undefined || cell.value === cell.dataset.was) return;
  cell.dataset.sent = cell.value;
  send([{ values: cell.dataset.values, figure: cell.dataset.figure, text: cell.value, was: cell.dataset.was }]);
}

document.addEventListener('focusin', e => {
  const cell = e.target.closest?.('input.cell');
  if (!cell) return;
  if (!cell.hasAttribute('aria-invalid')) cell.dataset.was = cell.value;
  cell.select();
});
document.addEventListener('focusout', e => { const cell = e.target.closest?.('input.cell'); if (cell) save(cell); });

let waiting;
document.addEventListener('input', e => {
  const cell = e.target.closest?.('input.cell');
  const line = cell?.closest('tr[data-values]');
  if (!line || !['price', 'cost'].includes(cell.dataset.figure)) return;
  clearTimeout(waiting);
  waiting = setTimeout(async () => {
    const of = figure => line.querySelector(`[data-figure=${figure}]`).value;
    const reply = await fetch(`${url()}?${new URLSearchParams({ handler: 'Left', values: line.dataset.values, price: of('price'), cost: of('cost') })}`);
    if (reply.ok) paintLeft(line, await reply.json());
  }, 120);
});

document.addEventListener('keydown', e => {
  const cell = e.target.closest?.('input.cell');
  if (e.key === 'Escape' && !cell && picked.size) return clear();
  if (e.key === 'x' && e.target.classList?.contains('made-again')) { e.target.click(); return; }
  if (!cell) return;
  const move = { Enter: [e.shiftKey ? -1 : 1, 0], ArrowDown: [1, 0], ArrowUp: [-1, 0] }[e.key];
  if (move) {
    e.preventDefault();
    const next = neighbour(cell, ...move);
    if (next) next.focus(); else cell.blur();
  } else if (e.key === 'Escape') {
    cell.value = cell.dataset.was ?? cell.value;
    cell.removeAttribute('aria-invalid');
    cell.select();
  } else if (e.key === 'x' && cell.dataset.figure !== 'sku' && cell.closest('.matrix') && !e.ctrlKey && !e.metaKey) {
    e.preventDefault();
    cell.value = cell.dataset.was ?? cell.value;
    made([cell.dataset.values], false);
  }
});

document.addEventListener('paste', e => {
  const cell = e.target.closest?.('input.cell');
  const text = e.clipboardData?.getData('text/plain') ?? '';
  if (!cell || !/[\t\n]/.test(text.trim())) return;
  e.preventDefault();
  const block = text.replace(/\r?\n$/, '').split(/\r?\n/).map(line => line.split('\t'));
  const rows = rowsOf(cell.closest('table'));
  const top = rows.indexOf(cell.closest('tr'));
  const left = cellsOf(rows[top]).indexOf(cell);
  const edits = [];
  let outside = 0;
  block.forEach((line, i) => line.forEach((typed, j) => {
    const target = rows[top + i] && cellsOf(rows[top + i])[left + j];
    if (target) edits.push({ values: target.dataset.values, figure: target.dataset.figure, text: typed.trim(), was: null });
    else outside++;
  }));
  send(edits).then(() => say(`Pasted ${edits.length} cells${outside ? `; ${outside} did not fit and were left out` : ''}`, { undo: true }));
});

async function made(values, again) {
  const data = new URLSearchParams(values.map(v => ['values', v]));
  data.append('made', again);
  data.append('view', document.querySelector('table.matrix.grid') ? 'grid' : 'rows');
  const reply = await post(`${url()}?handler=Made&figure=${document.getElementById('matrix')?.dataset.figure ?? ''}`, data);
  chapter.innerHTML = await reply.text();
  htmx.process(chapter);
  const trigger = reply.headers.get('HX-Trigger');
  if (trigger) { htmx.trigger(document.body, 'changed'); const { said } = JSON.parse(trigger); if (said) say(said.text, said); }
  picked.clear();
}

function matches(values) {
  const byOption = Map.groupBy([...picked], p => p.split('=')[0]);
  const pairs = values.split(',');
  return picked.size > 0 && [...byOption.values()].every(picks => picks.some(p => pairs.includes(p)));
}

function show() {
  for (const button of chapter.querySelectorAll('.pick-value')) button.setAttribute('aria-pressed', picked.has(button.dataset.pick));
  for (const cell of chapter.querySelectorAll('.matrix input.cell')) cell.closest('td').classList.toggle('sel', matches(cell.dataset.values));
}

function clear() {
  picked.clear();
  show();
  document.getElementById('change')?.replaceChildren();
}

document.addEventListener('click', e => {
  const button = e.target.closest?.('.pick-value, .not-made, .made-again, #bulk-close, #bulk-not-made');
  if (!button) return;
  if (button.classList.contains('not-made')) return void made([button.dataset.values], false);
  if (button.classList.contains('made-again')) return void made([button.dataset.values], true);
  if (button.id === 'bulk-close') return clear();
  if (button.id === 'bulk-not-made') return void made([...new Set([...chapter.querySelectorAll('.matrix input.cell')].map(c => c.dataset.values).filter(matches))], false);
  picked.has(button.dataset.pick) ? picked.delete(button.dataset.pick) : picked.add(button.dataset.pick);
  show();
  if (picked.size === 0) return clear();
  const query = new URLSearchParams([['handler', 'Bulk'], ...[...picked].map(p => ['select', p]), ['figure', document.getElementById('matrix').dataset.figure], ['view', document.querySelector('table.matrix.grid') ? 'grid' : 'rows']]);
  htmx.ajax('GET', `${url()}?${query}`, { target: '#change', swap: 'innerHTML' }).then(() => document.getElementById('amount')?.focus());
});

document.body.addEventListener('htmx:afterSwap', e => { if (e.target.id === 'chapter') picked.clear(); });
