// Boxes that take goods (data-goods): while one types a name, a code or a SKU, what it may be is listed with its picture, and picked with
// the arrows and Enter or with a click. What is picked stands in the box as its code, so that codes can be typed as before.
const list = document.createElement('div');
list.id = 'goods';
list.setAttribute('role', 'listbox');
list.setAttribute('aria-label', 'Goods that fit');

let box = null;
let waiting = 0;

/** The piece of the text that is being typed: between commas, or on its line. */
function piece() {
  const before = box.value.slice(0, box.selectionStart);
  const from = Math.max(before.lastIndexOf(','), before.lastIndexOf('\n')) + 1;
  const behind = box.value.slice(box.selectionStart).search(/[,\n]/);
  return { from, to: behind < 0 ? box.value.length : box.selectionStart + behind, text: before.slice(from).trim() };
}

function close() {
  clearTimeout(waiting);
  list.replaceChildren();
  list.remove();
  box?.removeAttribute('aria-activedescendant');
}

/** The list as the server draws it; null where it cannot be had, as after signing out: the box takes codes all the same. */
async function goodsFor(asked, kind) {
  try {
    const address = `/office/find?handler=Goods&of=${kind}&q=${encodeURIComponent(asked)}`;
    const reply = await fetch(address, { headers: { 'HX-Request': 'true' } });
    return reply.ok && !reply.redirected ? await reply.text() : null;
  } catch {
    return null;
  }
}

async function look() {
  const asked = piece().text;
  if (asked.length < 2) return close();
  const html = await goodsFor(asked, box.dataset.goods);
  if (html === null || document.activeElement !== box || piece().text !== asked) return;
  list.innerHTML = html;
  const codes = [...list.children].map((option) => option.dataset.code?.toLowerCase());
  // Where nothing fits, or a code is typed whole, there is nothing to pick, and nothing should lie over the page.
  if (codes.length === 0 || codes.includes(asked.toLowerCase())) return close();
  document.getElementById('main').append(list);
  const place = box.getBoundingClientRect();
  list.style.left = `${Math.min(place.left, innerWidth - 330) + scrollX}px`;
  list.style.top = `${place.bottom + scrollY + 2}px`;
}

function pick(option) {
  const { from, to } = piece();
  const lead = from > 0 && box.value[from - 1] === ',' ? ' ' : '';
  box.setRangeText(lead + option.dataset.code, from, to, 'end');
  close();
  box.dispatchEvent(new Event('input', { bubbles: true }));
  if (box.tagName === 'INPUT') box.dispatchEvent(new Event('change', { bubbles: true }));
}

document.addEventListener('input', (e) => {
  if (!e.target.matches?.('[data-goods]')) return;
  box = e.target;
  box.setAttribute('aria-controls', 'goods');
  clearTimeout(waiting);
  waiting = setTimeout(look, 150);
});
document.addEventListener('focusout', (e) => {
  if (e.target === box) setTimeout(close, 150);
});
list.addEventListener('mousedown', (e) => {
  const option = e.target.closest('[role=option]');
  e.preventDefault();
  if (option) pick(option);
});
// Before the keys of the page, so that Enter picks and saves nothing yet.
document.addEventListener(
  'keydown',
  (e) => {
    const options = [...list.children].filter((o) => o.matches('[role=option]'));
    if (e.target !== box || options.length === 0) return;
    const at = options.findIndex((o) => o.matches('.on'));
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (step) {
      options[at]?.classList.remove('on');
      const next = options[(at + step + options.length) % options.length] ?? options[0];
      next.classList.add('on');
      box.setAttribute('aria-activedescendant', next.id);
    } else if (e.key === 'Enter' && at >= 0) pick(options[at]);
    else if (e.key === 'Escape') close();
    else return;
    e.preventDefault();
    e.stopPropagation();
  },
  true,
);
