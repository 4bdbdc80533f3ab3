import type { Sql } from '../database/connect.ts';
import { findNumber } from '../../core/checks/movements.ts';
import { sentence } from '../../core/checks/check.ts';
import type { Actor } from '../../core/ledger/input.ts';
import type { Mark } from '../../core/ledger/line.ts';
import { Problem } from '../../core/problem/problem.ts';
import { append, type AppendOptions, type Booked } from './append.ts';
import { catalogueOf } from './catalogue.ts';
import { loadNumbers } from './world.ts';

/**
 * Makes a serial known before there is a piece of it: work on it begins. An event that moves nothing, so nothing is in
 * stock by it; the number is looked at like every new one.
 * @param item code of an item that carries serials, known to be there
 * @returns what was booked; `made` is told the id of the new serial, in the same transaction
 * @throws Problem when the number may not be given
 */
export async function beginSerial(
	sql: Sql,
	actor: Actor,
	given: { key: string; at: string; item: string; serial: string; document?: string | null; order?: string | null },
	made: (tx: Parameters<NonNullable<AppendOptions['after']>>[0], mark: string) => Promise<void>
): Promise<Booked> {
	const { item: code, serial, ...occasion } = given;
	let mark = '';
	return append(
		sql,
		actor,
		{ ...occasion, kind: 'begin' },
		async (tx, draw) => {
			const known = await catalogueOf(tx).readNow(tx, {
				items: [code],
				places: [],
				facts: [],
				partners: [],
				job: null
			});
			const item = known.items.get(code)!;
			const fresh = { id: '-1', item_id: item.id, kind: 'serial', lot_no: null, serial_no: serial } as Mark;
			const world = { policy: known.policy, ...(await loadNumbers(tx, [fresh])) };
			const stops = findNumber({ item, about: { kind: 'serial', number: serial }, world, line: -1 }).filter(
				(f) => f.level === 'stop' || f.level === 'reason'
			);
			if (stops.length) throw new Problem(stops.map((f) => ({ message: sentence(f), at: 'serial', code: f.code })));
			const event = await draw();
			const [row] = await tx<{ id: string }[]>`
				INSERT INTO mark (item_id, kind, serial_no, event_id, lookalike) VALUES (${item.id}, 'serial', ${serial}, ${event}, ${fresh.lookalikes ?? 0}) RETURNING id`;
			mark = row.id;
			return { movements: 0 };
		},
		{ request: given, after: (tx) => made(tx, mark) }
	);
}
