// Pins of a lookbook's picture: dragged, or moved by the arrow keys; the boxes beside say the same in numbers.
const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
let dragged = null;
let waiting = null;

const box = (form, axis, slot) => form.elements[`${axis}-${slot}`];
const within = (n) => Math.min(100, Math.max(0, Math.round(n * 10) / 10));

function place(pin, x, y) {
  const form = pin.closest('form');
  const at = { x: within(x), y: within(y) };
  for (const circle of pin.querySelectorAll('circle')) {
    circle.setAttribute('cx', `${at.x}%`);
    circle.setAttribute('cy', `${at.y}%`);
  }
  for (const text of pin.querySelectorAll('text')) {
    text.setAttribute('x', `${at.x}%`);
    text.setAttribute('y', `${at.y}%`);
  }
  box(form, 'x', pin.dataset.slot).value = at.x;
  box(form, 'y', pin.dataset.slot).value = at.y;
}

const save = (form) => form.dispatchEvent(new Event('change', { bubbles: true }));

document.addEventListener('pointerdown', (e) => {
  dragged = e.target.closest?.('[data-pins] .pin') ?? null;
  if (!dragged) return;
  e.preventDefault();
  dragged.focus();
});

document.addEventListener('pointermove', (e) => {
  if (!dragged) return;
  const area = dragged.closest('svg').getBoundingClientRect();
  place(dragged, ((e.clientX - area.left) / area.width) * 100, ((e.clientY - area.top) / area.height) * 100);
  dragged.dataset.moved = 'yes';
});

document.addEventListener('pointerup', () => {
  if (dragged?.dataset.moved) save(dragged.closest('form'));
  dragged = null;
});

document.addEventListener('keydown', (e) => {
  const pin = e.target.closest?.('[data-pins] .pin');
  if (!pin || !step[e.key]) return;
  e.preventDefault();
  const form = pin.closest('form');
  const by = e.shiftKey ? 5 : 1;
  const [x, y] = ['x', 'y'].map((axis) => Number(box(form, axis, pin.dataset.slot).value));
  place(pin, x + step[e.key][0] * by, y + step[e.key][1] * by);
  clearTimeout(waiting);
  waiting = setTimeout(() => save(form), 600);
});

document.addEventListener('click', (e) => {
  const button = e.target.closest?.('[data-put-pin], [data-take-pin]');
  if (!button) return;
  const form = button.closest('form');
  const slot = button.dataset.putPin ?? button.dataset.takePin;
  for (const axis of ['x', 'y']) box(form, axis, slot).value = button.dataset.putPin ? '50' : '';
  save(form);
});
