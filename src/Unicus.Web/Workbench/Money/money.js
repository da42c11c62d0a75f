// The price bar: cost and price are dragged by their grips, or moved with the arrow keys; the boxes follow, and save when
// the grip is let go.
const box = (of) => document.getElementById(`f-${of}`);
let held = null;

/** Round figures: a hundredth of the leading power of ten, never finer than the boxes show. */
const step = (amount, text) =>
  Math.max(10 ** (Math.floor(Math.log10(Math.max(amount, 1))) - 2), 10 ** -(text.split('.')[1]?.length ?? 0));

function figures(svg) {
  const { price, cost, paid, tax, scale } = svg.dataset;
  return { price: +price, cost: +cost, paid: +paid, tax: +tax, scale: +scale, text: price };
}

function draw(svg, f) {
  const [taxBar, costBar, leftBar] = svg.querySelectorAll(':scope > rect');
  const paid = f.price * (f.paid0 / f.price0),
    tax = paid * (f.tax0 / f.paid0);
  const at = (x) => (x * f.scale).toFixed(1);
  taxBar.setAttribute('width', at(tax));
  costBar.setAttribute('x', at(tax));
  costBar.setAttribute('width', at(f.cost));
  leftBar.setAttribute('x', at(tax + f.cost));
  leftBar.setAttribute('width', at(Math.max(0, paid - tax - f.cost)));
  svg.querySelector('[data-grips=cost]').setAttribute('transform', `translate(${at(tax + f.cost)} 0)`);
  svg.querySelector('[data-grips=price]').setAttribute('transform', `translate(${at(paid)} 0)`);
}

function move(grip, amount) {
  const svg = grip.ownerSVGElement;
  const now = figures(svg);
  const of = grip.dataset.grips;
  const fine = step(now[of], now.text);
  const decimals = now.text.split('.')[1]?.length ?? 0;
  const text = Math.max(0, Math.round(amount / fine) * fine).toFixed(decimals);
  const f = { ...now, paid0: now.paid, tax0: now.tax, price0: now.price, [of]: +text };
  box(of).value = text;
  grip.setAttribute('aria-valuenow', text);
  grip.setAttribute('aria-valuetext', text);
  if (now.price > 0) draw(svg, f);
}

function letGo(of) {
  for (const kind of ['input', 'change']) box(of).dispatchEvent(new Event(kind, { bubbles: true }));
}

document.addEventListener('pointerdown', (e) => {
  const grip = e.target.closest?.('.price-bar .grip');
  if (!grip || e.button !== 0) return;
  held = { grip, id: e.pointerId };
  grip.setPointerCapture(e.pointerId);
  e.preventDefault();
  grip.focus();
});
document.addEventListener('pointermove', (e) => {
  if (held?.id !== e.pointerId) return;
  const svg = held.grip.ownerSVGElement;
  const frame = svg.getBoundingClientRect();
  const f = figures(svg);
  const along = (((e.clientX - frame.left) / frame.width) * 700) / f.scale;
  held.moved = true;
  move(held.grip, held.grip.dataset.grips === 'cost' ? along - f.tax : along * (f.price / f.paid));
});
for (const end of ['pointerup', 'pointercancel'])
  document.addEventListener(end, (e) => {
    if (held?.id !== e.pointerId) return;
    const { grip, moved } = held;
    held = null;
    if (moved) letGo(grip.dataset.grips);
  });

let waiting;
document.addEventListener('keydown', (e) => {
  const grip = e.target.closest?.('.price-bar .grip');
  const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[e.key];
  if (!grip || !way) return;
  e.preventDefault();
  const of = grip.dataset.grips;
  const now = +grip.getAttribute('aria-valuenow');
  move(grip, now + way * step(now, grip.ownerSVGElement.dataset.price));
  clearTimeout(waiting);
  waiting = setTimeout(() => letGo(of), 500);
});
// The bar is drawn anew after a save; the grip in use keeps the focus.
let focused = null;
document.body.addEventListener('htmx:beforeSwap', (e) => {
  if (e.target.id === 'bar') focused = document.activeElement?.dataset?.grips ?? null;
});
document.body.addEventListener('htmx:afterSwap', (e) => {
  if (e.target.id === 'bar' && focused) e.target.querySelector(`[data-grips=${focused}]`)?.focus();
});
