document.documentElement.classList.add('js');
