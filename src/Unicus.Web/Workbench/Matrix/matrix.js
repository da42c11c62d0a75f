// The matrix: moving with the keyboard, saving cells one by one, pasting blocks, selecting by value, made and not made.
import { takeAround } from '../../Shell/saving.js';
import { post, say } from '../../Shell/shell.js';
import { at, cellOf, restore, send, written } from './cells.js';

const chapter = document.getElementById('chapter');
const picked = new Set(new URLSearchParams(location.search).getAll('pick'));

const cellsOf = (row) => [...row.querySelectorAll('input.cell')];
const rowsOf = (table) => [...table.tBodies[0].rows].filter((r) => cellsOf(r).length > 0);

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

document.addEventListener('keydown', (e) => {
  const cell = e.target.closest?.('input.cell');
  if (e.key === 'Escape' && !cell && (picked.size || document.querySelector('#change .change'))) return clear();
  if (e.key === 'x' && e.target.classList?.contains('made-again')) {
    e.target.click();
    return;
  }
  if (!cell) return;
  const move = { Enter: [e.shiftKey ? -1 : 1, 0], ArrowDown: [1, 0], ArrowUp: [-1, 0] }[e.key];
  if (move) {
    e.preventDefault();
    const next = neighbour(cell, ...move);
    if (next) next.focus();
    else cell.blur();
  } else if (e.key === 'Escape') {
    restore(cell);
    cell.select();
  } else if (
    e.key === 'x' &&
    !cell.classList.contains('code') &&
    !cell.dataset.values.includes('|') &&
    cell.closest('.matrix') &&
    !e.ctrlKey &&
    !e.metaKey
  ) {
    e.preventDefault();
    restore(cell);
    made([cell.dataset.values], false);
  }
});

document.addEventListener('paste', (e) => {
  const cell = e.target.closest?.('input.cell');
  const text = e.clipboardData?.getData('text/plain') ?? '';
  if (!cell || !/[\t\n]/.test(text.trim())) return;
  e.preventDefault();
  const block = text
    .replace(/\r?\n$/, '')
    .split(/\r?\n/)
    .map((line) => line.split('\t'));
  const rows = rowsOf(cell.closest('table'));
  const top = rows.indexOf(cell.closest('tr'));
  const left = cellsOf(rows[top]).indexOf(cell);
  const edits = [],
    outside = [];
  block.forEach((line, i) =>
    line.forEach((typed, j) => {
      const target = rows[top + i] && cellsOf(rows[top + i])[left + j];
      if (target) edits.push({ values: target.dataset.values, figure: target.dataset.figure, text: typed.trim(), was: null });
      else outside.push(typed.trim());
    }),
  );
  paste(edits, outside);
});

/** Writes a pasted block at once if all of it fits; else shows what does not, and writes the rest when told to. */
async function paste(edits, outside) {
  await written();
  const reply = await post(at('CellsTried'), { edits: JSON.stringify(edits) }, { again: () => paste(edits, outside) });
  if (!reply) return;
  const { faults } = await reply.json();
  if (!faults.length && !outside.length) {
    send(edits).then((ok) => ok && say(`Pasted ${edits.length} cells`, { undo: true }));
    return;
  }
  const bad = new Set(faults.map((f) => f.where));
  const fits = edits.filter((e) => !bad.has(`${e.values}|${e.figure}`));
  const place = document.getElementById('change');
  const bar = document.getElementById('paste-bar').content.cloneNode(true);
  const put = (name, text) => {
    bar.querySelector(`[data-out=${name}]`).textContent = text;
  };
  put('count', `${edits.length + outside.length} cells pasted, ${fits.length} fit`);
  const list = bar.querySelector('ul');
  const line = (text) => {
    const li = document.createElement('li');
    li.textContent = text;
    list.append(li);
  };
  if (outside.length)
    line(
      `${outside.length} lie beyond the ${edits.length ? 'rows and columns shown' : 'matrix'}: ` +
        `${outside.slice(0, 6).join(', ')}${outside.length > 6 ? '…' : ''}`,
    );
  for (const f of faults.slice(0, 8)) {
    line(`${cellOf(f)?.getAttribute('aria-label') ?? f.where}: ${f.what}`);
  }
  if (faults.length > 8) line(`and ${faults.length - 8} more`);
  const go = bar.querySelector('.do');
  go.textContent = `Write the ${fits.length} that fit`;
  go.hidden = !fits.length;
  go.addEventListener('click', () => {
    place.replaceChildren();
    send(fits).then((ok) => ok && say(`Pasted ${fits.length} cells`, { undo: true }));
  });
  place.replaceChildren(bar);
  (fits.length ? go : place.querySelector('#bulk-close')).focus();
}

async function made(values, again) {
  const data = new URLSearchParams(values.map((v) => ['values', v]));
  data.append('made', again);
  const reply = await post(at('Made'), data, { again: () => made(values, again), repeats: true });
  if (!reply) return;
  htmx.swap(chapter, await reply.text(), { swapStyle: 'innerHTML' });
  takeAround(reply, '');
  const trigger = reply.headers.get('HX-Trigger');
  if (trigger) {
    const { said } = JSON.parse(trigger);
    if (said) say(said.text, said);
  }
  picked.clear();
}

function matches(values) {
  const byOption = Map.groupBy([...picked], (p) => p.split('=')[0]);
  const pairs = values.split(',');
  return picked.size > 0 && [...byOption.values()].every((picks) => picks.some((p) => pairs.includes(p)));
}

function show() {
  for (const button of chapter.querySelectorAll('.pick-value'))
    button.setAttribute('aria-pressed', picked.has(button.dataset.pick));
  for (const cell of chapter.querySelectorAll('.matrix input.cell'))
    cell.closest('td').classList.toggle('sel', matches(cell.dataset.values));
}

function clear() {
  picked.clear();
  range = null;
  show();
  document.getElementById('change')?.replaceChildren();
}

/** Asks for the bar that changes what is selected; the look's own filter goes with it. */
function bar(selection) {
  const query = new URLSearchParams(selection);
  htmx
    .ajax('GET', `${at('Bulk')}&${query}`, { target: '#change', swap: 'innerHTML' })
    .then(() => document.getElementById('amount')?.focus({ preventScroll: false }));
}

document.addEventListener('click', (e) => {
  const button = e.target.closest?.('.pick-value, .not-made, .split-off, .made-again, #bulk-close, #change-found');
  if (!button) return;
  if (button.classList.contains('not-made')) return void made([button.dataset.values], false);
  if (button.classList.contains('split-off'))
    return void htmx
      .ajax('GET', `${at('Split')}&${new URLSearchParams({ values: button.dataset.values })}`, {
        target: '#change',
        swap: 'innerHTML',
      })
      .then(() => document.querySelector('#change [name=name]')?.select());
  if (button.classList.contains('made-again')) return void made([button.dataset.values], true);
  if (button.id === 'bulk-close') return clear();
  if (button.id === 'change-found') return bar([]);
  range = null;
  picked.has(button.dataset.pick) ? picked.delete(button.dataset.pick) : picked.add(button.dataset.pick);
  show();
  if (picked.size === 0) return clear();
  bar([...picked].map((p) => ['select', p]).concat([['of', document.getElementById('matrix').dataset.figure]]));
});

/** Shows in the bar what its figure and operation take: a text is only set or inherited again. */
function fitBar() {
  const form = document.getElementById('change-form');
  if (!form) return;
  const { of, operation, amount, source } = form.elements;
  const text = of.selectedOptions[0].dataset.text === 'yes';
  for (const o of operation.options) o.hidden = o.disabled = text && o.dataset.text !== 'yes';
  if (operation.selectedOptions[0].disabled) operation.value = 'Set';
  form.querySelector('.to-ending').hidden = text;
  source.hidden = operation.value !== 'Copy';
  amount.hidden = ['Copy', 'Clear', 'Round'].includes(operation.value);
  amount.size = text ? 18 : 5;
  amount.classList.toggle('num', !text);
  if (of.value === 'picture') amount.setAttribute('list', 'pictures');
  else amount.removeAttribute('list');
}

document.addEventListener('change', (e) => {
  if (e.target.closest?.('#change-form')) fitBar();
});
document.addEventListener('htmx:afterSettle', fitBar);

// A range of cells: Shift with an arrow or a click extends it, dragging draws it; it is changed at once or copied as a block.
let range = null,
  dragging = null;

function inRange() {
  if (!range) return [];
  const rows = rowsOf(range.from.closest('table'));
  const place = (cell) => [rows.indexOf(cell.closest('tr')), cellsOf(cell.closest('tr')).indexOf(cell)];
  const [[r1, c1], [r2, c2]] = [place(range.from), place(range.to)];
  return rows
    .slice(Math.min(r1, r2), Math.max(r1, r2) + 1)
    .map((row) => cellsOf(row).slice(Math.min(c1, c2), Math.max(c1, c2) + 1));
}

function setRange(from, to) {
  range = { from, to };
  picked.clear();
  show();
  for (const cell of inRange().flat()) cell.closest('td').classList.add('sel');
}

function rangeBar() {
  const cells = inRange().flat();
  const figures = new Set(cells.map((c) => c.dataset.figure));
  if (cells.length < 2 || figures.size > 1 || cells[0].classList.contains('code')) return;
  bar([...new Set(cells.map((c) => c.dataset.values))].map((v) => ['only', v]).concat([['of', [...figures][0]]]));
}

document.addEventListener(
  'keydown',
  (e) => {
    const cell = e.target.closest?.('input.cell');
    if (!cell) return;
    const move = { ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[e.key];
    if (move && e.shiftKey) {
      e.preventDefault();
      e.stopImmediatePropagation();
      const next = neighbour(range?.to ?? cell, ...move);
      if (next) setRange(range?.from ?? cell, next);
    } else if (range && e.key === 'Enter') {
      e.preventDefault();
      e.stopImmediatePropagation();
      rangeBar();
    } else if (range && e.key === 'Escape') clear();
  },
  true,
);

document.addEventListener('pointerdown', (e) => {
  const cell = e.target.closest?.('input.cell');
  if (!cell || e.button !== 0) return;
  if (e.shiftKey && document.activeElement?.matches('input.cell')) {
    e.preventDefault();
    setRange(document.activeElement, cell);
    rangeBar();
    return;
  }
  if (range) clear();
  dragging = cell;
});
document.addEventListener('pointerover', (e) => {
  const cell = e.target.closest?.('td')?.querySelector('input.cell');
  if (!dragging || !cell || (cell === dragging && !range)) return;
  getSelection()?.removeAllRanges();
  setRange(dragging, cell);
});
// Dragging marks cells: what is selected in one is never carried to another.
for (const name of ['dragstart', 'drop'])
  document.addEventListener(name, (e) => {
    if (e.composedPath().some((el) => el.matches?.('input.cell'))) e.preventDefault();
  });
document.addEventListener('pointerup', () => {
  if (dragging && range) rangeBar();
  dragging = null;
});

document.addEventListener('copy', (e) => {
  if (!range) return;
  e.preventDefault();
  e.clipboardData.setData(
    'text/plain',
    inRange()
      .map((row) => row.map((c) => c.value).join('\t'))
      .join('\n'),
  );
  say(`Copied ${inRange().flat().length} cells`);
});

// Only a window of a long matrix is in the page: blank rows above and below keep its place, and scrolling fetches the next window.
function pads() {
  const box = document.getElementById('matrix');
  const body = box?.querySelector('tbody');
  if (!body || +box.dataset.total <= +box.dataset.count) return;
  const height = body.querySelector('tr:not(.band):not(.pad)')?.offsetHeight || 38;
  for (const [place, rows] of [
    ['afterbegin', +box.dataset.from],
    ['beforeend', box.dataset.total - box.dataset.from - box.dataset.count],
  ]) {
    const pad = document.createElement('tr');
    pad.className = 'pad';
    pad.setAttribute('aria-hidden', 'true');
    pad.style.height = `${rows * height}px`;
    body.insertAdjacentElement(place, pad);
  }
  box.classList.add('long');
  if (!box.watched)
    box.addEventListener('scroll', () => {
      cancelAnimationFrame(box.waiting);
      box.waiting = requestAnimationFrame(() => follow(box, height));
    });
  box.watched = true;
}

async function follow(box, height) {
  const [total, from, count] = [+box.dataset.total, +box.dataset.from, +box.dataset.count];
  const first = Math.floor(box.scrollTop / height),
    seen = Math.ceil(box.clientHeight / height);
  if ((first >= from || from === 0) && (first + seen <= from + count || from + count >= total)) return;
  if (box.fetching) return;
  box.fetching = true;
  const start = Math.max(0, Math.min(total - 1, first - Math.floor((count || 60) / 3)));
  const rows = Math.min(200, Math.max(count, 2 * seen));
  const reply = await fetch(`${at('Window')}&from=${start}&rows=${rows}`, { headers: { 'HX-Request': 'true' } }).catch(
    () => null,
  );
  const text = await reply?.text();
  box.fetching = false;
  if (!reply?.ok) {
    say('The next rows did not come. Scroll again.', { trouble: true });
    return;
  }
  if (document.activeElement?.matches?.('#matrix input.cell')) document.activeElement.blur();
  const body = box.querySelector('tbody');
  const top = box.scrollTop;
  body.innerHTML = text;
  box.dataset.from = start;
  box.dataset.count = body.querySelectorAll('tr:not(.band)').length;
  range = null;
  pads();
  box.scrollTop = top;
  show();
  if (+box.dataset.from !== from) follow(box, height);
}

document.body.addEventListener('htmx:afterSwap', (e) => {
  if (e.target.id === 'chapter') {
    picked.clear();
    range = null;
    pads();
  }
});
pads();
show();
// On a tall screen the first window may be too short.
document.getElementById('matrix')?.dispatchEvent(new Event('scroll'));
