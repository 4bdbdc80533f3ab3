import { z } from 'zod';
import { Problem } from '../../core/problem/problem.ts';
import { id, text } from '../../core/text/input.ts';
import { pool } from '../database/pool.ts';
import { cancelJob, jobLabels, LABELS_LONGEST, reprint } from '../labels/jobs.ts';
import { factGiven, recordFact } from '../ledger/changes.ts';
import { paperKept } from '../outbound/packing.ts';
import { parse } from '../parse.ts';
import { addFile, addNote, attachments, readFile } from '../register/attachments.ts';
import { find } from '../register/find.ts';
import { rebuildInput, rebuildUnit } from '../unit/rebuild.ts';
import { inThread } from '../work/pool.ts';
import type { Call, Operation } from './call.ts';
import { asBooked, booked, doing } from './doing.ts';
import { bytesOf, fileAnswer, fileBody } from './files.ts';
import { NO_ACCESS } from './refusals.ts';

const factBody = factGiven.omit({ mark: true });
const noteBody = z.strictObject({
	text: text(4000, 1, 'Write the note first.', 'A note has at most 4,000 characters.')
});
const NONE = { 404: 'This lot or serial is not known. Look it up in the register.' };
/** The id that a path names. @throws Problem 404 when it is none */
function named(of: string, what: string): string {
	const read = id.safeParse(of);
	if (!read.success) throw new Problem(`There is no ${what} ${of.slice(0, 40)}. Check the number.`, 404);
	return read.data;
}
const findQuery = z.strictObject({ q: text(500, 1, 'Say what is looked for.') });
const asPdf = (kept: { name: string; content: Uint8Array } | null) => kept && { ...kept, type: 'application/pdf' };
/** A call that hands out bytes by their id; files also by what they are. */
const handed = (
	path: string,
	what: string,
	summary: string,
	read: (of: string) => Promise<Parameters<typeof fileAnswer>[0] | null>
): Operation => ({
	...{ method: 'GET', path, summary, right: 'read' },
	answers: {
		200: { says: `The ${what}.`, schema: z.string().describe('The bytes.'), type: 'application/octet-stream' }
	},
	refusals: { 401: NO_ACCESS, 404: `There is no ${what} 17. Check the number.` },
	async run({ params: { id: of } }) {
		const kept = await read(what === 'file' && /^[0-9a-f]{64}$/.test(of) ? of : named(of, what));
		if (!kept) throw new Problem(`There is no ${what} ${of}. Check the number.`, 404);
		return fileAnswer(kept);
	}
});

/** The calls of one lot or serial beside what it is: notes, files, fields, parts; and labels and papers as they were made. */
export const markCalls: readonly Operation[] = [
	doing({
		path: '/api/v1/marks/{id}/notes',
		summary: 'Adds a note to a lot or serial. It stays as it is written.',
		right: 'add notes',
		body: noteBody,
		refused: { ...NONE, 422: 'Write the note first.' },
		run: ({ who, params, body }) =>
			addNote(pool(), who.name, named(params.id, 'lot or serial'), parse(noteBody, body).text)
	}),
	doing({
		path: '/api/v1/marks/{id}/files',
		summary: 'Keeps a file with a lot or serial: a certificate, a picture.',
		right: 'add notes',
		body: fileBody,
		refused: { ...NONE, 422: 'list.txt is no PDF, PNG or JPEG. Save it as one of these.' },
		run: ({ who, params, body }) =>
			addFile(pool(), who.name, named(params.id, 'lot or serial'), bytesOf(parse(fileBody, body)))
	}),
	{
		method: 'GET',
		path: '/api/v1/marks/{id}/notes',
		summary: 'The notes and files of a lot or serial, the last first; at most 200 of each.',
		right: 'read',
		answers: {
			200: {
				says: 'What is kept with it.',
				schema: z.object({
					notes: z.array(z.object({ id: z.string(), text: z.string(), by: z.string(), at: z.string() })),
					files: z.array(
						z.object({
							id: z.string(),
							name: z.string(),
							type: z.string(),
							size: z.number().describe('In bytes.'),
							by: z.string(),
							at: z.string()
						})
					)
				})
			}
		},
		refusals: { 401: NO_ACCESS, 404: 'There is no lot or serial 17. Check the number.' },
		run: async ({ params }) => Response.json(await attachments(pool(), named(params.id, 'lot or serial')))
	},
	doing({
		path: '/api/v1/marks/{id}/facts',
		summary: 'Records an extra field of a lot or serial later than its booking; the old value stays readable.',
		right: 'add notes',
		body: factBody,
		refused: { ...NONE, 422: 'There is no field WIDTH. Add it in Setup, Extra fields.' },
		says: 'Recorded.',
		answers: z.object({ id: z.string() }),
		async run({ who, params, body }) {
			const mark = named(params.id, 'lot or serial');
			const { id: event } = await recordFact(pool(), who, { ...parse(factBody, body), mark });
			return { id: event };
		}
	}),
	doing({
		path: '/api/v1/marks/{id}/parts',
		summary:
			'Takes parts out of a finished unit, puts others in their place, and scraps the rest of it where that is asked.',
		right: 'service units',
		body: rebuildInput,
		refused: { ...NONE, 422: 'Say why, in one line. It is kept in the ledger.' },
		says: 'Booked.',
		answers: booked,
		run: ({ who, params, body }) => asBooked(rebuildUnit(pool(), who, named(params.id, 'lot or serial'), body))
	}),
	{
		method: 'GET',
		path: '/api/v1/find',
		summary:
			'What a typed or scanned text stands for: a lot, a serial, an order, a place; or what it may have been meant as.',
		right: 'read',
		query: findQuery,
		answers: { 200: { says: 'What it is.', schema: z.looseObject({}) } },
		refusals: { 401: NO_ACCESS, 422: 'Say what is looked for.' },
		run: async ({ query }) => Response.json(await find(pool(), parse(findQuery, query).q))
	},
	handed(
		'/api/v1/files/{id}',
		'file',
		'A file that is kept with a lot or serial, by its id; or by its SHA-256.',
		(of) => readFile(pool(), of)
	),
	handed(
		'/api/v1/papers/{id}',
		'paper',
		'A paper as it was printed: a packing list, a delivery note, the terms that were signed.',
		async (of) => asPdf(await paperKept(pool(), of))
	),
	handed('/api/v1/labels/{id}', 'print job', 'The labels of a print job as a PDF, one a page.', async (of) => {
		const found = await jobLabels(pool(), of);
		if (!found) return null;
		const { labels, dpi, label: size } = found;
		const content = await inThread('labels', { labels, dpi, size }, { longest: LABELS_LONGEST });
		return asPdf({ content, name: `labels-${of}.pdf` });
	}),
	doing({
		path: '/api/v1/labels/{id}',
		summary: 'Prints a job once more, as a job of its own that names the first.',
		right: 'print labels',
		refused: { 404: 'There is no print job 17. Reload the page.' },
		says: 'They are on their way to the printer.',
		answers: z.object({ id: z.string(), title: z.string(), size: z.number() }),
		async run({ who, params }: Call) {
			const { id: job, title, size } = await reprint(pool(), who.name, named(params.id, 'print job'));
			return { id: job, title, size };
		}
	}),
	doing({
		method: 'DELETE',
		path: '/api/v1/labels/{id}',
		summary: 'Takes what is not printed yet of a job out of the queue.',
		right: 'print labels',
		refused: { 409: 'That job is printed or cancelled already. Reload the page.' },
		run: ({ params }) => cancelJob(pool(), named(params.id, 'print job'))
	})
];
