// The label sheet: copies for all at once, and printing.
document.addEventListener('click', (e) => {
  const many = e.target.closest?.('[data-copies]');
  if (many)
    for (const box of document.querySelectorAll('#label-form [data-stock]'))
      box.value = many.dataset.copies === 'stock' ? box.dataset.stock : many.dataset.copies;
  if (e.target.id === 'print-sheet') print();
});
// What is left blank or 0 need not stand in the address.
document.getElementById('label-form').addEventListener('submit', (e) => {
  for (const box of e.target.querySelectorAll('[data-stock]')) box.disabled = !(+box.value > 0) && /^\d*$/.test(box.value);
});
