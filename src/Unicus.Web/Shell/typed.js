// What people have typed: which control is which in a page drawn anew, what of it is not saved, and drafts for when they come back.
export const fields = 'input:not([type=hidden], [type=file], [type=image]), select, textarea, button, a[href], summary';
export const isActed = (el) => /^(BUTTON|A|SUMMARY)$/.test(el.tagName);
export const ticks = (el) => el.type === 'checkbox' || el.type === 'radio';
export const stateOf = (el) => (ticks(el) ? el.checked : el.value);
const labelOf = (el) => el.getAttribute('aria-label') ?? el.textContent.trim();

/** What a form sends along that changes with every save, so that it does not name the form. */
const changing = new Set(['was', 'version', 'total', 'lines']);

/** A name by which the same control is found in the page drawn anew. */
export function nameOf(el) {
  if (el.id) return `#${el.id}`;
  const sent = [...(el.form?.elements ?? [])].filter(
    (x) => x.type === 'hidden' && !x.name.startsWith('__') && !changing.has(x.name),
  );
  if (isActed(el) && !el.form) return `${el.tagName} ${el.getAttribute('href') ?? ''} ${labelOf(el)}`;
  const own = isActed(el) ? labelOf(el) : ticks(el) ? `${el.name}=${el.value}` : el.name;
  return [el.form?.id || `${el.form?.getAttribute('action')} ${sent.map((x) => `${x.name}=${x.value}`)}`, own].join(' ');
}

export const find = (root, name) => [...root.querySelectorAll(fields)].find((el) => nameOf(el) === name);

export function isChanged(el) {
  if (isActed(el) || el.matches('[data-submits]')) return false;
  if (ticks(el)) return el.checked !== el.defaultChecked;
  if (el.tagName !== 'SELECT') return el.value !== el.defaultValue;
  const preset = [...el.options].find((o) => o.defaultSelected) ?? el.options[0];
  return [...el.options].some((o) => o.selected !== o.defaultSelected) && el.value !== preset?.value;
}

/** A form whose fields save themselves when they are left, and while one types. */
export const savesItself = (form) => form?.matches('[hx-post][hx-trigger*="change"]') ?? false;

/** Whether what stands in the control is meant to be kept, and is not yet: no search, no password, no figure that is only tried. */
export function isUnsaved(el) {
  if (el.type === 'password' || el.autocomplete === 'one-time-code') return false;
  if (el.disabled || !el.form || el.form.method !== 'post' || el.closest('[data-passing]'))
    return false;
  return !isActed(el) && isChanged(el);
}

export const unsaved = () => [...document.querySelectorAll(fields)].filter(isUnsaved);

const place = `typed ${location.pathname}`;

/** Keeps what is typed and not saved, for when this page is opened again in this tab. */
function keepDraft() {
  const texts = unsaved().map((el) => ({ name: nameOf(el), state: stateOf(el) }));
  if (texts.length) sessionStorage.setItem(place, JSON.stringify(texts));
  else sessionStorage.removeItem(place);
}

/** Puts a draft back; what saves itself is saved. Gives how many texts came back. */
export function takeDraft() {
  const texts = JSON.parse(sessionStorage.getItem(place) ?? '[]');
  sessionStorage.removeItem(place);
  let count = 0;
  for (const { name, state } of texts) {
    const el = find(document, name);
    if (!el || isChanged(el) || stateOf(el) === state) continue;
    if (ticks(el)) el.checked = state;
    else el.value = state;
    count++;
    if (savesItself(el.form)) el.dispatchEvent(new Event('change', { bubbles: true }));
  }
  return count;
}

/** What was sent is no draft any more. */
export const dropDraft = () => {
  dropped = true;
  sessionStorage.removeItem(place);
};
let dropped = false;
addEventListener('pagehide', () => {
  if (!dropped) keepDraft();
});
