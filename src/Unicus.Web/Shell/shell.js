// What every page of the back office has: the form token on each change, the find box, keys, messages, undo.
import './keeping.js';

const token = document.querySelector('meta[name="unicus-token"]').content;
document.body.addEventListener('htmx:configRequest', e => { e.detail.headers['X-Unicus-Token'] = token; });

/** Posts a form to this application and gives the reply. */
export async function post(url, data) {
  const body = data instanceof FormData ? data : new URLSearchParams(data);
  return fetch(url, { method: 'POST', body, headers: { 'X-Unicus-Token': token, 'HX-Request': 'true' } });
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

const typing = el => el && (el.isContentEditable || /^(input|textarea|select)$/i.test(el.tagName)) && !/^(radio|checkbox|button|submit)$/.test(el.type);

async function takeBack(again = false) {
  const bench = document.querySelector('[data-undo]');
  if (!bench) return;
  const reply = await post(again === true ? bench.dataset.redo : bench.dataset.undo, {});
  const text = await reply.text();
  if (reply.ok) { sessionStorage.setItem('said', text); location.reload(); } else say(text, { trouble: true });
}

const held = sessionStorage.getItem('said');
if (held) { sessionStorage.removeItem('said'); say(held); }

document.addEventListener('keydown', e => {
  if (e.key === '/' && !typing(e.target)) { document.getElementById('find')?.focus(); e.preventDefault(); }
  if (e.key === 'p' && !typing(e.target) && !e.ctrlKey && !e.metaKey) document.querySelector('.bench')?.classList.toggle('no-proof');
  if (e.key === 'z' && (e.ctrlKey || e.metaKey) && !e.shiftKey && !typing(e.target)) { e.preventDefault(); takeBack(); }
  if ((e.ctrlKey || e.metaKey) && !typing(e.target) && (e.key === 'y' || (e.key.toLowerCase() === 'z' && e.shiftKey))) { e.preventDefault(); takeBack(true); }
  if (e.key === 'Escape') document.getElementById('found')?.replaceChildren();
  if ((e.key === 'ArrowDown' || e.key === 'ArrowUp') && e.target.closest?.('.find')) {
    const stops = [document.getElementById('find'), ...document.querySelectorAll('#found a')];
    stops[Math.max(0, Math.min(stops.length - 1, stops.indexOf(document.activeElement) + (e.key === 'ArrowDown' ? 1 : -1)))].focus();
    e.preventDefault();
  }
});
document.body.addEventListener('said', e => say(e.detail.text ?? e.detail.value, e.detail));
document.body.addEventListener('htmx:sendError', () => say('The server cannot be reached. What you typed is still here.', { trouble: true }));
document.addEventListener('change', e => { if (e.target.matches('[data-submits]')) e.target.form.requestSubmit(); });
