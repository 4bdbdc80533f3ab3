import { setImmediate as turn } from 'node:timers/promises';
import { describe, expect, it } from 'vitest';
import type { ListRow, ListShape } from '../../core/list/list.ts';
import { csvOf, xlsxOf } from './export.ts';

const shape: ListShape = {
	key: 'many',
	title: 'Many',
	columns: [{ key: 'name', label: 'Name', kind: 'text' }],
	sort: { key: 'name', down: false },
	find: null,
	empty: ''
};
/** Rows without an end, and whether somebody still reads them. */
function endless() {
	const state = { batches: 0, left: false };
	async function* rows(): AsyncGenerator<ListRow[]> {
		try {
			for (;;) {
				await turn();
				state.batches++;
				yield Array.from({ length: 500 }, (_, n) => ({ id: String(n), name: `${state.batches} of ${n * 7919}` }));
			}
		} finally {
			state.left = true;
		}
	}
	return { state, rows: rows() };
}

describe('an export that nobody waits for any more', () => {
	it.each([
		['CSV', csvOf],
		['XLSX', (...of: Parameters<typeof csvOf>) => xlsxOf(...of, 1000)]
	])('is not read to its end as %s', async (_name, file) => {
		const { state, rows } = endless();
		const reader = (file(shape, null, rows) as ReadableStream<Uint8Array>).getReader();
		expect((await reader.read()).done).toBe(false);
		await reader.cancel();
		await expect.poll(() => state.left, { timeout: 60_000 }).toBe(true);
		const { batches } = state;
		await turn();
		expect(state.batches).toBe(batches);
	});
});
