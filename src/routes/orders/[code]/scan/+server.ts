import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { documentKind } from '$lib/core/document/kinds';
import { pool } from '$lib/server/database/pool';
import { parse } from '$lib/server/parse';
import { allow, answer, body } from '$lib/server/request';
import { scanInto, undoScan } from '$lib/server/sheet/scan';
import { sheetAnswer } from '$lib/server/sheet/page';
import { sheetPart } from '$lib/server/sheet/part';
import { findOpenOrder, modeOf } from '$lib/server/sheet/state';
import type { RequestHandler } from './$types';

const undoInput = z.strictObject({ undo: z.uuid() });

/** A scan on a document: taken into its sheet or refused with a sentence, and logged either way. Or taken back. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const given = await body(event.request);
		const order = await findOpenOrder(pool(), event.params.code);
		const who = allow(event, documentKind(order.kind).right);
		const undo = given && typeof given === 'object' && 'undo' in given ? parse(undoInput, given).undo : null;
		if (undo) await undoScan(pool(), who.name, order, undo);
		const done = undo ? null : await scanInto(pool(), who.name, order, given, modeOf(event.url));
		const scan = done?.scan ?? null;
		// Of a long sheet what the scan was about; all of it where that was more than one row, or a line of its own.
		const part =
			event.url.searchParams.has('part') && scan && !scan.added && documentKind(order.kind).lines !== 'scanned';
		return json({
			scan,
			...(part
				? { part: await sheetPart(pool(), order, scan.changed ? [scan.changed] : []) }
				: { state: await sheetAnswer(pool(), event, order.code, done?.sheet ? { order, sheet: done.sheet } : {}) })
		});
	});
