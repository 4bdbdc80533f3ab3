import { documentPath } from '$lib/core/document/kinds';
import { Problem } from '$lib/core/problem/problem';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { undoEvent } from '$lib/server/document/undo';
import { wayShown } from '$lib/server/floor/steps';
import { recordFact, setStatus, setStatusContained } from '$lib/server/ledger/changes';
import { printLabels, printsOf } from '$lib/server/labels/jobs';
import type { Container } from '$lib/server/marks/inside';
import { grouped } from '$lib/core/quantity/sign';
import { allFacts } from '$lib/server/marks/facts';
import { numberSays } from '$lib/server/numbering/patterns';
import { addFile, addNote, attachments, MOST_BYTES } from '$lib/server/register/attachments';
import { markPage } from '$lib/server/register/mark';
import { action, fileAction, idOf, page } from '$lib/server/request';
import { promisesOfMark, releasePromises } from '$lib/server/document/promises';
import type { Actions, PageServerLoad } from './$types';

const gone = () => new Problem('There is no such lot or serial.', 404);
/** The id in the address. @throws Problem 404 when it is none */
const known = ({ params }: { params: { id?: string } }): string => {
	const id = idOf(params.id);
	if (!id) throw gone();
	return id;
};
const keyOf = (typed: Record<string, string>) => typed.key?.slice(0, 100) || crypto.randomUUID();

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const id = known(event);
		const mark = await markPage(pool(), id);
		if (!mark) throw gone();
		const [kept, says, defined, prints, way, promises] = await Promise.all([
			attachments(pool(), id),
			numberSays(pool(), id),
			allFacts(pool()),
			printsOf(pool(), `mark ${id}`),
			mark.kind === 'serial' ? wayShown(pool(), mark.item, mark.number) : null,
			promisesOfMark(pool(), id)
		]);
		return {
			mark,
			...kept,
			says,
			defined: [...defined],
			prints,
			way,
			promises: promises.map((p) => ({ ...p, path: p.kind && documentPath(p.kind, p.to) })),
			mayRelease: can(who.role, 'book outbound'),
			// A unit keeps a run of its own for its whole life.
			isUnit: mark.unitRun !== null,
			repackable: mark.kind === 'lot' && mark.holds && can(who.role, 'book production'),
			mayAdjust: can(who.role, 'adjust stock'),
			mayTakeBack: can(who.role, 'book inbound'),
			maySendBack: can(who.role, 'book outbound'),
			mayNote: can(who.role, 'add notes'),
			mayHold: can(who.role, 'hold'),
			mayCorrect: can(who.role, 'correct numbers'),
			mayUndo: can(who.role, 'undo'),
			mayPrint: can(who.role, 'print labels')
		};
	});

export const actions: Actions = {
	release: action('book outbound', async ({ who, typed, event }) => {
		known(event);
		await releasePromises(pool(), who, [typed.promise ?? '']);
		return { said: 'Released: it is free again.' };
	}),
	note: action('add notes', async ({ who, typed, event }) => {
		await addNote(pool(), who.name, known(event), typed.text);
		return { said: 'The note is kept.' };
	}),
	file: fileAction('add notes', MOST_BYTES, async ({ who, file, event }) => {
		await addFile(pool(), who.name, known(event), file);
		return { said: `${file.name} is kept.` };
	}),
	undo: action('undo', async ({ who, typed, event }) => {
		known(event);
		const input = { undo: idOf(typed.undo) ?? '0', key: keyOf(typed), reason: typed.reason?.trim() ?? '' };
		if (!input.reason) throw new Problem([{ message: 'Say why, in one line.', at: 'reason' }]);
		await undoEvent(pool(), who, input);
		return { said: 'Undone: what it booked or changed is taken back.' };
	}),
	fact: action('add notes', async ({ who, typed, event }) => {
		const { code = '', value = '', reason = '' } = typed;
		await recordFact(pool(), who, { key: keyOf(typed), mark: known(event), code, value, reason });
		return { said: `Saved. It stands in its history.` };
	}),
	label: action('print labels', async ({ who, typed, event }) => {
		const { symbol, dpi, copies, size } = typed;
		const job = await printLabels(pool(), who.name, { marks: [known(event)], symbol, dpi, copies, size });
		return {
			said:
				job.printed === job.size
					? `Printed, as job ${job.id}.`
					: `Sent as job ${job.id}; it waits for the printer. See Devices.`
		};
	}),
	status: action('hold', async ({ who, typed, event }) => {
		const given = { key: keyOf(typed), act: typed.kind, mark: known(event), reason: typed.reason ?? '' };
		if (!typed.contained) {
			await setStatus(pool(), who, given);
			return { said: `Saved. It stands in its history.` };
		}
		const { changed, gone } = await setStatusContained(pool(), who, given);
		const list = (all: Container[]) =>
			`${all
				.slice(0, 20)
				.map((c) => c.number)
				.join(', ')}${all.length > 20 ? ` and ${grouped(all.length - 20)} more` : ''}`;
		const count = (all: Container[]) => `${grouped(all.length)} ${all.length === 1 ? 'number' : 'numbers'}`;
		return {
			said: `Saved of ${count(changed)}: ${list(changed)}.${gone.length ? ` Gone, and unchanged, ${count(gone)}: ${list(gone)}. Trace forward says who has them.` : ''}`
		};
	})
};
