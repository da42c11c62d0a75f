// What stands around a chapter: each change says what is picked in the proof, and its reply brings head, spine and proof anew.
const picks = () => {
  const picked = new URLSearchParams();
  for (const form of document.querySelectorAll('#proof form'))
    for (const [name, value] of new FormData(form)) if (!name.startsWith('__')) picked.append(name, value);
  return picked.toString();
};

document.body.addEventListener('htmx:configRequest', (e) => {
  if (e.detail.verb !== 'get') e.detail.parameters['proof-picks'] = picks();
});
document.addEventListener('sending', (e) => e.detail.set('proof-picks', picks()));

document.addEventListener('answered', (e) => {
  const pieces = new DOMParser().parseFromString(e.detail, 'text/html').querySelectorAll('[hx-swap-oob]');
  htmx.swap(document.body, [...pieces].map((piece) => piece.outerHTML).join(''), { swapStyle: 'none' });
});

// Of two replies that cross on the way, the one about the later state stays.
const version = (el) => Number(el?.dataset.version ?? 0);
document.body.addEventListener('htmx:oobBeforeSwap', (e) => {
  if (version(e.detail.fragment.firstElementChild) < version(e.detail.target)) e.detail.shouldSwap = false;
});

// The tab is called as the head says.
document.body.addEventListener('htmx:oobAfterSwap', () => {
  const head = document.querySelector('#title h1');
  if (head) document.title = `${head.textContent} · Unicus`;
});
