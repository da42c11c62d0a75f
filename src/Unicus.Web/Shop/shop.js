// What every page of the shop has: replies that say no, forms that keep what was typed, and drafts of it for when one comes back.
import '../Shell/replies.js';
import '../Shell/sending.js';
import { takeDraft } from '../Shell/typed.js';

takeDraft();

// A list is shown anew as soon as something else is chosen for it; without script a button does so.
document.addEventListener('change', (e) => {
  if (e.target.matches('[data-submits]')) e.target.form.requestSubmit();
});
