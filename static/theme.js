// Before the first paint: light or dark, as the system says, and again when it changes.
const dark = matchMedia('(prefers-color-scheme: dark)');
const follow = () => document.documentElement.setAttribute('theme', dark.matches ? 'g100' : 'g10');
dark.addEventListener('change', follow);
follow();
