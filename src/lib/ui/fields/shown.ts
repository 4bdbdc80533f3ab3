/**
 * What a field shows: set when it changes, and only then, so that whatever is being typed there meanwhile stays. (The
 * framework's own `value` sets a field once more at the first change of anything beside it after a page was loaded.)
 */
export function shown(field: HTMLInputElement, value: string) {
	field.value = value;
	return {
		update(now: string) {
			if (now === value) return;
			value = now;
			field.value = now;
		}
	};
}
