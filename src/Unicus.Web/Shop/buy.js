// What is typed into a product page while its answer is on the way is kept, and asked again.
const typed = (root) => new Map([...root.querySelectorAll('.typed input, .typed textarea')].map((box) => [box.id, box.value]));
let before = null;

document.addEventListener('htmx:beforeSwap', (e) => {
  if (e.detail.target?.id === 'buy') before = { sent: e.detail.requestConfig?.parameters ?? {}, now: typed(e.detail.target) };
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
  if (!before) return;
  const { sent, now } = before;
  before = null;
  let later = false;
  for (const [id, value] of now) {
    const box = document.getElementById(id);
    const was = sent.get ? sent.get(box?.name) : sent[box?.name];
    if (!box || was === undefined || was === value || box.value === value) continue;
    box.value = value;
    later = true;
  }
  if (later) document.getElementById('buy-form')?.dispatchEvent(new Event('change'));
});

// A press that was refused leads to the first thing that is wrong or still open.
const refused = document.querySelector('#buy .fault[role=alert]');
if (refused) {
  const first = document.querySelector('#buy [aria-invalid=true], #buy .open input:not([type=hidden]), #buy .open select');
  (first ?? refused).focus();
}
