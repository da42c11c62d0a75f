// What is typed into a product page while its answer is on the way is kept, and asked again; focus and caret stay where they are.
const boxes = (root) => [...root.querySelectorAll('input:not([type=hidden], [type=radio], [type=checkbox]), textarea')];
const same = (root, { id, name, value, href }) =>
  (id && document.getElementById(id)) ||
  (href && root.querySelector(`a[href="${CSS.escape(href)}"]`)) ||
  [...root.querySelectorAll(`[name="${CSS.escape(name || '-')}"]`)].find(
    (el) => !['radio', 'checkbox'].includes(el.type) || el.value === value,
  );
let before = null;
const unsent = new WeakSet();

function caretOf(el) {
  try {
    return [el.selectionStart, el.selectionEnd];
  } catch {
    return null;
  }
}

document.addEventListener('htmx:beforeSwap', (e) => {
  const root = e.detail.target;
  if (root?.id !== 'buy') return;
  const el = root.contains(document.activeElement) ? document.activeElement : null;
  before = {
    sent: e.detail.requestConfig?.parameters ?? {},
    now: boxes(root).map((box) => ({ id: box.id, name: box.name, typed: box.value, active: box === el })),
    active: el && { id: el.id, name: el.name, value: el.value, href: el.getAttribute('href'), caret: caretOf(el) },
  };
});
/** Says price and what is left to whoever listens, once they are others. */
function tell() {
  const place = document.getElementById('told');
  if (!place) return;
  const words = ['.buy-price', '.buy-foot .left', '.group-foot']
    .map((css) => document.querySelector(`#buy ${css}`)?.textContent.replace(/\s+/g, ' ').trim())
    .filter(Boolean)
    .join(', ');
  if (words !== place.textContent) place.textContent = words;
}

document.addEventListener('htmx:afterSwap', () => {
  tell();
  const root = document.getElementById('buy');
  if (!before || !root) return;
  const { sent, now, active } = before;
  before = null;
  let later = false;
  for (const { id, name, typed, active: isActive } of now) {
    const was = sent.get ? sent.get(name) : sent[name];
    const box = was === undefined || was === typed ? null : same(root, { id, name });
    if (!box || box.value === typed) continue;
    box.value = typed;
    // What is still being typed is asked when it is left.
    if (isActive) unsent.add(box);
    else later = true;
  }
  const el = active && same(root, active);
  if (el && el !== document.activeElement) {
    el.focus({ preventScroll: true });
    if (active.caret?.[0] != null) el.setSelectionRange(...active.caret);
  }
  if (later) document.getElementById('buy-form')?.dispatchEvent(new Event('change'));
});
document.addEventListener('change', (e) => unsent.delete(e.target));
document.addEventListener('focusout', (e) => {
  if (unsent.delete(e.target)) e.target.dispatchEvent(new Event('change', { bubbles: true }));
});

// A press that was refused leads to the first thing that is wrong or still open.
const refused = document.querySelector('#buy .fault[role=alert]');
if (refused) {
  const first = document.querySelector('#buy [aria-invalid=true], #buy .open input:not([type=hidden]), #buy .open select');
  (first ?? refused).focus();
}
