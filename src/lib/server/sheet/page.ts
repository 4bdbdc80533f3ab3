import type { RequestEvent } from '@sveltejs/kit';
import { documentKind, type Kind } from '../../core/document/kinds.ts';
import { can } from '../../core/people/can.ts';
import type { Sql } from '../database/connect.ts';
import { page } from '../request.ts';
import { openWays } from '../setup/ways.ts';
import { binsOf } from '../setup/places.ts';
import { sheetState } from './state.ts';

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
