// What is picked in the map of rules is picked in the proof too, so that both always show the same answers.
document.addEventListener('htmx:afterRequest', (e) => {
  if (!e.detail.requestConfig.elt.closest('.chip-link') || !e.detail.successful) return;
  const buy = document.querySelector('#proof #buy-form');
  if (!buy) return;
  const asked = new URL(e.detail.pathInfo.finalRequestPath, location.href).searchParams;
  const answers = new URLSearchParams([...asked].filter(([name]) => name.startsWith('o-')));
  htmx.ajax('GET', `${buy.getAttribute('hx-get')}&${answers}`, { target: '#buy', swap: 'outerHTML' });
});
