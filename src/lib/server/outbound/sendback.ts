import type { Db } from '../database/connect.ts';
import { liesAt, marksCalled, unknownNumber } from '../marks/called.ts';
import { onHand } from '../marks/onhand.ts';
import type { Builder, Built, BuildInput } from '../sheet/build.ts';
import { pickMoves } from '../sheet/picks.ts';
import { allThere, ANY, takenLines, type TakingWords } from '../sheet/taken.ts';

const WORDS: TakingWords = {
	...{ are: 'go back', asked: 'were to', less: 'name less', can: 'are there' },
	short: (l, short) => (l.carries === 'none' ? null : `${short} not named yet: scan it, or choose from what is there`)
};

/** What goes back to a supplier, whatever its state. Which number it is nobody can suggest. */
async function buildSendBack(sql: Db, given: BuildInput): Promise<Built> {
	const { order, drafts } = given;
	const { lines, said } = await takenLines(sql, given, await allThere(sql, order), () => ANY, WORDS, {
		suggests: (s) => s.kind === 'unmarked'
	});
	const moves = lines.flatMap((line) => pickMoves(line, '@supplier'));
	return {
		...{ lines, said, kind: 'supplier return', runs: [], moves },
		enough: moves.length > 0,
		used: drafts.map((d) => d.id)
	};
}

/** Returns to suppliers. */
export const sendBacks: Builder = {
	build: buildSendBack,
	async partnerOf(sql, mark) {
		const [them] = await sql<{ code: string }[]>`
			SELECT q.code FROM mark k JOIN effective_movement m ON m.mark_id IN (k.id, k.parent_id) JOIN place f ON f.id = m.from_place AND f.code = '@supplier'
			JOIN event e ON e.id = m.event_id JOIN partner q ON q.id = e.partner_id WHERE k.id = ${mark} ORDER BY m.at DESC LIMIT 1`;
		return them?.code ?? null;
	},
	async takes(sql, order, _mode, asked) {
		if (!('number' in asked)) return { stock: await allThere(sql, order), any: true, missing: async () => null };
		// By its number it is found whether or not its item has a line yet.
		const named = await marksCalled(sql, asked.number, asked.gtin);
		const site = order.place?.split('/')[0] ?? null;
		const there = await onHand(
			sql,
			named.map((n) => n.itemId),
			order.id,
			{ site, marks: named.map((n) => n.id) }
		);
		const stock = there.filter((s) => !s.transit);
		return {
			stock,
			any: true,
			exact: true,
			missing: (number) =>
				notHere(
					sql,
					number,
					named.map((n) => n.id),
					site
				)
		};
	}
};

async function notHere(sql: Db, number: string, marks: readonly string[], site: string | null): Promise<string> {
	if (!marks.length) return unknownNumber(sql, number);
	const at = await liesAt(sql, marks);
	if (!at) return `${number} is not on hand, so it cannot go back. Look at its page for where it went.`;
	return at.transit
		? `${number} is in transit. Receive its transfer first.`
		: `${number} is at ${at.place}, and this return takes from ${site}. Make one for that site.`;
}
