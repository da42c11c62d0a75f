// Forms that lead to another page are sent from here: the page stays until the answer is there, and with it what was typed. A second press
// while the first is on its way does nothing.
import { failed, done, sentenceOf } from './replies.js';
import { dropDraft } from './typed.js';

const busy = new WeakSet();

/** Waits for what must be done before a form is sent, such as fields that are being saved. */
let ready = () => Promise.resolve();
export const sendAfter = (wait) => {
  ready = wait;
};

const isOurs = (form) =>
  form.method === 'post' && !form.matches('[data-plain], [target]') && new URL(form.action).origin === location.origin;

document.addEventListener('submit', (e) => {
  const form = e.target;
  if (e.defaultPrevented || !isOurs(form)) return;
  e.preventDefault();
  send(form, e.submitter);
});

async function send(form, pressed) {
  if (busy.has(form)) return;
  busy.add(form);
  form.classList.add('htmx-request');
  form.setAttribute('aria-busy', 'true');
  try {
    await ready();
    await deliver(form, pressed);
  } finally {
    busy.delete(form);
    form.classList.remove('htmx-request');
    form.removeAttribute('aria-busy');
  }
}

async function deliver(form, pressed) {
  const address = pressed?.hasAttribute('formaction') ? pressed.formAction : form.action;
  const data = new FormData(form, pressed?.form === form ? pressed : null);
  const body = form.enctype === 'multipart/form-data' ? data : new URLSearchParams(data);
  const key = `form ${address}`;
  const again = () => send(form, pressed);
  let reply;
  try {
    reply = await fetch(address, { method: 'POST', body, headers: { 'X-Unicus-Script': '1' } });
  } catch {
    return failed({ key, status: 0, again, repeats: false });
  }
  const to = reply.headers.get('X-Unicus-To');
  const text = await reply.text();
  if (!reply.ok)
    return failed({
      key,
      status: reply.status,
      sentence: sentenceOf(reply.headers.get('Content-Type'), text),
      again,
      repeats: false,
    });
  done(key);
  if (!to) return redraw(text);
  dropDraft();
  location.assign(to);
}

/** The same page once more, with what is wrong. */
function redraw(text) {
  const anew = new DOMParser().parseFromString(text, 'text/html');
  const main = document.getElementById('main');
  main.replaceChildren(...anew.getElementById('main').childNodes);
  document.title = anew.title;
  htmx.process(main);
  document.body.dispatchEvent(new Event('redrawn'));
  const first = main.querySelector('[role=alert], .fault, [aria-invalid=true]');
  if (!first) return;
  first.scrollIntoView({ block: 'center' });
  const box = main.querySelector('[autofocus]') ?? first.closest('label')?.querySelector('input, textarea, select');
  if (box) return box.focus();
  first.tabIndex = -1;
  first.focus();
}
