import { z } from 'zod';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import { faultFrom } from '../../core/checks/check.ts';
import { noSuch, closedJob } from '../../core/checks/catalogue.ts';
import { DOCUMENT_NAMES, documentKind, type Kind, type LineRole, type ReasonAct } from '../../core/document/kinds.ts';
import { parseDay, type Day } from '../../core/dates/dates.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { add, mul, parseQty, roundUp } from '../../core/quantity/quantity.ts';
import type { Tracking } from '../../core/marking/rule.ts';
import { duration, line, text } from '../../core/text/input.ts';
import { drawAtRelease } from '../numbering/released.ts';
import { parse } from '../parse.ts';

/** Pages that stand where the documents of a kind do: no document is called like one. */
const PAGES = [
	'new',
	'invoices',
	...DOCUMENT_NAMES.flatMap((k) => {
		const { path } = documentKind(k);
		return DOCUMENT_NAMES.some((other) => path.startsWith(documentKind(other).path + '/'))
			? [path.split('/').pop()!]
			: [];
	})
].filter((p, n, all) => all.indexOf(p) === n);
/** The most lines of one document. */
export const MOST_LINES = 500;
const code = line(60, 1, 'Type an order number.', 'An order number has at most 60 characters.').refine(
	(t) => /^[^\s/?#%]+$/u.test(t) && !PAGES.includes(t),
	`An order number has no blanks and none of / ? # %, and is not ${PAGES.map((p) => `“${p}”`).join(', ')}.`
);
/** A document as a screen, a file or a program gives it. */
export const documentInput = z.strictObject({
	code: code.nullish(),
	kind: z.enum(DOCUMENT_NAMES),
	partner: line(60, 0).nullish(),
	job: line(60, 0).nullish(),
	place: line(45, 0).nullish(),
	/** where it goes to, of a transfer */
	to: line(45, 0).nullish(),
	/** why, of an adjustment: by the name it has in the firm's list */
	reason: line(100, 0).nullish(),
	dueOn: line(40, 0).nullish(),
	note: text(1000, 0, undefined, 'A note has at most 1,000 characters.').nullish(),
	/** what stations put together for it waits for a review */
	review: z.boolean().nullish(),
	/** how it is sent */
	way: line(20, 0).nullish(),
	/** of a delivery: what comes stays the property of the one who brings it */
	theirs: z.boolean().nullish(),
	/** the item that goes in: what is repacked, or the item itself where it is reworked */
	from: line(60, 0).nullish(),
	lines: z
		.array(
			z.strictObject({
				item: line(60, 1, 'Name the item.', 'An item’s code has at most 60 characters.'),
				qty: z.string().max(40, 'A quantity has at most 40 characters.'),
				/** the customer that it is bought for, to whom it is promised as it arrives */
				for: line(60, 0).nullish(),
				/** of what is sold: a warranty other than the item's, and the price as it is written */
				warranty: duration.nullish(),
				price: line(40, 0).nullish()
			})
		)
		.max(MOST_LINES)
});
/** The same before what was left out is filled in. */
export type DocumentInput = z.input<typeof documentInput>;
type Parsed = z.output<typeof documentInput>;

/**
 * Makes a document. Where its kind has a parts list, that of its one line becomes the component lines.
 * @param also what else belongs to it, in the same transaction, by its id
 * @returns its code
 * @throws Problem naming each faulty field
 */
export const createDocument = async (
	sql: Sql,
	by: string,
	input: unknown,
	also?: (tx: Tx, id: string) => Promise<unknown>
): Promise<string> => (await createDocuments(sql, by, [input], also))[0];

/**
 * Makes several documents: all of them, or none.
 * @returns their codes
 * @throws Problem naming each faulty field, as of one
 */
export async function createDocuments(
	sql: Sql,
	by: string,
	inputs: readonly unknown[],
	also?: (tx: Tx, id: string) => Promise<unknown>
): Promise<string[]> {
	const given = inputs.map((input) => parse(documentInput, input));
	return transaction(sql, async (tx) => {
		const known = await lookUp(tx, given);
		const checked = given.map((g) => checkDocument(g, known));
		const faults = checked.flatMap((c) => c.faults);
		if (faults.length) throw new Problem(faults);
		const codes: string[] = [];
		for (const g of given) codes.push(g.code || (await nextCode(tx, g.kind)));
		const made = await insertDocuments(
			tx,
			by,
			checked.map(({ faults: _faults, ...ready }, n) => ({ ...ready, code: codes[n] }))
		);
		if (also) for (const { id } of made) await also(tx, id);
		return codes;
	});
}

/** The next number of a kind that no document has. */
async function nextCode(tx: Db, kind: Kind): Promise<string> {
	const { prefix } = documentKind(kind);
	const [{ next }] = await tx<{ next: string }[]>`
		WITH RECURSIVE tried(next) AS (
			SELECT ${prefix}::text || '-' || lpad(nextval('order_number')::text, 4, '0')
			UNION ALL SELECT ${prefix}::text || '-' || lpad(nextval('order_number')::text, 4, '0') FROM tried
				WHERE EXISTS (SELECT 1 FROM orders o WHERE o.code = tried.next))
		SELECT next FROM tried WHERE NOT EXISTS (SELECT 1 FROM orders o WHERE o.code = tried.next) LIMIT 1`;
	return next;
}

/** An item as far as a document of it can be made. */
export interface KnownItem {
	id: string;
	code: string;
	unit: string;
	decimals: number;
	tracking: Tracking;
	runMode: 'pooled' | 'unit';
	content: { qty: string; unit: string } | null;
	parts: { id: string; qty: string }[];
	/** what comes out beside one of it */
	byproducts: { id: string; qty: string }[];
}
/** What documents name, found: a fixed number of statements for any number of documents. */
export interface Known {
	items: Map<string, KnownItem>;
	codes: Set<string>;
	partners: Set<string>;
	places: Set<string>;
	jobs: Map<string, { closed: boolean; partner: string | null }>;
	/** ways of delivery that are open */
	ways: Set<string>;
	/** reasons that are open, with what each is for */
	reasons: Map<string, ReasonAct>;
}
/** Looks up everything that some documents name. */
export async function lookUp(tx: Db, documents: readonly Parsed[]): Promise<Known> {
	const codesOf = (read: (d: Parsed) => (string | null | undefined)[]) => [
		...new Set(documents.flatMap(read).flatMap((c) => c || []))
	];
	const [items, codes, partners, places, jobs, ways, reasons] = await Promise.all([
		tx<KnownItem[]>`
			SELECT i.id, i.code, i.unit, i.decimals, i.tracking, i.run_mode AS "runMode",
				CASE WHEN i.content_qty IS NOT NULL THEN json_build_object('qty', trim_scale(i.content_qty)::text, 'unit', i.content_unit) END AS content, coalesce((SELECT json_agg(json_build_object('id', p.part_item_id::text, 'qty', trim_scale(p.qty)::text) ORDER BY x.code)
				FROM part p JOIN item x ON x.id = p.part_item_id WHERE p.item_id = i.id), '[]') AS parts,
				coalesce((SELECT json_agg(json_build_object('id', p.out_item_id::text, 'qty', trim_scale(p.qty)::text) ORDER BY x.code)
				FROM byproduct p JOIN item x ON x.id = p.out_item_id WHERE p.item_id = i.id), '[]') AS byproducts
			FROM item i WHERE i.code = ANY(${codesOf((d) => [d.from, ...d.lines.map((l) => l.item)])})`,
		tx<{ code: string }[]>`SELECT code FROM orders WHERE code = ANY(${codesOf((d) => [d.code])})`,
		tx<
			{ code: string }[]
		>`SELECT code FROM partner WHERE code = ANY(${codesOf((d) => [d.partner, ...d.lines.map((l) => l.for)])})`,
		tx<
			{ code: string }[]
		>`SELECT code FROM place WHERE NOT virtual AND NOT transit AND code = ANY(${codesOf((d) => [d.place, d.to])})`,
		tx<{ code: string; closed: boolean; partner: string | null }[]>`
			SELECT j.code, j.closed_on IS NOT NULL AS closed, p.code AS partner FROM job j LEFT JOIN partner p ON p.id = j.partner_id WHERE j.code = ANY(${codesOf((d) => [d.job])})`,
		tx<
			{ code: string }[]
		>`SELECT code FROM delivery_way WHERE closed_on IS NULL AND code = ANY(${codesOf((d) => [d.way])})`,
		tx<
			{ name: string; act: ReasonAct }[]
		>`SELECT name, act FROM reason WHERE closed_on IS NULL AND name = ANY(${codesOf((d) => [d.reason])})`
	]);
	return {
		items: new Map(items.map((i) => [i.code, i])),
		codes: new Set(codes.map((c) => c.code)),
		partners: new Set(partners.map((p) => p.code)),
		places: new Set(places.map((p) => p.code)),
		jobs: new Map(jobs.map((j) => [j.code, j])),
		ways: new Set(ways.map((w) => w.code)),
		reasons: new Map(reasons.map((r) => [r.name, r.act]))
	};
}

/** A document as it will be written. */
export interface Ready {
	kind: Kind;
	partner: string | null;
	job: string | null;
	place: string | null;
	to: string | null;
	reason: string | null;
	dueOn: Day | null;
	note: string;
	review: boolean;
	way: string | null;
	theirs: boolean;
	lines: {
		itemId: string;
		qty: string;
		role: LineRole;
		for?: string | null;
		warranty?: string | null;
		price?: string | null;
	}[];
}
/** What is wrong with a document, by what its kind's row asks; and the document as it will be written. */
export function checkDocument(given: Parsed, known: Known): Ready & { faults: Fault[] } {
	const kind = documentKind(given.kind);
	const faults: Fault[] = [];
	const fault = (message: string, at: string) => void faults.push({ message, at, code: 'document' });
	const name = (what: 'item' | 'partner' | 'place' | 'job', c: string, at: string) =>
		void faults.push(faultFrom(noSuch, { what, code: c }, at));
	const lines = given.lines.flatMap((l, n): Ready['lines'] => {
		const at = `line ${n + 1}`;
		const item = known.items.get(l.item);
		if (!item) return (name('item', l.item, at), []);
		const q = parseQty(l.qty, item.decimals, item.unit);
		if ('problem' in q) return (fault(`${l.item}: ${q.problem}`, at), []);
		if (l.for && !kind.fromSupplier) fault('Only what is bought is bought for a customer. Leave it out.', at);
		else if (l.for && !known.partners.has(l.for)) name('partner', l.for, at);
		if ((l.warranty || l.price) && !kind.sells)
			fault('Only what is sold has a warranty and a price of its own here. Leave them out.', at);
		if (kind.line.inputs !== 'parts list') {
			const { for: customer, warranty, price } = l;
			return [{ itemId: item.id, qty: q.qty, role: kind.line.role, for: customer || null, warranty, price }];
		}
		if (!given.from && !item.parts.length)
			fault(`${l.item} has no parts list. Add one in Setup before it is made.`, at);
		const parts = given.from ? [{ id: item.id, qty: '1' }] : item.parts;
		const beside = given.from ? [] : item.byproducts;
		return [
			{ itemId: item.id, qty: q.qty, role: kind.line.role },
			...beside.map((p) => ({ itemId: p.id, qty: mul(p.qty, q.qty), role: 'byproduct' as const })),
			...parts.map((p) => ({ itemId: p.id, qty: mul(p.qty, q.qty), role: 'component' as const }))
		];
	});
	const from = given.from ? known.items.get(given.from) : undefined;
	if (given.from && !from) name('item', given.from, 'from');
	else if (kind.line.inputs === 'content' && !from) fault('Choose what is repacked.', 'from');
	else if (from && kind.line.inputs === 'content') {
		const input = inputOfContent(from, given.lines, lines, known, fault);
		if (input) lines.unshift({ itemId: from.id, qty: input, role: 'component' });
	} else if (from && kind.line.inputs === 'parts list') {
		if (given.lines.some((l) => l.item !== from.code))
			fault('What is reworked goes in and comes out as the same item. Choose one item.', 'from');
		if (from.runMode === 'unit' || !from.tracking.includes('lot'))
			fault(
				`${from.code} ${from.tracking.includes('serial') ? 'has serials: replace its parts, or take it apart, on the page of the serial' : 'carries no lots, and only a lot is reworked'}.`,
				'from'
			);
	} else if (from) fault(`Nothing goes into a ${kind.name}. Leave the item out.`, 'from');
	if (!given.lines.length && kind.lines === 'written') fault('An order needs at least one line.', 'lines');
	if (given.lines.length && kind.lines === 'none')
		fault(`A ${kind.name} has no lines. Make it on its own page: it asks where, and of what.`, 'line 1');
	if (!kind.line.several && given.lines.length > 1)
		fault(`A ${kind.name} makes one item. Make one for each.`, 'line 2');
	let dueOn: Day | null = null;
	if (given.dueOn) {
		const d = parseDay(given.dueOn);
		if ('day' in d) dueOn = d.day;
		else fault(d.problem, 'dueOn');
	}
	if (given.code && known.codes.has(given.code))
		fault(`Order ${given.code} is there already. Open it, or take another number.`, 'code');
	if (given.partner && !known.partners.has(given.partner)) name('partner', given.partner, 'partner');
	else if (!given.partner && kind.partner && !kind.partner.optional)
		fault(`Choose the ${kind.partner.label.toLowerCase()}.`, 'partner');
	const job = given.job ? known.jobs.get(given.job) : undefined;
	if (given.job && !job) name('job', given.job, 'job');
	else if (job?.closed) faults.push(faultFrom(closedJob, { job: given.job! }, 'job'));
	else if (!given.job && kind.job) fault('Choose the job.', 'job');
	if (given.place && !known.places.has(given.place)) name('place', given.place, 'place');
	else if (!given.place && kind.place.needed)
		fault(
			kind.area === 'stock' ? 'Choose the place where it was found.' : 'Choose the place where it arrives.',
			'place'
		);
	if (given.to && !kind.to) fault('Only a transfer goes to a place of ours. Leave it out.', 'to');
	else if (given.to && !known.places.has(given.to)) name('place', given.to, 'to');
	else if (!given.to && kind.to) fault('Choose where it goes.', 'to');
	else if (given.to && given.place && given.to.split('/')[0] === given.place.split('/')[0])
		fault(`${given.to} is at ${given.place}, where it comes from. Move it in Stock, or choose another site.`, 'to');
	const act = known.reasons.get(given.reason ?? '');
	if (given.reason && !kind.reasons)
		fault('Only adjustments and returns have a reason of the list. Leave it out.', 'reason');
	else if (kind.reasons && !given.reason) fault('Choose the reason.', 'reason');
	else if (kind.reasons && !(act && kind.reasons.includes(act)))
		fault(
			act
				? `“${given.reason}” is a reason to ${act}. Choose one that fits: ${kind.name}.`
				: `There is no open reason “${given.reason}”. Choose another, or add it in Setup, Reasons.`,
			'reason'
		);
	if (given.way && kind.sent && !known.ways.has(given.way))
		fault(`There is no open way of delivery ${given.way}. Add it in Setup, Ways of delivery.`, 'way');
	if (given.theirs && !kind.fromSupplier)
		fault('Only what is delivered to us may stay somebody else’s. Leave it out.', 'theirs');
	given.lines.forEach((l, n) => {
		if (given.theirs && l.for)
			fault(
				'What stays theirs is not bought for anybody. Leave the customer out, or say that it is ours.',
				`line ${n + 1}`
			);
	});
	return {
		faults,
		kind: given.kind,
		// A job's customer is the document's.
		partner: given.partner || job?.partner || null,
		job: given.job || null,
		place: given.place || null,
		to: given.to || null,
		reason: given.reason || null,
		dueOn,
		note: given.note ?? '',
		review: given.review ?? false,
		way: (kind.sent && given.way) || null,
		theirs: given.theirs ?? false,
		lines
	};
}

/**
 * How much has to go in for what comes out of a repacking: its content, in whole packs of what goes in.
 * @returns null when something is wrong, which is said
 */
function inputOfContent(
	from: KnownItem,
	given: Parsed['lines'],
	lines: Ready['lines'],
	known: Known,
	fault: (message: string, at: string) => void
): string | null {
	const { content } = from;
	if (!content) {
		fault(
			`${from.code} does not say how much it holds. Set its content in Setup, Items, before it is repacked.`,
			'from'
		);
		return null;
	}
	let wanted = '0';
	for (const [n, l] of given.entries()) {
		const item = known.items.get(l.item);
		if (!item) continue;
		const at = `line ${n + 1}`;
		const { tracking } = item;
		if (tracking.includes('serial'))
			fault(
				`${l.item} carries serials; goods are repacked into what carries lots or nothing. Choose another item.`,
				at
			);
		else if (item.id === from.id) fault(`${l.item} is what goes in. Choose what it is packed into.`, at);
		else if (given.findIndex((x) => x.item === l.item) < n)
			fault(`${l.item} stands here twice. Put it in one line.`, at);
		else if (item.content?.unit !== content.unit)
			fault(
				`${l.item} ${item.content ? `holds ${item.content.unit}, and ${from.code} holds ${content.unit}` : 'does not say how much it holds'}. Set the content of both in Setup, Items.`,
				at
			);
		else {
			const line = lines.find((x) => x.itemId === item.id);
			if (line) wanted = add(wanted, mul(line.qty, item.content.qty));
		}
	}
	return wanted === '0' ? null : roundUp(wanted, content.qty, from.decimals);
}

/** Writes documents with their lines, and draws the numbers that wait for them. */
export async function insertDocuments(
	tx: Db,
	by: string,
	documents: readonly (Ready & { code: string })[]
): Promise<{ id: string; code: string }[]> {
	if (!documents.length) return [];
	const made = await tx<{ id: string; code: string }[]>`
		INSERT INTO orders (code, kind, partner_id, job_id, place_id, to_place_id, reason_id, due_on, note, review, way_id, theirs, created_by)
		SELECT n.code, n.kind, p.id, j.id, l.id, t.id, a.id, n.due, n.note, n.review::boolean, w.id, n.theirs::boolean, ${by}::text FROM unnest(${documents.map((d) => d.code)}::text[], ${documents.map((d) => d.kind)}::text[],
			${documents.map((d) => d.partner)}::text[], ${documents.map((d) => d.job)}::text[], ${documents.map((d) => d.place)}::text[], ${documents.map((d) => d.to)}::text[],
			${documents.map((d) => d.dueOn)}::date[], ${documents.map((d) => d.note)}::text[], ${documents.map((d) => String(d.review))}::text[], ${documents.map((d) => d.way)}::text[], ${documents.map((d) => d.reason)}::text[],
			${documents.map((d) => String(d.theirs))}::text[]) n(code, kind, partner, job, place, destination, due, note, review, way, reason, theirs)
		LEFT JOIN partner p ON p.code = n.partner LEFT JOIN job j ON j.code = n.job LEFT JOIN place l ON l.code = n.place LEFT JOIN place t ON t.code = n.destination LEFT JOIN delivery_way w ON w.code = n.way LEFT JOIN reason a ON a.name = n.reason
		RETURNING id, code`;
	const ids = new Map(made.map((m) => [m.code, m.id]));
	const lines = documents.flatMap((d) => d.lines.map((l, i) => ({ ...l, no: i + 1, order: ids.get(d.code)! })));
	await tx`INSERT INTO order_line (order_id, no, role, item_id, qty, for_partner_id, warranty, price)
		SELECT n.order_id, n.no, n.role, n.item, n.qty, p.id, n.warranty, n.price FROM unnest(${lines.map((l) => l.order)}::bigint[], ${lines.map((l) => l.no)}::int[], ${lines.map((l) => l.role)}::text[],
			${lines.map((l) => l.itemId)}::bigint[], ${lines.map((l) => l.qty)}::numeric[], ${lines.map((l) => l.for ?? null)}::text[],
			${lines.map((l) => l.warranty || null)}::text[], ${lines.map((l) => l.price ?? '')}::text[]) n(order_id, no, role, item, qty, "for", warranty, price)
		LEFT JOIN partner p ON p.code = n.for ORDER BY n.order_id, n.no`;
	const todos = documents.flatMap((d) =>
		(documentKind(d.kind).todo ?? []).map((what) => ({ what, order: ids.get(d.code)! }))
	);
	if (todos.length)
		await tx`INSERT INTO todo (order_id, what, made_by) SELECT n.*, ${by}::text FROM unnest(${todos.map((t) => t.order)}::bigint[], ${todos.map((t) => t.what)}::text[]) n`;
	await drawAtRelease(
		tx,
		by,
		documents.filter((d) => documentKind(d.kind).drawn).map((d) => ids.get(d.code)!)
	);
	return made;
}
