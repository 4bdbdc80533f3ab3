import { json, type RequestEvent } from '@sveltejs/kit';
import { documentKind, type Kind } from '../../core/document/kinds.ts';
import { can } from '../../core/people/can.ts';
import type { Sql } from '../database/connect.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { allow, answer, body, page } from '../request.ts';
import type { Order } from '../document/orders.ts';
import { openWays } from '../setup/ways.ts';
import { binsOf } from '../setup/places.ts';
import { findOrder, modeOf, sheetState } from './state.ts';

/** A document's own page: its sheet, and what this person may do with it. */
export const documentPage = (sql: Sql, event: RequestEvent, code: string, kind: Kind) =>
	page(event, 'read', async (who) => {
		const sheet = await sheetState(sql, code, 'both', { kind });
		return {
			sheet,
			ways: documentKind(kind).sent ? [...(await openWays(sql))] : [],
			bins: await binsOf(sql, sheet.place),
			may: can(who.role, documentKind(kind).right),
			mayClose: can(who.role, documentKind(kind).create),
			mayUndo: can(who.role, 'undo'),
			mayLose: can(who.role, 'adjust stock')
		};
	});

/**
 * Something that a document's page does, answered with the sheet as it is then. Who may do it the act itself looks at.
 * @param work does it; @returns what was done, in words, where there is more to say than what the sheet shows
 */
export const sheetAct = (
	sql: Sql,
	event: RequestEvent<{ code: string }>,
	work: (who: Actor, order: Order, given: unknown) => Promise<string | void>
) =>
	answer(async () => {
		const who = allow(event, 'read');
		const order = await findOrder(sql, event.params.code);
		const said = await work(who, order, await body(event.request));
		return json({ ...(said ? { said } : {}), state: await sheetState(sql, order.code, modeOf(event.url)) });
	});
