import type { RequestEvent } from '@sveltejs/kit';
import { documentKind, type Kind } from '../../core/document/kinds.ts';
import { can } from '../../core/people/can.ts';
import type { SentSheet } from '../../core/sheet/sent.ts';
import type { SheetState } from '../../core/sheet/sheet.ts';
import type { Sql } from '../database/connect.ts';
import type { Order } from '../document/orders.ts';
import { page } from '../request.ts';
import { openWays } from '../setup/ways.ts';
import { binsOf } from '../setup/places.ts';
import { besideSheet } from './beside.ts';
import { sheetSent } from './sent.ts';
import { modeOf, sheetState } from './state.ts';

/** A document's own page: its sheet, and what this person may do with it. */
export const documentPage = (sql: Sql, event: RequestEvent, code: string, kind: Kind) =>
	page(event, 'read', async (who) => {
		const [sheet, ways] = await Promise.all([
			sheetState(sql, code, 'both', { kind, ahead: true }),
			documentKind(kind).sent ? openWays(sql) : []
		]);
		return {
			sheet: sheetSent(sheet, null),
			ways: [...ways],
			bins: await binsOf(sql, sheet.place),
			may: can(who.role, documentKind(kind).right),
			mayClose: can(who.role, documentKind(kind).create),
			mayUndo: can(who.role, 'undo'),
			mayLose: can(who.role, 'adjust stock')
		};
	});

/**
 * A sheet as an answer gives it: of a long one what is not as the page has it.
 * @param known `order`: as it was read a moment ago; `sheet`: its sheet, where it was built since
 */
export const sheetAnswer = async (
	sql: Sql,
	{ url }: Pick<RequestEvent, 'url'>,
	code: string,
	{ order, sheet }: { order?: Order; sheet?: Omit<SheetState, 'events' | 'scans'> | null } = {}
): Promise<SentSheet> =>
	sheetSent(
		order && sheet
			? { ...sheet, ...(await besideSheet(sql, order)) }
			: await sheetState(sql, code, modeOf(url), { order }),
		url.searchParams.get('known')
	);
