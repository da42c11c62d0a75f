// What every page of the back office has: the form token on each change, the find box, keys, messages, undo.
import './goods.js';
import './keeping.js';
import { failed, done, sentenceOf } from './replies.js';
import { comeBack, sending, settled, tokenHeader } from './saving.js';

/**
 * Posts a form to this application and gives the reply; null where it could not be done, which was said then.
 * @param key names what is done; it is done again, by itself where it repeats, else after signing in only
 */
export async function post(url, data, { key = url, again = null, repeats = false, headers = {} } = {}) {
  const body = data instanceof FormData ? data : new URLSearchParams(data);
  sending(body);
  let reply;
  try {
    reply = await fetch(url, { method: 'POST', body, headers: { 'HX-Request': 'true', ...tokenHeader(), ...headers } });
  } catch {
    failed({ key, status: 0, again: again ?? (() => post(url, data)), repeats });
    return null;
  }
  if (reply.ok || reply.status === 409) {
    done(key);
    return reply;
  }
  const sentence = sentenceOf(reply.headers.get('Content-Type'), await reply.text());
  failed({ key, status: reply.status, sentence, again: again ?? (() => post(url, data)), repeats });
  return null;
}

/** Says something at the foot of the page; with undo it offers to take it back. */
export function say(text, { undo = false, trouble = false } = {}) {
  const place = document.getElementById('said');
  const line = document.createElement('p');
  line.className = trouble ? 'trouble' : '';
  line.append(text);
  if (undo) {
    const button = document.createElement('button');
    button.type = 'button';
    button.className = 'btn quiet';
    button.textContent = 'Undo';
    button.addEventListener('click', takeBack);
    line.append(button);
  }
  place.replaceChildren(line);
  clearTimeout(place.timer);
  place.timer = setTimeout(() => place.replaceChildren(), undo ? 20000 : trouble ? 12000 : 5000);
}

const typing = (el) =>
  el &&
  (el.isContentEditable || /^(input|textarea|select)$/i.test(el.tagName)) &&
  !/^(radio|checkbox|button|submit)$/.test(el.type);

/** Whether Ctrl+Z means the last change of the product: not within a text that is being typed, but in a cell where nothing was typed. */
const undoes = (el) =>
  !typing(el) ||
  (el.matches('input.cell') &&
    [undefined, el.value].some((text) => text === el.dataset.was || (text === el.dataset.saved && text !== undefined)));

async function takeBack(again = false) {
  const bench = document.querySelector('[data-undo]');
  if (!bench) return;
  await settled();
  const reply = await post(again === true ? bench.dataset.redo : bench.dataset.undo, {});
  if (!reply) return;
  const text = await reply.text();
  if (reply.ok) {
    sessionStorage.setItem('said', text);
    location.reload();
  } else say(text, { trouble: true });
}

const held = sessionStorage.getItem('said');
if (held) {
  sessionStorage.removeItem('said');
  say(held);
}
if (comeBack() > 0) say('What you had typed here is back.');

document.addEventListener('keydown', (e) => {
  if (e.key === '/' && !typing(e.target)) {
    document.getElementById('find')?.focus();
    e.preventDefault();
  }
  if (e.key === '?' && !typing(e.target)) {
    const keys = document.getElementById('keys');
    if (keys?.open) keys.close();
    else keys?.showModal();
  }
  if (e.key === 'p' && !typing(e.target) && !e.ctrlKey && !e.metaKey)
    document.querySelector('.bench')?.classList.toggle('no-proof');
  if (e.key === 'z' && (e.ctrlKey || e.metaKey) && !e.shiftKey && undoes(e.target)) {
    e.preventDefault();
    takeBack();
  }
  if ((e.ctrlKey || e.metaKey) && undoes(e.target) && (e.key === 'y' || (e.key.toLowerCase() === 'z' && e.shiftKey))) {
    e.preventDefault();
    takeBack(true);
  }
  if (e.key === 'Escape') document.getElementById('found')?.replaceChildren();
  if (e.key === 'Enter' && e.target.id === 'find') {
    const first = document.querySelector('#found a');
    // What is still being looked for is looked at on its own page.
    if (first && !document.getElementById('find').classList.contains('htmx-request')) {
      e.preventDefault();
      first.click();
    }
  }
  if ((e.key === 'ArrowDown' || e.key === 'ArrowUp') && e.target.closest?.('.find')) {
    const stops = [document.getElementById('find'), ...document.querySelectorAll('#found a')];
    stops[
      Math.max(0, Math.min(stops.length - 1, stops.indexOf(document.activeElement) + (e.key === 'ArrowDown' ? 1 : -1)))
    ].focus();
    e.preventDefault();
  }
});
document.body.addEventListener('said', (e) => say(e.detail.text ?? e.detail.value, e.detail));
document.addEventListener('change', (e) => {
  if (e.target.matches('[data-submits]')) e.target.form.requestSubmit();
  if (e.target.matches('[data-ticks]'))
    for (const box of document.querySelectorAll(`input[type=checkbox][name="${e.target.dataset.ticks}"]`))
      box.checked = e.target.checked;
});
// Enter in a row of values saves what was typed, once; it presses none of the row's buttons.
document.addEventListener('keydown', (e) => {
  if (e.key !== 'Enter' || !e.target.matches?.('table.values input[form]')) return;
  e.preventDefault();
  e.target.blur();
  e.target.focus({ preventScroll: true });
});

// What opens to be typed into has the cursor where one begins.
document.addEventListener(
  'toggle',
  (e) => {
    if (e.target.matches('details.new-product[open]'))
      e.target.querySelector('input:not([type=hidden]), textarea, select, button')?.focus();
  },
  true,
);

document.addEventListener('click', (e) => {
  if (e.target.closest?.('[data-print]')) window.print();
});
