// What is typed into a product page while its answer is on the way is kept, and asked again.
const typed = (root) => new Map([...root.querySelectorAll('.typed input, .typed textarea')].map((box) => [box.id, box.value]));
let before = null;

document.addEventListener('htmx:beforeSwap', (e) => {
  if (e.detail.target?.id === 'buy') before = { sent: e.detail.requestConfig?.parameters ?? {}, now: typed(e.detail.target) };
});
document.addEventListener('htmx:afterSwap', () => {
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
