import { unread } from '../../core/checks/catalogue.ts';
import { parseQty } from '../../core/quantity/quantity.ts';
import type { SheetLine } from '../../core/sheet/sheet.ts';
import type { OrderLine } from '../document/orders.ts';
import type { DraftRow } from './drafts.ts';
import { atLine, type SheetFinding } from './lines.ts';

/** How much of a line goes now: what is open, or what was typed; a quantity that cannot be read is kept and said. */
export function quantityNow(line: SheetLine, l: OrderLine, drafts: readonly DraftRow[], said: SheetFinding[]): string {
	const row = drafts.find((d) => d.lineId === l.id && d.data.now !== undefined);
	if (!row) return line.open;
	line.now = { id: row.id, version: row.version, qty: row.data.now! };
	const q = row.data.now === '0' ? { qty: '0' } : parseQty(row.data.now!, l.decimals, l.unit);
	if ('qty' in q) return q.qty;
	said.push(atLine(line, unread, { problem: q.problem }));
	return line.open;
}
