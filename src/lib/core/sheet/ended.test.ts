import { expect, it } from 'vitest';
import { endedOn } from './ended.ts';

it('what was closed before all of it was booked is not said to be done', () => {
	expect(endedOn({ closedAt: null, closedShort: null }, 'shipped')).toBe('');
	expect(endedOn({ closedAt: '2026-12-02', closedShort: null }, 'shipped')).toBe('shipped 2 Dec 2026');
	expect(endedOn({ closedAt: '2026-12-02', closedShort: 'no more wanted' }, 'shipped')).toBe(
		'closed incomplete 2 Dec 2026'
	);
});
