import { randomUUID } from 'node:crypto';
import type { Sql } from '../../src/lib/server/database/connect.ts';
import { isNamed } from '../../src/lib/core/sheet/entered.ts';
import type { Mode } from '../../src/lib/core/sheet/sheet.ts';
import { createDocument } from '../../src/lib/server/document/create.ts';
import { getOrder } from '../../src/lib/server/document/orders.ts';
import { saveRows } from '../../src/lib/server/sheet/drafts.ts';
import { scanInto } from '../../src/lib/server/sheet/scan.ts';
import { bookSheet, sheetState } from '../../src/lib/server/sheet/state.ts';
import { ines } from './cluster.ts';

/** What a person does with the sheets of production orders: makes one, types rows into a line, presses the button. */
export const sheets = (db: { sql: Sql }) => ({
	make: (item: string, qty: string) =>
		createDocument(db.sql, 'ines', { kind: 'production', place: 'QS/A1', lines: [{ item, qty }] }),
	async type(code: string, item: string, ...rows: object[]) {
		const order = (await getOrder(db.sql, code))!;
		const lineId = order.lines.find((l) => l.item === item)!.id;
		await saveRows(
			db.sql,
			'ines',
			order,
			rows.map((data) => ({ id: randomUUID(), lineId, version: 0, data }))
		);
	},
	async bookNow(code: string, mode: Mode = 'both', reason?: string) {
		const { stamp } = await sheetState(db.sql, code, mode);
		return bookSheet(db.sql, ines, code, { key: randomUUID(), stamp, mode, reason });
	}
});

/** What a person books who looks at a sheet: what was named of it, or all that is suggested where nothing was. */
export async function press(sql: Sql, code: string, mode: Mode = 'both', reason?: string) {
	const { stamp, lines } = await sheetState(sql, code, mode);
	const named = isNamed(lines) ? ({ named: true } as const) : {};
	return bookSheet(sql, ines, code, { key: randomUUID(), stamp, mode, reason, ...named });
}

/** Scans into a document's sheet. @returns what it did */
export const takeScan = async (...given: Parameters<typeof scanInto>) => (await scanInto(...given)).scan;
