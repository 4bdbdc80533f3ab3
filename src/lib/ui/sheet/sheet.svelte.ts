import { invalidate } from '$app/navigation';
import type { Facts } from '$lib/core/facts/fact';
import type { Fault } from '$lib/core/problem/problem';
import { group } from '$lib/core/group/group';
import { isSome, total } from '$lib/core/quantity/quantity';
import type { Stroke } from '$lib/core/sheet/ink';
import { headsOf, received, withPart, type SentSheet, type SheetPart } from '$lib/core/sheet/sent';
import {
	promisedTo,
	type Cell,
	type Mode,
	type PickRow,
	type SheetLine,
	type SheetRow,
	type SheetState
} from '$lib/core/sheet/sheet';

export type Data = Record<string, string | number | boolean | Facts | undefined>;
/** What one act did to rows of the sheet; a row that was not there, or is not any more, is null. */
interface Step {
	rows: { id: string; lineId: string; before: Data | null; after: Data | null }[];
	/** the scan that did it: the server takes it back */
	scan?: string;
}
export interface Taken {
	taken: boolean;
	said: string;
	hold?: { lineId: string; lot: string; expiresOn?: string };
	/** rows that a pallet's code entered */
	added?: string[];
	/** the row that it made or changed */
	changed?: string;
}
interface Change {
	id: string;
	lineId: string;
	data: Data;
	version: number;
}

/** How long after the last change to a long sheet all of it is checked, in ms. */
const CHECKED_AFTER = 400;
/** How long it may be put off by one change after another, in ms. */
const CHECKED_BY = 3000;

/**
 * The sheet of one order in the browser. The server holds it; every change goes there at once, and waits in this
 * browser's own store while the server cannot be reached or the session has ended, so that nothing typed is lost.
 */
export class Sheet {
	// Replaced as a whole, never changed in part: ten thousand rows are not watched one by one.
	state: SheetState = $state.raw()!;
	mode: Mode = $state('both');
	faults: Fault[] = $state([]);
	notice = $state('');
	/** why changes wait, in words; empty when all are saved */
	waiting = $state('');
	signedOut = $state(false);
	busy = $state(false);
	/** something was changed in a long sheet, and all of it is not checked again yet */
	checking = $state(false);
	private key: string = crypto.randomUUID();
	/** names this page to the server: what it changed itself is not signalled back to it */
	private readonly page: string = crypto.randomUUID();
	/** what the last call gave back besides the sheet */
	private answer: { added?: string[]; scan?: Taken } = {};
	private done: Step[] = $state([]);
	private undone: Step[] = $state([]);
	private sending: Promise<unknown> = Promise.resolve();
	/** the sheet as the server last told it, and what that is called there */
	private told: SheetState;
	private is: string | null;
	/** what was changed since, of a long sheet, numbered through */
	private parts: { no: number; part: SheetPart }[] = [];
	private changes = 0;
	private check: Promise<unknown> = Promise.resolve();
	private checkSoon: ReturnType<typeof setTimeout> | undefined;
	/** when it is checked at the latest, however fast others scan */
	private checkBy = 0;

	/**
	 * @param may may this person enter and book here?
	 * @param online a scan that cannot be sent is refused, not kept for later
	 */
	constructor(
		private readonly sent: SentSheet,
		mode: (s: SheetState) => Mode = () => 'both',
		private readonly may: () => boolean = () => true,
		private readonly online = false
	) {
		// Ten thousand rows are read in the browser alone: the server has no use for them.
		this.state = this.told = sent.state.long ? headsOf(sent) : received(sent, null);
		this.is = sent.is;
		this.mode = mode(this.state);
		this.checking = !this.state.checked;
	}
	/** Nothing is entered here any more, or not by this person. */
	get shut(): boolean {
		return !this.may() || !!this.state.closedAt;
	}
	private url = (part: string) => `/orders/${encodeURIComponent(this.state.code)}/${part}?mode=${this.mode}`;
	private get store() {
		return `earmark unsaved ${this.state.code}`;
	}

	/** Follows what others do in the same order; sends what waited. @returns how to stop */
	connect(): () => void {
		if (this.state.long) this.state = this.told = received(this.sent, null);
		const live = new EventSource(`/orders/${encodeURIComponent(this.state.code)}/live`);
		live.onmessage = (e) => {
			if (e.data === this.page) return;
			if (this.state.long) this.checkBehind();
			else void this.load();
		};
		const again = () => void this.resend();
		addEventListener('focus', again);
		addEventListener('online', again);
		const timer = setInterval(again, 5000);
		again();
		if (this.checking) void this.checkNext();
		return () => {
			live.close();
			removeEventListener('focus', again);
			removeEventListener('online', again);
			clearInterval(timer);
			clearTimeout(this.checkSoon);
		};
	}

	private async call(method: string, body?: unknown, part = 'sheet', quiet = false): Promise<boolean> {
		// Of a long sheet a change is answered by itself; whatever brings the whole waits for a check that is under way.
		const alone = this.state.long && (method === 'DELETE' || method === 'PUT' || part === 'scan');
		if (!alone) await this.check;
		const begun = this.changes;
		let answer: Response;
		try {
			const wants = `${quiet ? '&quiet=1' : ''}${alone ? '&part=1' : ''}${this.is ? `&known=${this.is}` : ''}`;
			answer = await fetch(this.url(part) + wants, {
				method,
				headers: { accept: 'application/json', 'content-type': 'application/json', 'x-earmark-page': this.page },
				body: body === undefined ? undefined : JSON.stringify(body)
			});
		} catch {
			this.waiting = 'Earmark does not answer. What you typed is kept here and sent as soon as it does.';
			throw new Error('offline');
		}
		if (answer.status === 401) {
			this.signedOut = true;
			this.waiting = 'Your session has ended. What you typed is kept; sign in again to save it.';
			throw new Error('signed out');
		}
		if (answer.status === 503) {
			this.waiting = 'The database is away for a moment. What you typed is kept here and sent as soon as it is back.';
			throw new Error('away');
		}
		this.signedOut = false;
		this.waiting = '';
		if (!answer.ok) {
			const problem = await answer.json().catch(() => ({}));
			this.faults = problem.errors ?? [
				{ message: problem.detail ?? problem.message ?? 'This could not be done. Nothing was changed.' }
			];
			if (answer.status === 409) await this.call('GET');
			return false;
		}
		const given = await answer.json();
		if (given.state) this.take(given.state, begun);
		if (given.part) {
			this.parts.push({ no: ++this.changes, part: given.part });
			this.state = withPart(this.state, given.part);
			this.checkBehind();
		}
		if (given.said) this.notice = given.said;
		this.answer = given;
		return true;
	}

	/** Takes the sheet as the server tells it; what was changed after that was asked for stays on it. */
	private take(sent: SentSheet, begun: number) {
		// Two answers that overtook each other: the later one is asked for again.
		if (sent.since && sent.since !== this.is) return this.checkBehind();
		this.told = received(sent, this.told);
		this.is = sent.is;
		this.parts = this.parts.filter((p) => p.no > begun);
		this.state = this.parts.reduce((state, { part }) => withPart(state, part), this.told);
		this.checking = this.parts.length > 0 || !this.state.checked;
	}
	/** Has all of a long sheet checked, a moment after the last change to it; what is typed meanwhile does not wait. */
	private checkBehind() {
		if (!this.checking) this.checkBy = Date.now() + CHECKED_BY;
		this.checking = true;
		clearTimeout(this.checkSoon);
		const wait = Math.max(0, Math.min(CHECKED_AFTER, this.checkBy - Date.now()));
		this.checkSoon = setTimeout(() => {
			this.checkBy = Date.now() + CHECKED_BY;
			void this.checkNext();
		}, wait);
	}
	/** @returns whether it was checked */
	private async checkNow(): Promise<boolean> {
		const begun = this.changes;
		try {
			const answer = await fetch(`${this.url('sheet')}${this.is ? `&known=${this.is}` : ''}`, {
				headers: { accept: 'application/json', 'x-earmark-page': this.page }
			});
			if (answer.ok) {
				this.take((await answer.json()).state, begun);
				return true;
			}
		} catch {
			// Tried again below.
		}
		this.checkSoon = setTimeout(() => void this.checkNext(), 5000);
		return false;
	}
	/** Checks after a check that is under way. */
	private checkNext(): Promise<boolean> {
		const next = this.check.then(() => this.checkNow());
		this.check = next;
		return next;
	}

	/** When all of it is checked; at once where it is. */
	async checkedAll(): Promise<void> {
		await this.sending;
		while (this.checking) {
			clearTimeout(this.checkSoon);
			if (!(await this.checkNext())) return;
		}
	}

	/** When everything that was asked for has been answered. */
	settled = (): Promise<unknown> => this.sending;
	/** Reads the sheet again, in its turn: what was asked for earlier never arrives after what was saved since. */
	load = () => this.queue(() => this.call('GET'));
	setMode(mode: Mode) {
		this.mode = mode;
		return this.load();
	}

	/** Adds or changes rows. New rows get an id here, so that sending twice saves once. */
	async put(changes: (Omit<Change, 'id' | 'version'> & Partial<Change>)[]): Promise<boolean> {
		this.faults = [];
		this.notice = '';
		const rows = changes.map((c) => ({ ...c, id: c.id ?? crypto.randomUUID(), version: c.version ?? 0 }));
		this.did({
			rows: rows.map((r) => ({ id: r.id, lineId: r.lineId, before: this.find(r.id)?.data ?? null, after: r.data }))
		});
		this.keep([...this.kept(), ...rows]);
		return this.queue(() => this.flush());
	}
	/** Says that somebody has some of what goes in hand. */
	confirm(lineId: string, picks: readonly PickRow[], unit: string | null = null) {
		return this.put(
			picks.map((p) => ({
				...(p.id ? { id: p.id, version: p.version } : {}),
				...{ lineId, data: pickData({ ...p, confirmed: true, evidence: 'entered' }, unit) }
			}))
		);
	}
	remove(ids: string[]) {
		this.faults = [];
		const rows = ids.flatMap((id) => this.find(id) ?? []);
		this.did({ rows: rows.map((r) => ({ id: r.id, lineId: r.lineId, before: r.data, after: null })) });
		return this.queue(() => this.call('DELETE', ids));
	}
	/** Draws the next numbers of the item's pattern into a line. */
	async draw(lineId: string, count: number, more: Data = {}) {
		this.faults = [];
		const done = await this.queue(() => this.call('POST', { line: lineId, count, ...more }, 'draw'));
		if (done) this.didAdd(this.answer.added ?? []);
		return done;
	}
	/** Puts the serials of a line that have no lot into a new one, drawn from the item's pattern: one act. */
	async group(lineId: string) {
		this.faults = [];
		const without = (this.state.lines.find((l) => l.id === lineId)?.rows ?? []).filter((r) => r.serial && !r.lot);
		const before = without.map((r) => ({ id: r.id, data: typed(r) }));
		if (!(await this.queue(() => this.call('POST', { line: lineId, count: 1, group: true }, 'draw')))) return;
		this.did({ rows: before.map((b) => ({ id: b.id, lineId, before: b.data, after: this.find(b.id)?.data ?? null })) });
	}
	/** Hands the supplier's notice over, as text or as cells. */
	announce(file: { name: string; text?: string; cells?: string[][] }) {
		this.faults = [];
		return this.queue(() => this.call('POST', file, 'notice'));
	}
	/** Enters what was announced and has not arrived. */
	async enterAnnounced(lineId: string) {
		this.faults = [];
		if (!(await this.queue(() => this.call('POST', { enter: { lineId } }, 'notice')))) return;
		this.didAdd(this.answer.added ?? []);
	}
	/**
	 * Hands a scan to the sheet. It waits in this browser until the server has it.
	 * @returns what became of it; null while it waits
	 */
	async scan(text: string, lineId: string | null, lot: string | null): Promise<Taken | null> {
		this.faults = [];
		const scan = { id: crypto.randomUUID(), text, lineId, lot };
		this.keepScans([...this.keptScans(), scan]);
		let taken: Taken | null = null;
		await this.queue(async () => {
			taken = (await this.sendScans()).get(scan.id) ?? null;
			return true;
		});
		if (taken || !this.online || !this.keptScans().some((k) => k.id === scan.id)) return taken;
		this.keepScans(this.keptScans().filter((k) => k.id !== scan.id));
		const said = `${text} was not taken: a number must be free at the moment it is sold, and Earmark does not answer. Scan it again when it does.`;
		this.faults = [{ message: said }];
		return { taken: false, said };
	}
	private async sendScans() {
		const results = new Map<string, Taken>();
		for (const scan of this.keptScans()) {
			const done = await this.call('POST', scan, 'scan');
			this.keepScans(this.keptScans().filter((k) => k.id !== scan.id));
			const { scan: taken } = this.answer;
			if (!done || !taken) continue;
			results.set(scan.id, taken);
			if (taken.added) this.didAdd(taken.added);
			else if (taken.taken && !taken.hold) this.did({ rows: [], scan: scan.id });
		}
		return results;
	}
	private keptScans = (): { id: string; text: string; lineId: string | null; lot: string | null }[] =>
		JSON.parse(localStorage.getItem(this.store + ' scans') ?? '[]');
	private keepScans(scans: unknown[]) {
		if (scans.length) localStorage.setItem(this.store + ' scans', JSON.stringify(scans));
		else localStorage.removeItem(this.store + ' scans');
	}
	undoScan = (id: string) => {
		this.done = this.done.filter((s) => s.scan !== id);
		return this.queue(() => this.call('POST', { undo: id }, 'scan'));
	};

	/** The server added rows: one act. */
	private didAdd(ids: string[]) {
		const rows = ids.flatMap((id) => this.find(id) ?? []);
		this.did({ rows: rows.map((r) => ({ id: r.id, lineId: r.lineId, before: null, after: r.data })) });
	}
	private did(step: Step) {
		if (!step.rows.length && !step.scan) return;
		this.done.push(step);
		if (this.done.length > 200) this.done.shift();
		this.undone = [];
	}
	get canRedo() {
		return this.undone.length > 0;
	}
	/** Takes the last act back: what was entered, changed, taken out, drawn or scanned. */
	async takeBack() {
		const step = this.done.pop();
		if (!step) return;
		if (step.scan) return void (await this.undoScan(step.scan));
		if (await this.apply(step, 'before')) this.undone.push(step);
	}
	/** Does again what was taken back. */
	async doAgain() {
		const step = this.undone.pop();
		if (step && (await this.apply(step, 'after'))) this.done.push(step);
	}
	private async apply(step: Step, side: 'before' | 'after'): Promise<boolean> {
		this.faults = [];
		const gone = step.rows.filter((r) => r[side] === null && this.find(r.id)).map((r) => r.id);
		const rows = step.rows.flatMap((r) =>
			r[side] === null ? [] : [{ id: r.id, lineId: r.lineId, data: r[side], version: this.find(r.id)?.version ?? 0 }]
		);
		if (gone.length && !(await this.queue(() => this.call('DELETE', gone)))) return false;
		if (!rows.length) return true;
		this.keep([...this.kept(), ...rows]);
		return this.queue(() => this.flush());
	}

	/** A row of the sheet as it was typed or picked. */
	private find(id: string): { id: string; lineId: string; version: number; data: Data } | null {
		for (const l of this.state.lines) {
			const row = l.rows.find((r) => r.id === id);
			if (row) return { id, lineId: l.id, version: row.version, data: typed(row) };
			for (const c of l.cells) {
				const p = c.picks.find((x) => x.id === id);
				if (p) return { id, lineId: l.id, version: p.version, data: pickData(p, c.unit) };
			}
			if (l.now?.id === id) return { id, lineId: l.id, version: l.now.version, data: { now: l.now.qty } };
		}
		return this.findRepack(id);
	}
	private findRepack(id: string) {
		const { repack, lines } = this.state;
		if (!repack) return null;
		const lineId = lines.find((l) => l.role === 'component')!.id;
		const { mixing } = repack;
		if (mixing.id === id) return { id, lineId, version: mixing.version, data: { mixing: mixing.kind } };
		const of = repack.lots.find((l) => l.loss?.id === id);
		if (of?.loss) return { id, lineId, version: of.loss.version, data: { lossOf: of.mark, loss: of.loss.qty } };
		const named = repack.mixed.find((m) => m.id === id);
		const line = named && lines.find((l) => l.no === named.line);
		return named && line ? { id, lineId: line.id, version: named.version, data: { lot: named.lot } } : null;
	}
	/** @param named only what is chosen or picked goes, nothing that is only suggested */
	async book(reason: string, named = false): Promise<boolean> {
		if (this.checking) return false;
		this.busy = true;
		this.faults = [];
		try {
			const done = await this.queue(() =>
				this.call('POST', {
					...{ key: this.key, stamp: this.state.stamp, reason, mode: this.mode },
					...(named ? { named } : {})
				})
			);
			if (done) {
				this.key = crypto.randomUUID();
				this.done = [];
				this.undone = [];
				await invalidate('app:waiting');
			}
			return done;
		} finally {
			this.busy = false;
		}
	}
	/** Sets how much of a line goes now; empty for all that is open. */
	goesNow(line: SheetLine, qty: string) {
		const now = qty.slice(0, 40);
		const { id, version } = line.now ?? {};
		if (!now) return id ? this.remove([id]) : undefined;
		return this.put([{ lineId: line.id, data: { now }, ...(id ? { id, version } : {}) }]);
	}
	/** Says how it is sent; empty for nothing said. */
	sendBy(way: string) {
		this.faults = [];
		return this.queue(() => this.call('POST', { way }, 'way'));
	}
	/** Promises stock to a line: nobody else is offered it then. */
	promise(lineId: string, picks: { mark: string; qty: string }[], more: { until: string; reason: string }) {
		this.faults = [];
		return this.queue(() => this.call('POST', { line: lineId, picks, ...more, key: crypto.randomUUID() }, 'promises'));
	}
	/** Gives promises up. */
	release(ids: string[]) {
		this.faults = [];
		return this.queue(() => this.call('POST', ids, 'release'));
	}
	/** Closes it before all of it is booked, or opens it again. */
	closeShort(reason: string, open: boolean) {
		this.faults = [];
		return this.queue(() => this.call('POST', { reason, open, key: crypto.randomUUID() }, 'close'));
	}
	/** Gives back what was put into a batch and not used. */
	giveBack(rows: { mark: string; qty: string; place: string }[], reason: string) {
		this.faults = [];
		return this.queue(() => this.call('POST', { rows, reason, key: crypto.randomUUID() }, 'back'));
	}
	/** Puts what was picked and waits back to its bins. */
	putBack() {
		this.faults = [];
		return this.queue(() => this.call('POST', { key: crypto.randomUUID() }, 'putback'));
	}
	/** Adds something that stays to be done, or ticks it off. */
	todo(given: { what: string } | { id: string; done: boolean; said: string }) {
		this.faults = [];
		return this.queue(() => this.call('POST', given, 'todo'));
	}
	/** Says whom a sale is for, or what is agreed of a line. */
	agree(given: { partner: string } | { line: string; warranty?: string; price?: string }) {
		this.faults = [];
		return this.queue(() => this.call('POST', given, 'agreed'));
	}
	/** Notes a payment or an invoice that a program of others made, or withdraws one. */
	note(
		given:
			| { withdraw: string }
			| { what: 'payment' | 'invoice'; number: string; dated?: string; lines?: { no: number; qty: string }[] }
	) {
		this.faults = [];
		const body = 'withdraw' in given ? given : { ...given, key: crypto.randomUUID() };
		return this.queue(() => this.call('POST', body, 'noted'));
	}
	/** Keeps a signature. */
	sign(given: {
		meaning: 'terms' | 'receipt';
		event?: string;
		signer: string;
		strokes: Stroke[];
		withoutNumber?: boolean;
	}) {
		this.faults = [];
		return this.queue(() => this.call('POST', given, 'sign'));
	}
	/** Puts one number in the place of another on a line; one that has gone has no place. */
	swap(lineId: string, out: { mark: string; place?: string }, into: { mark: string; place: string }, reason = '') {
		this.faults = [];
		return this.queue(() =>
			this.call(
				'POST',
				{
					...{ key: crypto.randomUUID(), line: lineId, ...(reason ? { reason } : {}) },
					...{ out: { mark: out.mark, place: out.place ?? '' }, in: { mark: into.mark, place: into.place } }
				},
				'swap'
			)
		);
	}
	/** Says what became of what is in transit and will not arrive. */
	endTransit(became: string, reason: string) {
		this.faults = [];
		return this.queue(() => this.call('POST', { became, reason, key: crypto.randomUUID() }, 'transit'));
	}
	/** Adds something that comes out of a batch beside what it is made for. */
	addByproduct(item: string, qty: string) {
		this.faults = [];
		return this.queue(() => this.call('POST', { item, qty }, 'beside'));
	}
	undo(event: string, reason: string) {
		return this.queue(() => this.call('POST', { undo: event, reason, key: crypto.randomUUID() }));
	}

	/** One request after the other, in the order of the key presses. */
	private queue(work: () => Promise<boolean>): Promise<boolean> {
		const next = this.sending.then(work).catch(() => false);
		this.sending = next;
		return next;
	}
	private kept = (): Change[] => JSON.parse(localStorage.getItem(this.store) ?? '[]');
	private keep(rows: Change[]) {
		if (rows.length) localStorage.setItem(this.store, JSON.stringify(rows));
		else localStorage.removeItem(this.store);
	}
	private async flush(): Promise<boolean> {
		const rows = this.kept();
		if (!rows.length) return true;
		let done = true;
		// Only the last part brings the sheet back: a long table is not read again with every part of it.
		for (let i = 0; i < rows.length; i += 2000)
			done = (await this.call('PUT', rows.slice(i, i + 2000), 'sheet', i + 2000 < rows.length)) && done;
		// Saved, or refused for good and said so: either way it does not wait any more.
		const sent = new Set(rows.map((r) => r.id + r.version + JSON.stringify(r.data)));
		this.keep(this.kept().filter((r) => !sent.has(r.id + r.version + JSON.stringify(r.data))));
		return done;
	}
	private resend() {
		if (this.keptScans().length) void this.queue(async () => (await this.sendScans(), true));
		if (this.kept().length) return this.queue(() => this.flush());
		if (this.waiting) return this.load();
	}
}

/** A row's own fields, without what was worked out. */
export const typed = (row: SheetRow): Data => ({
	...(row.lot ? { lot: row.lot } : {}),
	...(row.serial
		? { serial: row.serial, count: row.count, ...(row.step > 1 ? { step: row.step } : {}) }
		: { qty: row.qty }),
	...(row.expiresOn && !row.expiryWorkedOut ? { expiresOn: row.expiresOn } : {}),
	...(row.expiryChanged ? { expiryChanged: true } : {}),
	...(row.supplierLot ? { supplierLot: row.supplierLot } : {}),
	...(row.supplierSerial ? { supplierSerial: row.supplierSerial } : {}),
	...(row.madeOn ? { madeOn: row.madeOn } : {}),
	...(row.cost ? { cost: row.cost } : {}),
	...(row.place ? { place: row.place } : {}),
	...withFacts(row.facts)
});
const withFacts = (facts: Facts) => (Object.values(facts).some(Boolean) ? { facts } : {});
/** A pick's own fields. */
export const pickData = (p: PickRow, unit: string | null, qty: string = p.qty): Data => ({
	mark: p.mark,
	place: p.place,
	qty,
	...(unit ? { unit } : {}),
	...(p.id && p.evidence === 'accepted' ? { accepted: true as const } : {}),
	...(p.confirmed ? { confirmed: true as const } : {}),
	...(p.expiryTyped ? { expiresOn: p.expiryTyped } : {}),
	...(p.to ? { to: p.to } : {}),
	...(p.goes ? { goes: p.goes } : {}),
	...(p.found ? { found: p.found } : {}),
	...withFacts(p.facts)
});

/** What of a line is suggested or chosen and not promised to it yet, added up over the bins. */
export function unpromised(line: SheetLine, cell: Cell): { mark: string; number: string; qty: string }[] {
	const held = promisedTo(line);
	const open = cell.picks.filter((p) => p.kind !== 'unmarked' && isSome(p.qty) && !held.has(p.mark));
	return [...group(open, (p) => p.mark)].map(([mark, picks]) => ({
		mark,
		number: picks[0].number,
		qty: total(picks.map((p) => p.qty))
	}));
}

/** Text that survives a reload: what stands in a field before Enter. */
export class Remembered {
	private name: string;
	text = $state('');
	constructor(name: string) {
		this.name = `earmark typing ${name}`;
		if (typeof localStorage !== 'undefined') this.text = localStorage.getItem(this.name) ?? '';
	}
	set(text: string) {
		this.text = text;
		if (text) localStorage.setItem(this.name, text);
		else localStorage.removeItem(this.name);
	}
}
