// Before the first paint: light or dark, as the system says, and again when it changes.
const dark = matchMedia('(prefers-color-scheme: dark)');
const follow = () => document.documentElement.setAttribute('theme', dark.matches ? 'g100' : 'g10');
dark.addEventListener('change', follow);
follow();

// What is typed before the page answers is kept, and goes where the cursor then stands.
(() => {
	const keys = [];
	const keep = (e) => {
		if (document.documentElement.hasAttribute('data-live')) return removeEventListener('keydown', keep, true);
		const field = e.target instanceof Element && e.target.closest('input, textarea, select, button, a');
		const fnc1 = e.ctrlKey && e.key === ']';
		if ((e.ctrlKey && !fnc1) || e.metaKey || e.altKey || (field && e.target !== document.body)) return;
		if (e.key.length === 1 || e.key === 'Enter') {
			keys.push({ key: fnc1 ? '\u001d' : e.key, at: e.timeStamp, repeat: e.repeat });
			e.preventDefault();
		}
	};
	addEventListener('keydown', keep, true);
	window.earlyKeys = keys;
})();
