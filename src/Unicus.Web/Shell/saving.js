// Fields save while one types, a second after the last key, without being drawn anew under the typist's hands; leaving a field saves it and
// draws it. What is not saved yet holds the tab back from closing, and links wait for what is on its way.
import { done, failed, isWaiting, sentenceOf } from './replies.js';
import { sendAfter } from './sending.js';
import { isUnsaved, nameOf, savesItself, takeDraft, unsaved } from './typed.js';

const pause = 1000;
const patience = 8000;
const timers = new Map();
const flights = new Map();
const visits = new WeakMap();
const refused = new WeakSet();
let requests = 0;

const isText = (el) =>
  el.matches?.('textarea, input:not([type=checkbox], [type=radio], [type=file], [type=hidden], [data-whole])');
const visitOf = (el) => visits.get(el) ?? visits.set(el, crypto.randomUUID()).get(el);

/** The header by which all saves of one stay in a field are one change. */
export const typingHeader = (el) => ({ 'X-Unicus-Typing': visitOf(el) });
export const endVisit = (el) => visits.delete(el);

document.addEventListener('input', (e) => {
  const el = e.target;
  if (isText(el) && savesItself(el.form) && !refused.has(el)) saveSoon(el);
});

/** Saves a control of a form that saves itself, a second from now, or from the last key. */
export function saveSoon(el) {
  clearTimeout(timers.get(el));
  timers.set(
    el,
    setTimeout(() => saveNow(el), pause),
  );
}

function saveNow(el) {
  timers.delete(el);
  const form = el.form;
  if (!form?.isConnected || !isUnsaved(el)) return;
  if (flights.has(form)) return saveSoon(el);
  flights.set(
    form,
    deliver(el, form).finally(() => flights.delete(form)),
  );
}

async function deliver(el, form) {
  const sent = el.value;
  const address = form.getAttribute('hx-post');
  const key = `typed ${nameOf(el)}`;
  const again = () => {
    saveNow(el);
    return flights.get(form) ?? Promise.resolve();
  };
  const headers = { 'HX-Request': 'true', ...tokenHeader(), ...typingHeader(el) };
  let reply;
  try {
    const body = new URLSearchParams(new FormData(form));
    sending(body);
    reply = await fetch(address, { method: 'POST', body, headers });
  } catch {
    return failed({ key, status: 0, again, repeats: true });
  }
  const text = await reply.text();
  if (!reply.ok)
    return failed({
      key,
      status: reply.status,
      sentence: sentenceOf(reply.headers.get('Content-Type'), text),
      again,
      repeats: true,
    });
  done(key);
  take(el, form, sent, new DOMParser().parseFromString(text, 'text/html'));
  takeAround(reply, text);
}

/** Lets the page say more with a change than the form that is sent. */
export const sending = (body) => document.dispatchEvent(new CustomEvent('sending', { detail: body }));

/** Puts what a reply to a change brings besides into its place. */
export function takeAround(reply, html) {
  document.dispatchEvent(new CustomEvent('answered', { detail: html }));
  if (reply.headers.get('HX-Trigger')?.includes('"changed"')) htmx.trigger(document.body, 'changed');
}

/** Takes from the reply what the next save needs, and what is wrong; the field itself stays as it is. */
function take(el, form, sent, reply) {
  const name = nameOf(el);
  const twin = [...reply.querySelectorAll('input, textarea')].find((x) => nameOf(x) === name);
  const problem = reply.querySelector('[data-refused]') ?? twin?.form?.querySelector('.fault');
  say(form, el, problem?.textContent ?? '');
  if (problem) {
    // What somebody else typed meanwhile is not typed over unseen: the next save is when the field is left.
    if (twin?.form?.elements.was?.value !== form.elements.was?.value) refused.add(el);
  } else el.defaultValue = sent;
  for (const hidden of twin?.form?.querySelectorAll('input[type=hidden]') ?? []) {
    const own = form.elements[hidden.name];
    if (own && !hidden.name.startsWith('__') && 'value' in own) own.value = hidden.value;
  }
}

function say(form, el, problem) {
  let line = form.querySelector('.fault');
  if (!problem) {
    line?.remove();
    el.removeAttribute('aria-invalid');
    return;
  }
  if (!line) {
    line = document.createElement('p');
    line.className = 'fault';
    line.setAttribute('role', 'alert');
    form.append(line);
  }
  line.textContent = problem;
  el.setAttribute('aria-invalid', 'true');
}

export const tokenHeader = () => ({ 'X-Unicus-Token': document.querySelector('meta[name="unicus-token"]')?.content ?? '' });

// Leaving a field: what is still on its way comes first, then this save, as part of the same change.
document.addEventListener('htmx:confirm', (e) => {
  const form = e.detail.verb === 'get' ? null : (e.detail.elt.form ?? e.detail.elt.closest?.('form'));
  if (!form) return;
  for (const el of timers.keys())
    if (el.form === form) {
      clearTimeout(timers.get(el));
      timers.delete(el);
    }
  const flight = flights.get(form);
  if (!flight) return;
  e.preventDefault();
  flight.then(() => e.detail.issueRequest(true));
});
document.addEventListener('htmx:configRequest', (e) => {
  Object.assign(e.detail.headers, tokenHeader());
  const el = e.detail.triggeringEvent?.target;
  if (e.detail.verb === 'get' || !el || !visits.has(el)) return;
  Object.assign(e.detail.headers, typingHeader(el));
  endVisit(el);
});
document.addEventListener('focusout', (e) => refused.delete(e.target));

document.addEventListener('htmx:beforeRequest', (e) => {
  if (e.detail.requestConfig.verb !== 'get') requests++;
});
document.addEventListener('htmx:afterRequest', (e) => {
  if (e.detail.requestConfig.verb !== 'get') requests--;
});

const others = [];

/** Lets another script say that it has something on its way, or typed and not yet saved. */
export const watch = (isUnsaved, settled) => others.push({ isUnsaved, settled });

const isOnItsWay = () => timers.size > 0 || flights.size > 0 || requests > 0;

/** Ends when all that was typed into fields that save themselves is saved, or cannot be. */
export async function settled() {
  const end = Date.now() + patience;
  for (const el of [...timers.keys()]) {
    clearTimeout(timers.get(el));
    saveNow(el);
  }
  await Promise.all(others.map((o) => o.settled()));
  while (isOnItsWay() && Date.now() < end && !isWaiting()) {
    await Promise.race([Promise.all(flights.values()), new Promise((r) => setTimeout(r, 40))]);
    await new Promise((r) => setTimeout(r, 20));
  }
}
sendAfter(settled);

document.addEventListener('click', async (e) => {
  const link = e.target.closest?.('a[href]');
  const leaves =
    link &&
    !link.target &&
    !e.defaultPrevented &&
    e.button === 0 &&
    !(e.ctrlKey || e.metaKey || e.shiftKey || e.altKey) &&
    link.origin === location.origin &&
    !link.hasAttribute('download') &&
    !link.hasAttribute('hx-get');
  if (!leaves || link.getAttribute('href').startsWith('#') || !(isOnItsWay() || others.some((o) => o.isUnsaved()))) return;
  e.preventDefault();
  await settled();
  if (!isWaiting()) location.assign(link.href);
});

addEventListener('beforeunload', (e) => {
  if (isOnItsWay() || isWaiting() || unsaved().length > 0 || others.some((o) => o.isUnsaved())) e.preventDefault();
});
// Whoever leaves all the same: what saves itself is sent on the way out.
addEventListener('pagehide', () => {
  for (const el of unsaved().filter((el) => savesItself(el.form) && !el.matches('[data-whole]'))) {
    const body = new URLSearchParams(new FormData(el.form));
    fetch(el.form.getAttribute('hx-post'), {
      method: 'POST',
      body,
      keepalive: true,
      headers: { 'HX-Request': 'true', ...tokenHeader(), ...typingHeader(el) },
    });
  }
});

/** Puts back what was typed here before and not saved; says how many texts. */
export const comeBack = takeDraft;
