// The ends of rules over time: dragged, or moved by keys; a day with an arrow, a week with Shift. What was moved can be moved back.
import { post } from '../Shell/shell.js';

const keys = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 };
let waiting = null;

const dayWidth = (grip) => {
  const drawing = grip.ownerSVGElement;
  return drawing.getBoundingClientRect().width / Number(drawing.dataset.days);
};

function shift(grip, days) {
  const drawing = grip.ownerSVGElement;
  const scale = drawing.width.baseVal.value / Number(drawing.dataset.days);
  grip.dataset.by = String(Number(grip.dataset.by ?? 0) + days);
  grip.setAttribute('transform', `translate(${Number(grip.dataset.by) * scale} 0)`);
  grip.setAttribute('aria-valuenow', String(Number(grip.getAttribute('aria-valuenow')) + days));
}

async function settle(grip) {
  const days = Number(grip.dataset.by ?? 0);
  if (days === 0) return;
  await move(grip.dataset.url, grip.dataset.end, days, grip.dataset.version);
}

async function move(url, end, days, version) {
  const said = document.getElementById('moved');
  const reply = await post(url, { end, days, version });
  if (!reply) return;
  if (!reply.ok) {
    said.textContent = await reply.text();
    said.classList.add('bad');
    return;
  }
  const { said: words, version: now } = await reply.json();
  sessionStorage.setItem('moved', JSON.stringify({ words, url, end, days: -days, version: now }));
  location.reload();
}

function tell() {
  const kept = sessionStorage.getItem('moved');
  const said = document.getElementById('moved');
  if (!kept || !said) return;
  sessionStorage.removeItem('moved');
  const { words, url, end, days, version } = JSON.parse(kept);
  said.textContent = `${words}. `;
  const undo = document.createElement('button');
  undo.type = 'button';
  undo.className = 'plain';
  undo.textContent = 'Undo';
  undo.addEventListener('click', () => move(url, end, days, version));
  said.append(undo);
  document.querySelector(`.grip[data-url="${CSS.escape(url)}"][data-end="${end}"]`)?.focus();
}

document.addEventListener('keydown', (e) => {
  const grip = e.target.closest?.('.grip');
  if (!grip || !(e.key in keys)) return;
  e.preventDefault();
  shift(grip, keys[e.key] * (e.shiftKey ? 7 : 1));
  clearTimeout(waiting);
  // Several presses are one move.
  waiting = setTimeout(() => settle(grip), 700);
});

document.addEventListener('focusout', (e) => {
  const grip = e.target.closest?.('.grip');
  if (!grip || !waiting) return;
  clearTimeout(waiting);
  waiting = null;
  settle(grip);
});

document.addEventListener('pointerdown', (e) => {
  const grip = e.target.closest?.('.grip');
  if (!grip) return;
  e.preventDefault();
  grip.setPointerCapture(e.pointerId);
  const start = e.clientX;
  const before = Number(grip.dataset.by ?? 0);
  const drag = (m) => {
    const days = Math.round((m.clientX - start) / dayWidth(grip)) + before - Number(grip.dataset.by ?? 0);
    if (days !== 0) shift(grip, days);
  };
  const drop = () => {
    grip.removeEventListener('pointermove', drag);
    settle(grip);
  };
  grip.addEventListener('pointermove', drag);
  grip.addEventListener('pointerup', drop, { once: true });
});

tell();
