/**
 * Where the focus goes on. What had it may be gone after an act: a row that was removed, a form that was closed. It then
 * goes on with the work (the next row, where the form was opened from, the first field beside), and never falls to the
 * page, where a keyboard would have to begin anew.
 */
const FIELDS = 'input:not([type=hidden]):not(:disabled), select:not(:disabled), textarea:not(:disabled)';
const ANY = `${FIELDS}, button:not(:disabled), a[href], [tabindex="0"]`;
const seen = (el: HTMLElement) => el.getClientRects().length > 0 && getComputedStyle(el).visibility !== 'hidden';
const first = (inside: Element, what = ANY) =>
	[...inside.querySelectorAll<HTMLElement>(what)].find((el) => seen(el) && el.tabIndex >= 0);

/** Where the focus was, and what stands around it. */
interface Place {
	el: HTMLElement;
	/** what it says, by which its like is found in the next row */
	says: string;
	rows: (Element | null | undefined)[];
	around: Element[];
}
const words = (el: HTMLElement) => (el.firstChild?.textContent ?? '').trim();

function placeOf(el: HTMLElement): Place {
	const row = el.closest('tr, li');
	const around: Element[] = [];
	for (let up = el.parentElement; up && up !== document.body; up = up.parentElement) around.push(up);
	return { el, says: words(el), rows: [row?.nextElementSibling, row?.previousElementSibling], around };
}

function goOn(from: Place) {
	for (const row of from.rows) {
		if (!row?.isConnected) continue;
		const like = [...row.querySelectorAll<HTMLElement>(ANY)].find((el) => words(el) === from.says && seen(el));
		const to = like ?? first(row);
		if (to) return to.focus();
	}
	for (const up of from.around) {
		const to = up.isConnected && up.id !== 'work' ? first(up) : undefined;
		if (to) return to.focus();
	}
	document.getElementById('work')?.focus();
}

/** Watches over the focus of the whole page. @returns what ends it */
export function holdFocus(): () => void {
	let last: Place | null = null;
	const took = (e: FocusEvent) => {
		if (e.target instanceof HTMLElement) last = placeOf(e.target);
	};
	let asked = 0;
	const watch = new MutationObserver(() => {
		if (!last || (last.el.isConnected && !last.el.matches(':disabled'))) return;
		cancelAnimationFrame(asked);
		// After everything else had its turn: whoever moves the focus on purpose has done so by then.
		asked = requestAnimationFrame(() => {
			if (last && (document.activeElement === document.body || document.activeElement === null)) goOn(last);
		});
	});
	document.addEventListener('focusin', took);
	watch.observe(document.body, { childList: true, subtree: true, attributes: true, attributeFilter: ['disabled'] });
	return () => {
		document.removeEventListener('focusin', took);
		watch.disconnect();
	};
}

/** For a form that opens in place: its first field takes the focus, or its button; and it goes back where it came from when it closes. */
export function opened(form: HTMLElement): () => void {
	const from = document.activeElement;
	requestAnimationFrame(() => (first(form, FIELDS) ?? first(form, '[type=submit]'))?.focus());
	return () => {
		if (from instanceof HTMLElement)
			requestAnimationFrame(() => {
				if (from.isConnected && document.activeElement === document.body) from.focus();
			});
	};
}

/** For what says what came of an act: it takes the focus, unless somebody is typing. */
export function told(el: HTMLElement): void {
	const at = document.activeElement;
	if (at instanceof HTMLInputElement || at instanceof HTMLTextAreaElement) return;
	el.focus({ preventScroll: true });
}
