// Lists that are dragged into order, or moved with the arrow keys while the handle has the focus.
let moved = null;

function keep(list, item) {
  moved = { list: list.dataset.order, key: item.dataset.key, at: [...list.children].indexOf(item) };
  if (list.dataset.order === 'form') return list.closest('form').dispatchEvent(new Event('change', { bubbles: true }));
  const keys = [...list.children].map((i) => i.dataset.key);
  htmx.ajax('POST', `${location.pathname}?handler=Order`, { target: '#chapter', values: { list: list.dataset.order, keys } });
}

function adopt() {
  for (const list of document.querySelectorAll('[data-order]')) {
    if (Sortable.get(list)) continue;
    const whole = list.dataset.order === 'form';
    Sortable.create(list, {
      handle: whole ? undefined : '.handle',
      filter: whole ? 'input, button' : undefined,
      preventOnFilter: false,
      animation: 120,
      forceFallback: true,
      fallbackTolerance: 4,
      onEnd: (e) => {
        if (e.oldIndex !== e.newIndex) keep(list, e.item);
      },
    });
  }
}

const handles = '.handle, [data-order=form] > *';

document.addEventListener('keydown', (e) => {
  const step = { ArrowUp: -1, ArrowLeft: -1, ArrowDown: 1, ArrowRight: 1 }[e.key];
  if (!step || !e.target.matches?.(handles)) return;
  e.preventDefault();
  const list = e.target.closest('[data-order]');
  const item = [...list.children].find((i) => i.contains(e.target));
  const other = step < 0 ? item.previousElementSibling : item.nextElementSibling;
  if (!other) return;
  step < 0 ? other.before(item) : other.after(item);
  keep(list, item);
});

/** Puts the focus back on the handle of what was moved; says whether there was one. */
export function refocus() {
  adopt();
  if (!moved) return false;
  const list = document.querySelector(`[data-order="${CSS.escape(moved.list)}"]`);
  const item = list && (moved.key ? [...list.children].find((i) => i.dataset.key === moved.key) : list.children[moved.at]);
  moved = null;
  (item?.querySelector('.handle') ?? item)?.focus();
  return Boolean(item);
}

adopt();
document.body.addEventListener('redrawn', adopt);
