// The workbench: the description's editor, names added with a click, Enter in the values box, the list of changes.
import { saveSoon, settled } from '../Shell/saving.js';
import { refocus } from './order.js';
import './Parts/pins.js';
import './around.js';

const adopt = (root) => {
  for (const source of root.querySelectorAll('textarea.rich-source:not([hidden])')) rich(source);
};

function rich(source) {
  source.hidden = true;
  const box = document.createElement('div');
  box.className = 'rich';
  box.contentEditable = 'true';
  box.setAttribute('role', 'textbox');
  box.setAttribute('aria-multiline', 'true');
  box.setAttribute('aria-label', 'Description');
  // Text of people never acts.
  box.setAttribute('hx-disable', '');
  box.id = 'rich-description';
  const parsed = new DOMParser().parseFromString(source.value, 'text/html');
  box.append(...parsed.body.childNodes);
  const tools = document.createElement('div');
  tools.className = 'rich-tools';
  const acts = [
    ['Bold', 'bold'],
    ['Italic', 'italic'],
    ['Heading', 'formatBlock', 'h3'],
    ['Text', 'formatBlock', 'p'],
    ['List', 'insertUnorderedList'],
  ];
  for (const [label, command, value] of acts) {
    const button = document.createElement('button');
    button.type = 'button';
    button.className = 'btn quiet';
    button.textContent = label;
    button.addEventListener('mousedown', (e) => e.preventDefault());
    button.addEventListener('click', () => {
      box.focus();
      document.execCommand(command, false, value);
    });
    tools.append(button);
  }
  box.addEventListener('focus', () => document.execCommand('defaultParagraphSeparator', false, 'p'));
  const take = () => {
    const html = box.textContent.trim() === '' ? '' : box.innerHTML;
    const isNew = source.value !== html && box.innerHTML !== source.value;
    if (isNew) source.value = html;
    return isNew;
  };
  box.addEventListener('input', () => {
    if (take()) saveSoon(source);
  });
  box.addEventListener('blur', () => {
    if (take() || source.value !== source.defaultValue) source.dispatchEvent(new Event('change', { bubbles: true }));
  });
  source.before(tools, box);
}

document.addEventListener('click', (e) => {
  const adds = e.target.closest?.('[data-adds]');
  if (!adds) return;
  const field = document.getElementById(adds.dataset.to);
  field.value = [field.value.trim(), adds.dataset.adds].filter(Boolean).join(', ');
  field.dispatchEvent(new Event('change', { bubbles: true }));
  adds.remove();
});

document.addEventListener('keydown', (e) => {
  if (e.key === 'Enter' && !e.shiftKey && e.target.matches?.('[data-enter-submits]') && !e.target.value.includes('\n')) {
    e.preventDefault();
    e.target.form.requestSubmit();
  }
});

document.addEventListener('change', (e) => {
  if (e.target.matches?.('[data-suggests]')) e.target.form.elements.name.value = e.target.selectedOptions[0].dataset.name;
});

// The text of a piece of the SKU pattern.
document.addEventListener('input', (e) => {
  if (e.target.matches?.('[data-text]'))
    e.target.closest('.piece').querySelector('[name=piece]').value = `text:${e.target.value}`;
});

document.body.addEventListener('redrawn', () => adopt(document));
document.body.addEventListener('htmx:afterSwap', (e) => {
  adopt(document);
  if (e.target.id !== 'chapter' || refocus()) return;
  // After one was added, the next; a difference that waits to be decided on comes first.
  const next = e.detail.requestConfig?.elt?.matches?.('.new-option') ? '.new-option input:not([type=hidden])' : null;
  document.querySelector('#apply-difference')?.focus();
  if (next && !document.querySelector('#apply-difference')) document.querySelector(next)?.focus();
});
adopt(document);

// Whoever came from another chapter of the product goes on in this one; Tab leads into it.
const productIn = (address) => address.match(/\/office\/products\/[^/?#]+/)?.[0];
if (document.referrer && productIn(document.referrer) === productIn(location.pathname) && !location.hash)
  if (document.activeElement === document.body) document.getElementById('chapter')?.focus({ preventScroll: true });

// The chapter before and after, while typing too: what was typed is saved first.
document.addEventListener('keydown', (e) => {
  const step = e.altKey && !e.ctrlKey ? { PageDown: 1, PageUp: -1 }[e.key] : undefined;
  if (!step) return;
  const stops = [...document.querySelectorAll('#spine > a')];
  const next = stops[stops.findIndex((stop) => stop.matches('.here')) + step];
  e.preventDefault();
  document.activeElement?.blur();
  settled().then(() => next?.click());
});
