// What is drawn anew keeps the focus, and what was typed while the reply was on the way is put back and saved too.
import { fields, find, isChanged, nameOf, savesItself, stateOf, ticks } from './typed.js';

/** Whether the request that is being answered had this control's state in it. */
function wasSent(el, request) {
  const form = request?.elt?.form ?? request?.elt?.closest?.('form');
  if (!form || el.form !== form || !request.formData) return false;
  const values = request.formData.getAll(el.name);
  return ticks(el) ? values.includes(el.value) === el.checked : values.includes(el.value);
}

function selectionOf(el) {
  try {
    return [el.selectionStart, el.selectionEnd];
  } catch {
    return null;
  }
}

function focus(el, selection) {
  el.focus({ preventScroll: true });
  if (selection && selection[0] !== null)
    try {
      el.setSelectionRange(...selection);
    } catch {
      /* a kind of field without a selection */
    }
}

let kept = null;
let toSave = null;
const unsaved = new WeakSet();

document.body.addEventListener('htmx:beforeSwap', (e) => {
  const root = e.detail.target;
  if (!root || root.id === 'buy' || !e.detail.shouldSwap) return;
  const active = root.contains(document.activeElement) && document.activeElement.matches(fields) ? document.activeElement : null;
  kept = {
    active: active && { name: nameOf(active), selection: selectionOf(active) },
    typed: [...root.querySelectorAll(fields)]
      .filter(isChanged)
      .map((el) => ({
        name: nameOf(el),
        state: stateOf(el),
        isActive: el === active,
        wasSent: wasSent(el, e.detail.requestConfig),
      })),
  };
});

document.body.addEventListener('htmx:afterSwap', (e) => {
  if (!kept) return;
  const { active, typed } = kept;
  kept = null;
  const isRefused = e.detail.target.querySelector('[data-refused]') !== null;
  for (const { name, state, isActive, wasSent } of typed) {
    const el = !wasSent || isRefused ? find(document, name) : null;
    if (!el || stateOf(el) === state) continue;
    if (ticks(el)) el.checked = state;
    else el.value = state;
    if (wasSent) el.setAttribute('aria-invalid', 'true');
    else if (isActive) unsaved.add(el);
    else if (savesItself(el.form)) toSave ??= el;
  }
  const el = active && find(document, active.name);
  if (el && document.activeElement !== el) focus(el, active.selection);
});

// One request at a time: what else was typed meanwhile goes with the next.
document.body.addEventListener('htmx:afterSettle', () => {
  const el = toSave;
  toSave = null;
  el?.dispatchEvent(new Event('change', { bubbles: true }));
});

// The browser sees no change in what a script put back, so leaving it says so.
document.addEventListener('change', (e) => unsaved.delete(e.target));
document.addEventListener('focusout', (e) => {
  if (unsaved.delete(e.target)) e.target.dispatchEvent(new Event('change', { bubbles: true }));
});

// The same for a page that is loaded anew after a form was sent.
document.addEventListener('submit', () => {
  const el = document.activeElement;
  if (el?.matches(fields))
    sessionStorage.setItem('focus', JSON.stringify({ path: location.pathname, name: nameOf(el), at: Date.now(), y: scrollY }));
});
const held = JSON.parse(sessionStorage.getItem('focus') ?? 'null');
sessionStorage.removeItem('focus');
if (held && held.path === location.pathname && Date.now() - held.at < 10000 && !document.querySelector('[autofocus]')) {
  const el = find(document, held.name);
  if (el) {
    scrollTo(0, held.y);
    focus(el);
  }
}
