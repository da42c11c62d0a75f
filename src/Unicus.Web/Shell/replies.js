// The one place for replies that say no. Nothing of them is ever put into the page: what was typed stays, a line says what to do, and what
// could not be sent is sent afterwards.
const waiting = new Map();
const pauses = [2000, 4000, 8000, 15000];
let tries = 0;
let timer = 0;
let isOut = false;

const place = () => {
  let box = document.getElementById('trouble');
  if (!box) {
    box = document.createElement('div');
    box.id = 'trouble';
    box.setAttribute('role', 'alert');
    document.body.append(box);
  }
  return box;
};

function element(name, text, more = {}) {
  const el = Object.assign(document.createElement(name), more);
  el.append(text);
  return el;
}

const button = (text, act, kind = '') => element('button', text, { type: 'button', className: `btn ${kind}`, onclick: act });

/** Whether something could not be sent and still waits. */
export const isWaiting = () => waiting.size > 0;

/**
 * Says that something could not be done, and keeps it to be done again.
 * @param key names what is done, so that the newest try stands for those before
 * @param status of the reply; 0 where none came
 * @param sentence of the server, if it said one
 * @param again does it again; gives a promise
 * @param repeats whether doing it twice does no more than doing it once
 */
export function failed({ key, status, sentence, again, repeats }) {
  if (status === 401) {
    waiting.set(key, again);
    return askToSignIn();
  }
  const isAway = status === 0 || status >= 500 || status === 429;
  if (isAway && repeats) {
    waiting.set(key, again);
    return wait(status, sentence);
  }
  waiting.delete(key);
  const unsure =
    status === 0
      ? 'No answer came, so it is not known whether it was done. What you typed is still here; load the page anew to see.'
      : '';
  line(unsure || `${sentence || 'That could not be done.'} What you typed is still here.`, button('Close', clear, 'quiet'));
}

/** Says that something was done after all. */
export function done(key) {
  if (!waiting.delete(key)) return;
  if (waiting.size === 0) clear();
}

function line(text, ...beside) {
  place().replaceChildren(element('p', text), ...beside);
}

export function clear() {
  clearTimeout(timer);
  [tries, isOut] = [0, false];
  document.getElementById('trouble')?.replaceChildren();
}

function wait(status, sentence) {
  if (isOut) return;
  const why = status === 0 ? 'The server cannot be reached.' : sentence || 'The server cannot do it just now.';
  line(`${why} What you typed is still here and is saved as soon as it can be.`, button('Try now', sendAll));
  clearTimeout(timer);
  timer = setTimeout(sendAll, pauses[Math.min(tries++, pauses.length - 1)]);
}

async function sendAll() {
  clearTimeout(timer);
  for (const [key, again] of [...waiting]) {
    waiting.delete(key);
    await again();
    // It failed again, and waits again; the others would too.
    if (waiting.has(key)) return;
  }
  if (waiting.size === 0) clear();
}

async function askToSignIn() {
  if (isOut) return;
  isOut = true;
  clearTimeout(timer);
  line('You are signed out. What you typed is still here; it is saved once you are in again.');
  const reply = await fetch('/office/sign-in?handler=Beside').catch(() => null);
  if (!reply?.ok) {
    isOut = false;
    return wait(reply?.status ?? 0);
  }
  const beside = document.createElement('div');
  beside.innerHTML = await reply.text();
  const form = beside.querySelector('form');
  form.addEventListener('submit', (e) => {
    e.preventDefault();
    e.stopPropagation();
    signIn(form, e.submitter);
  });
  place().append(form);
  form.querySelector('input:not([type=hidden]), button').focus();
}

async function signIn(form, pressed) {
  const reply = await fetch(pressed.formAction, { method: 'POST', body: new URLSearchParams(new FormData(form)) }).catch(
    () => null,
  );
  if (!reply?.ok) {
    form.querySelector('.fault').textContent = reply ? await reply.text() : 'The server cannot be reached.';
    const half = reply?.headers.get('X-Unicus-Half');
    if (half) askForCode(form, half);
    return;
  }
  const token = await (await fetch('/office/sign-in?handler=Token')).text();
  const meta = document.querySelector('meta[name="unicus-token"]');
  if (meta) meta.content = token;
  for (const field of document.querySelectorAll('[name=__RequestVerificationToken]')) field.value = field.defaultValue = token;
  isOut = false;
  place().replaceChildren();
  await sendAll();
}

/** The password was right: now only the code of the second factor is wanted. */
function askForCode(form, half) {
  form.elements.half.value = half;
  for (const name of ['email', 'password']) {
    form.elements[name].required = false;
    form.elements[name].closest('label').hidden = true;
  }
  form.elements.code.closest('label').hidden = false;
  form.elements.code.required = true;
  form.elements.code.focus();
}

/** What a reply says for itself: only a plain sentence is meant for people. */
export const sentenceOf = (type, text) => (type?.startsWith('text/plain') ? text.slice(0, 300) : '');

// Requests of htmx: those that only look, and those of a field, which sends what its typist saw, may be sent again by themselves.
const keyOf = (config) =>
  `${config.verb} ${config.path} ${config.elt.id || config.elt.getAttribute('action') || config.elt.name || ''}`;
const repeats = (config) => config.verb === 'get' || Boolean(config.elt.elements?.was);

function sendAgain(config) {
  if (!document.body.contains(config.elt)) return Promise.resolve();
  const isForm = config.elt.form || config.elt.tagName === 'FORM';
  const values = isForm || !config.formData ? undefined : Object.fromEntries(config.formData);
  return htmx.ajax(config.verb, config.path, { source: config.elt, target: config.target, values });
}

function fault(e, status) {
  const { requestConfig: config, xhr } = e.detail;
  const sentence = status ? sentenceOf(xhr.getResponseHeader('Content-Type'), xhr.responseText) : '';
  failed({ key: keyOf(config), status, sentence, again: () => sendAgain(config), repeats: repeats(config) });
}

document.addEventListener('htmx:responseError', (e) => fault(e, e.detail.xhr.status));
document.addEventListener('htmx:sendError', (e) => fault(e, 0));
document.addEventListener('htmx:timeout', (e) => fault(e, 0));
document.addEventListener('htmx:afterRequest', (e) => {
  if (e.detail.successful) done(keyOf(e.detail.requestConfig));
});
// Whatever the settings say: no reply from 400 up, and no page that a request was led to instead of its own, comes into the page.
document.addEventListener('htmx:beforeSwap', (e) => {
  const { xhr, requestConfig } = e.detail;
  const isElsewhere =
    xhr.responseURL &&
    new URL(xhr.responseURL).pathname.startsWith('/office/sign-in') &&
    !requestConfig.path.includes('/office/sign-in');
  if (xhr.status >= 400 || isElsewhere) e.detail.shouldSwap = false;
  if (isElsewhere) fault(e, 401);
});
