import { describe, expect, it } from 'vitest';
import { backDifferences, differences, readGolden } from '../../../../tests/golden/golden.ts';
import { findingsOf, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import { book } from '../ledger/book.ts';
import { backAnswer, forwardAnswer } from './answer.ts';

describe.each([1, 2, 3])('golden ledger %i through the ledger', (n) => {
	const db = testDatabase();
	const golden = readGolden(n);

	it('books every event, and every trace answers right', async () => {
		await makeItems(db.sql);
		for (const event of golden.ledger.events)
			await book(db.sql, ines, event as never, { create: { places: true, partners: true } });
		const wrong: string[] = [];
		for (const want of golden.forward) {
			const got = (await forwardAnswer(db.sql, want.root, {}))!;
			wrong.push(...differences(got as never, want).map((d) => `forward ${JSON.stringify(want.root)}: ${d}`));
		}
		for (const want of golden.back) {
			const got = (await backAnswer(db.sql, want.root, {}))!;
			wrong.push(...backDifferences(got as never, want).map((d) => `back ${JSON.stringify(want.root)}: ${d}`));
		}
		expect(wrong).toEqual([]);
	});

	it('holds every invariant', async () => expect(await findingsOf(db.sql)).toEqual([]));
});
