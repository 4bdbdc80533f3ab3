import Fraction from 'fraction.js';
import { takenOver, type Promised } from '../allocation/promises.ts';
import { addDuration, daysBetween, parseDay, sayDuration, showDay, workOut, type Day } from '../dates/dates.ts';
import { checkFacts, fileOf, showFact, type AskedFact, type Fact, type Facts } from '../facts/fact.ts';
import { fallsShort } from '../ledger/evidence.ts';
import { group } from '../group/group.ts';
import { kindsFor, wayOf, type Kind } from '../ledger/events.ts';
import type { Line, Mark, Place, Run } from '../ledger/line.ts';
import { virtualPlace } from '../ledger/places.ts';
import { numberingRuns, stepOf, type Step } from '../ledger/steps.ts';
import { worse } from '../ledger/status.ts';
import { unseen } from '../text/text.ts';
import { formOf, readBack, type Block } from '../numbering/pattern.ts';
import { add, amount, exact, less, parseQty, rest, sub, total } from '../quantity/quantity.ts';
import * as say from './catalogue.ts';
import { findOwner, findOwnersMix } from './owner.ts';
import { aboutOf, found, subjectOf, type About, type Check, type Finding, type Level, type Strength } from './check.ts';

/** What is known of the world when movements are checked: loaded a set at a time by whoever asks. */
export interface CheckContext {
	policy: say.Policy;
	/** the facts that movements give or rules ask, by their codes */
	facts: ReadonlyMap<string, Fact>;
	/** the day of the event at a place */
	day: (place: Place) => Day;
	/** of marks known: how much stands at each real place */
	standing: ReadonlyMap<string, readonly { place: string; code: string; qty: string }[]>;
	/** of what goes to a customer, by the item's id: the days that must be left, and what may not be older than what it got last */
	asked: ReadonlyMap<string, { daysLeft: number | null; notBefore: Day | null }>;
	/** what is promised to other orders of what leaves, by the mark's id */
	promised: ReadonlyMap<string, readonly Promised[]>;
	/** of what leaves a place where picked goods wait: how much was picked for other orders, and for which, by "mark place" */
	staged: ReadonlyMap<string, { of: string; qty: string }>;
	/** of serials that come in from outside: where each went last */
	last: ReadonlyMap<string, Last>;
	/** of detached components: how much of each is in its run, by "run mark" */
	contained: ReadonlyMap<string, string>;
	/** with whom the event is, by name */
	partner: string | null;
	/** the same by code */
	partnerCode: string | null;
	/** names of the partners that own what is moved or arrives, by their codes */
	owners: ReadonlyMap<string, string>;
	/** of what comes back from a customer: how much of it that one has, and who else has some, by the mark's id */
	withThem: ReadonlyMap<string, { has: string; others: readonly string[] }>;
	/** of what goes back to a supplier: from whom it came, by the mark's id; nothing where nobody knows */
	cameFrom: ReadonlyMap<string, readonly string[]>;
	/** serials of other items under the same number, by "item number" */
	others: ReadonlyMap<string, { mark: string; name: string; code: string; everywhere: boolean }>;
	/** numbers that one of the same item had before it was corrected, by "kind item number" */
	former: ReadonlyMap<string, { mark: string; number: string; printed: boolean }>;
	/** numbers of the same item that look like a new one, by "kind item number" */
	alike: ReadonlyMap<string, { mark: string; number: string }>;
	/** of new lots that are said to have been found: known ones that are written nearly so, by the mark's id */
	near: ReadonlyMap<string, readonly string[]>;
	/** SHA-256 of the files that are here, of those that movements give */
	files: ReadonlySet<string>;
	/** of what goes to a customer that gets new ones only: what came back from another, by the mark's id */
	cameBack: ReadonlySet<string>;
	/** of what leaves: what in it is stopped, on any level, by the mark's id */
	stoppedIn: ReadonlyMap<string, readonly say.StoppedPart[]>;
	/** of runs known: the first to expire of all that went in */
	inRuns: ReadonlyMap<string, Expiring>;
	/** of what is short: who took it last, by "mark place"; loaded for the few that are */
	takers: ReadonlyMap<string, NonNullable<say.Shortage['taker']>>;
}
/** Where a serial went last. */
export interface Last {
	/** id of the movement that took it there */
	movement: string;
	code: string;
	on: Day;
	partner: string | null;
	run: string | null;
	job: string | null;
}
/** Something that expires. */
export interface Expiring {
	/** "Lot A" */
	number: string;
	on: Day;
}
/** A number that goes into something, as what is made of it may be dated by it; null where it does not expire. */
export const expiring = (about: About, on: Day | null): Expiring | null =>
	on ? { number: subjectOf([about]).text, on } : null;
/** Keeps the first to expire of what goes into each run. */
export function keepEarliest<R>(first: Map<R, Expiring>, run: R, e: Expiring | null | undefined): void {
	const held = first.get(run);
	if (e && (!held || e.on < held.on)) first.set(run, e);
}
/** What is known of lots that come in again. */
export interface Again {
	/** by the lot's id: how much is on hand */
	known: ReadonlyMap<string, { onHand: string }>;
	/** lots of ours that came under a supplier's lot, by "item number-in-small-letters" */
	theirs: ReadonlyMap<string, { mark: string; number: string; on: Day | null; expires: Day | null }>;
}
/** The event as far as checks care. */
export interface Checking {
	kind: string;
	lines: readonly Line[];
	runs: readonly Run[];
	world: CheckContext;
}

/** The lot or serial that a fact of a movement is kept with: the lot, where the fact is the lot's and there is one. */
export const factKeeper = (fact: Pick<Fact, 'per'>, l: Line): Mark => (fact.per === 'lot' && l.lot ? l.lot : l.mark);

/**
 * Everything that is to be said of an event's movements: what stops it, what wants a reason, what is only noted. The same
 * for a row as it is typed, for the foot bar, for the button and for a program. Reads each quantity and fact, and leaves
 * them in the lines as they are kept.
 */
export function checkMovements(checking: Checking): Finding[] {
	const { lines } = checking;
	const out: Finding[] = [];
	const numbering = numberingRuns(
		lines.map((l) => ({
			run: l.run,
			role: l.given.role ?? null,
			item: l.item.id,
			lot: l.given.lot ?? null,
			serial: l.given.serial ?? null,
			unit: !!l.run?.unit
		}))
	);
	const pass: Pass = {
		...checking,
		out,
		said: saidIn(checking),
		taken: new Set(),
		arrived: new Set(),
		made: new Set(),
		detached: new Map(),
		first: firstToExpire(checking)
	};
	const readable = lines.filter((l) => checkForm(pass, l));
	for (const l of readable) {
		checkPlaces(pass, l);
		checkRun(pass, l);
		const step =
			l.run && numbering.has(l.run) ? null : stepOf({ kind: pass.kind, from: l.from, to: l.to, role: l.given.role });
		checkNumber(pass, l, step);
		checkDates(pass, l, step);
		out.push(...findOwner(l, step, pass));
		checkQuality(pass, l);
		checkLineFacts(pass, l, step);
		if (l.from.virtual) pass.arrived.add(l.mark.id);
		if (l.run && l.given.role === 'make') pass.made.add(l.run);
	}
	checkServiced(pass, readable);
	checkRepacked(pass, readable);
	checkOpened(pass, readable);
	if (pass.kind === 'repack') out.push(...findOwnersMix(pass));
	checkRuns(pass);
	checkOutlives(pass);
	checkArrivals(pass, readable);
	checkForms(pass, readable);
	checkStock(pass, readable);
	checkPromises(pass, readable);
	checkStaged(pass, readable);
	checkReturns(pass, readable);
	return out;
}

interface Pass extends Checking {
	out: Finding[];
	/** "mark place" of serials that left a place in this event */
	taken: Set<string>;
	/** ids of marks that came in from outside in this event */
	arrived: Set<string>;
	/** facts that the event's movements give, by the mark that keeps them: the first one said */
	said: ReadonlyMap<string, Facts>;
	/** runs that something came out of in this event */
	made: Set<Run>;
	/** how much the event took out of runs so far, by "run mark" */
	detached: Map<string, string>;
	/** the first to expire of all that went into each run */
	first: ReadonlyMap<Run, Expiring>;
}
function addFinding<A>(
	p: Pass,
	l: Line,
	check: Check<A>,
	args: A,
	more: { level?: Level; mark?: string; use?: string; open?: boolean } = {}
) {
	p.out.push(found(check, args, { line: l.index, about: aboutOf(l), ...more }));
}
/** How many numbers of one form make a series. */
const SERIES = 3;
/** New numbers of an item that are not written as the others, and lots that are found beside one that is written nearly so. */
function checkForms(p: Pass, lines: readonly Line[]) {
	const fresh = lines.filter((l) => l.mark.fresh && l.from.virtual && l.mark.kind !== 'unmarked');
	for (const l of fresh) {
		const near = p.world.near.get(l.mark.id);
		if (near) addFinding(p, l, say.unknownFound, { near }, { level: policy(p, say.unknownFound) });
	}
	for (const list of group(fresh, (l) => `${l.item.id} ${l.mark.kind}`).values()) {
		if (list.length <= SERIES) continue;
		const forms = group(list, (l) => writtenAs(aboutOf(l).number));
		if (forms.size < 2) continue;
		const [most, ...others] = [...forms.values()].sort((a, b) => b.length - a.length);
		// A few among many left it; two series side by side are two.
		for (const few of others)
			if (most.length >= SERIES && few.length * 4 <= most.length)
				for (const l of few) addFinding(p, l, say.leavesForm, { form: aboutOf(most[0]).number }, { mark: undefined });
	}
}
/** The form of a number: its signs, with each run of digits as one. */
const writtenAs = (number: string) => number.replace(/\d+/g, '0');

/** May only what is released go where a movement goes, and does it leave a place of ours? */
export const wantsReleased = (l: Pick<Line, 'from' | 'to'>): boolean =>
	!!virtualPlace(l.to.code)?.wantsReleased && !l.from.virtual;
const policy = (p: Pass, check: Check<never>): Strength => p.world.policy[check.code] ?? 'stop';

/** Quantity and pieces. @returns false when the quantity cannot be read: nothing more can be said then */
function checkForm(p: Pass, l: Line): boolean {
	const read = parseQty(l.given.qty, inParts(p, l) ? FINEST : l.item.decimals, l.item.unit);
	if ('problem' in read) {
		addFinding(p, l, say.quantity, { problem: read.problem }, { open: !l.given.qty });
		return false;
	}
	l.given.qty = read.qty;
	if (l.mark.kind !== 'serial') return true;
	if (read.qty !== '1') addFinding(p, l, say.onePiece, { qty: read.qty });
	const key = `${l.mark.id} ${l.from.code}`;
	if (p.taken.has(key)) addFinding(p, l, say.twice, {});
	p.taken.add(key);
	return true;
}

/** The finest part of a unit that is written of what is repacked. */
const FINEST = 6;
/** In repacking a pack is opened: parts of it are lost, or go into another run than the rest. */
const inParts = (p: Pass, l: Line) =>
	p.kind === 'repack' && !!l.run && (l.given.role === 'use' || (l.given.role === 'make' && l.to.code === '@scrap'));
/** Whatever is opened in repacking is used up: what is taken from a place is whole packs again. */
function checkOpened(p: Pass, lines: readonly Line[]) {
	const taken = new Map<string, { line: Line; qty: Fraction }>();
	for (const l of lines) {
		if (l.given.role !== 'use' || !inParts(p, l)) continue;
		const key = `${l.mark.id} ${l.from.code}`;
		const before = taken.get(key)?.qty ?? new Fraction(0);
		taken.set(key, { line: l, qty: before.add(l.given.qty) });
	}
	for (const { line, qty } of taken.values()) {
		const read = parseQty(exact(qty), line.item.decimals, line.item.unit);
		if ('problem' in read) addFinding(p, line, say.quantity, { problem: read.problem });
	}
}

/** What may happen to something in transit: it arrives, or never does. */
const FROM_TRANSIT: ReadonlySet<string> = new Set<Kind>(['transfer', 'scrap', 'adjust', 'count']);
function checkPlaces(p: Pass, l: Line) {
	const { from, to } = l;
	const role = l.given.role ?? null;
	if (from.code === to.code) return addFinding(p, l, say.samePlace, { place: from.code });
	if (from.transit && !FROM_TRANSIT.has(p.kind)) return addFinding(p, l, say.inTransit, { place: from.code });
	const right =
		role === 'use'
			? to.code === '@process' && from.code !== '@process'
			: role
				? from.code === '@process'
				: from.code !== '@process' && to.code !== '@process';
	if (!right) return addFinding(p, l, say.direction, { role, from: from.code, to: to.code });
	// What a run loses goes straight from it to scrap; everything else has been at a place.
	if (from.virtual && to.virtual && !(role && to.code === '@scrap'))
		return addFinding(p, l, say.noPlaceBetween, { from: from.code, to: to.code });
	if (!!l.run !== !!role) return;
	const run = l.run && (l.run.unit ? 'unit' : 'batch');
	const moving = { from: from.code, to: to.code, role };
	if (wayOf(p.kind, moving, run)) return;
	const [other = null] = kindsFor(moving, run);
	addFinding(p, l, say.notOfKind, { ...moving, kind: p.kind, other });
}

/** A service scraps the unit that it is of, and as much as came out of that; nothing else. */
function checkServiced(p: Pass, lines: readonly Line[]) {
	if (p.kind !== 'service') return;
	const units = new Set(lines.flatMap((l) => l.run?.unit?.id ?? []));
	const out = new Map<string, string>();
	for (const l of lines) if (l.given.role === 'detach') out.set(l.mark.id, add(out.get(l.mark.id) ?? '0', l.given.qty));
	for (const l of lines) {
		if (l.given.role || l.to.code !== '@scrap' || units.has(l.mark.id)) continue;
		const left = out.get(l.mark.id) ?? '0';
		if (less(left, l.given.qty)) addFinding(p, l, say.notServiced, {});
		else out.set(l.mark.id, sub(left, l.given.qty));
	}
}

/** A repacking has what goes in and what comes out, and loses no more than is usual without a reason. */
function checkRepacked(p: Pass, lines: readonly Line[]) {
	if (p.kind !== 'repack') return;
	for (const [run, mine] of group([...lines], (l) => l.run)) {
		// A sheet says of itself what it still wants, lot by lot.
		if (!run || mine.some((l) => l.given.orderLine)) continue;
		const [used, made] = [mine.filter((l) => l.given.role === 'use'), mine.filter((l) => l.given.role === 'make')];
		const packed = made.filter((l) => l.to.code !== '@scrap');
		if (!used.length) addFinding(p, mine[0], say.packsNothing, { run: run.code, what: 'goes in' });
		else if (!packed.length) addFinding(p, mine[0], say.packsNothing, { run: run.code, what: 'comes out' });
		else checkLoss(p, used, made);
	}
}
/** What is lost of a repacking is no more than is usual, or a reason says why. */
function checkLoss(p: Pass, used: readonly Line[], made: readonly Line[]) {
	const [unit] = new Set([...used, ...made].map((l) => l.item.content?.unit ?? null));
	if (!unit || [...used, ...made].some((l) => l.item.content?.unit !== unit)) return;
	const content = (list: readonly Line[]) =>
		list.reduce((sum, l) => sum.add(new Fraction(l.given.qty).mul(l.item.content!.qty)), new Fraction(0));
	const [all, lost] = [content(used), content(made.filter((l) => l.to.code === '@scrap'))];
	const most = used.map((l) => l.item.lossTolerance).reduce((a, b) => (less(a, b) ? a : b));
	// Where the firm has said nothing of it, a program's loss stands as it is recorded.
	if (most === '0' || lost.compare(all.mul(most).div(100)) <= 0) return;
	const share = lost.div(all).mul(100).round(1).toString();
	const name = subjectOf([aboutOf(used[0])]).text;
	addFinding(p, used[0], say.lossAbove, { name, lost: amount(exact(lost), unit), share, most });
}

function checkRun(p: Pass, l: Line) {
	const { run } = l;
	const { role } = l.given;
	if (!!run !== !!role) return addFinding(p, l, say.runAndRole, {});
	if (!run) return;
	if (role !== 'make' && p.made.has(run)) addFinding(p, l, say.orderInRun, { run: run.code });
	if (run.closed) addFinding(p, l, say.closedRun, { run: run.code });
	// A batch gives back what was put in and not used; it is not taken apart.
	const givesBack = role === 'detach' && !run.unit && p.kind === 'use';
	if (role === 'detach' && !run.unit && !givesBack) addFinding(p, l, say.pooledDetach, { run: run.code });
	if (role === 'make' && run.unit && run.unit.id !== l.mark.id)
		addFinding(p, l, say.otherUnit, { run: run.code, unit: `serial ${run.unit.serial_no}` });
	if (role === 'detach' && (run.unit || givesBack)) {
		const key = `${run.id} ${l.mark.id}`;
		const have = rest(p.world.contained.get(key) ?? '0', p.detached.get(key) ?? '0');
		p.detached.set(key, add(p.detached.get(key) ?? '0', l.given.qty));
		if (less(have, l.given.qty))
			addFinding(p, l, say.notContained, {
				run: run.code,
				unit: run.unit?.serial_no ?? null,
				have,
				asked: l.given.qty,
				of: l.item.unit
			});
	}
}

function checkNumber(p: Pass, l: Line, step: Step | null) {
	const { item, mark, given } = l;
	const { tracking } = item;
	const carries = (what: 'lot' | 'serial') => tracking.includes(what);
	for (const what of ['lot', 'serial'] as const)
		if (given[what] && !carries(what)) addFinding(p, l, say.carriesNo, { item: item.code, what, number: given[what] });
	const rule = (step && item.rules?.[step]) || null;
	const missing = (what: 'lot' | 'serial', how: string | undefined) => {
		if (!step || !how || how === 'not asked' || !carries(what)) return;
		const level = how === 'required' ? 'stop' : 'reason';
		addFinding(p, l, say.numberMissing, { item: item.code, what, step }, { level, open: level === 'stop' });
	};
	if (!given.serial && mark.kind !== 'serial') missing('serial', rule?.serial);
	if (!given.lot && mark.kind !== 'lot' && !(mark.kind === 'serial' && !mark.fresh)) missing('lot', rule?.lot);
	if (step && mark.kind !== 'unmarked' && given.evidence && rule && fallsShort(given.evidence, rule.evidence))
		addFinding(
			p,
			l,
			say.knownTooLittle,
			{ known: given.evidence, enough: rule.evidence, step },
			{ level: policy(p, say.knownTooLittle), open: true }
		);
	if (mark.kind === 'serial' && given.lot && l.lot?.lot_no !== given.lot)
		addFinding(p, l, say.otherLot, { lot: given.lot });
	if (!mark.fresh || mark.kind === 'unmarked') return;
	const brings = l.from.virtual && given.role !== 'detach' && !!virtualPlace(l.from.code)?.brings;
	if (!brings && !p.arrived.has(mark.id)) return addFinding(p, l, say.unknown, { item: item.code });
	if (!brings) return;
	checkNew(p, l);
}

/** A number that nobody knew before; a lot that comes with its serials is new too, and looked at once. */
function checkNew(p: Pass, l: Line) {
	const { item, mark } = l;
	const { world } = p;
	const own = aboutOf(l) as About & { kind: 'lot' | 'serial' };
	p.out.push(...findNumber({ item, about: own, world, line: l.index }));
	if (mark.kind !== 'serial' || !l.lot?.fresh || p.arrived.has(l.lot.id)) return;
	p.arrived.add(l.lot.id);
	p.out.push(...findNumber({ item, about: { kind: 'lot', number: l.lot.lot_no! }, world, line: l.index }));
}

/** A number that a lot or serial is to get. */
export interface NewNumber {
	item: Line['item'];
	about: { kind: 'lot' | 'serial'; number: string };
	world: Pick<CheckContext, 'policy' | 'others' | 'alike' | 'former'>;
	/** the movement that brings it; -1 where none does */
	line: number;
}
/** Patterns as they are set up never change in place: ten thousand numbers of one event have one form. */
const forms = new WeakMap<Block[], RegExp>();
function formOnce(pattern: Block[]): RegExp {
	let form = forms.get(pattern);
	if (!form) forms.set(pattern, (form = formOf(pattern)));
	return form;
}
/** What is to be said of a number that is given: its form, and what else goes by it. */
export function findNumber({ item, about, world, line }: NewNumber): Finding[] {
	const out: Finding[] = [];
	const tellOf = <A>(check: Check<A>, args: A, more: { level?: Level; mark?: string } = {}) =>
		void out.push(found(check, args, { line, about, ...more }));
	const strength = (check: Check<never>): Strength => world.policy[check.code] ?? 'stop';
	const { kind, number } = about;
	if (unseen(number)) tellOf(say.unseenSign, {});
	const pattern = kind === 'serial' ? item.serialPattern : item.lotPattern;
	if (pattern && 'problem' in readBack(pattern, number, formOnce(pattern)))
		tellOf(say.misfit, { pattern }, { level: item.misfit });
	const other = kind === 'serial' ? world.others.get(`${item.id} ${number}`) : undefined;
	if (other?.everywhere || (other && item.everywhere))
		tellOf(say.sharedSerial, { item: other.code }, { mark: other.mark });
	else if (other) tellOf(say.anotherItem, { name: other.name }, { level: strength(say.anotherItem), mark: other.mark });
	const key = `${kind} ${item.id} ${number}`;
	const former = world.former.get(key);
	if (former?.printed) tellOf(say.formerNumber, { now: former.number }, { mark: former.mark });
	const alike = world.alike.get(key);
	if (alike) tellOf(say.looksAlike, { known: alike.number }, { level: strength(say.looksAlike), mark: alike.mark });
	return out;
}

/**
 * The expiry of something that is made or comes in now; with how it comes about.
 * @param first the first to expire of what goes into it; null where nothing that expires does, or nothing is made
 */
export function workedOut(
	item: Pick<Line['item'], 'shelfLife' | 'endOfMonth' | 'expiryFrom'>,
	madeOn: Day | null,
	today: Day,
	arriving: boolean,
	first: Expiring | null = null
): { day: Day; ground: string } | null {
	const from = arriving ? 'life' : item.expiryFrom;
	const made = madeOn ? `made ${showDay(madeOn)}` : arriving ? 'received today' : 'made today';
	const life =
		item.shelfLife && from !== 'parts'
			? {
					day: workOut(madeOn ?? today, item.shelfLife, item.endOfMonth),
					ground: `${made} + ${sayDuration(item.shelfLife)}${item.endOfMonth ? ', to the end of the month' : ''}`
				}
			: null;
	const parts = first && from !== 'life' ? { day: first.on, ground: `as ${first.number}, which goes in` } : null;
	return parts && (!life || parts.day < life.day) ? parts : life;
}

function checkDates(p: Pass, l: Line, step: Step | null) {
	const { item, mark, given } = l;
	const today = p.world.day(l.from.virtual ? l.to : l.from);
	for (const [field, what] of [
		['expiresOn', 'expiry'],
		['madeOn', 'made on'],
		['supplierWarrantyUntil', 'supplier’s warranty']
	] as const) {
		const read = given[field] ? parseDay(given[field]) : null;
		if (read && 'problem' in read) return addFinding(p, l, say.badDate, { what, problem: read.problem });
		if (read) given[field] = read.day;
	}
	const recorded = mark.expires_on ?? l.lot?.expires_on ?? null;
	const day = given.expiresOn ?? recorded;
	const how = (step && item.rules?.[step]?.expiry) || 'not asked';
	if (how !== 'not asked' && mark.kind !== 'unmarked' && !day && step)
		addFinding(p, l, say.expiryMissing, { step }, { level: how === 'required' ? 'stop' : 'reason', open: true });
	if (!mark.fresh) {
		if (given.expiresOn && mark.expires_on && given.expiresOn !== mark.expires_on)
			addFinding(p, l, say.otherExpiry, { recorded: mark.expires_on, given: given.expiresOn }, { mark: mark.id });
		if (given.madeOn && mark.made_on && given.madeOn !== mark.made_on)
			addFinding(p, l, say.otherMadeOn, { recorded: mark.made_on, given: given.madeOn }, { mark: mark.id });
		const until = mark.supplier_warranty_until;
		if (given.supplierWarrantyUntil && until && given.supplierWarrantyUntil !== until)
			addFinding(p, l, say.otherWarranty, { recorded: until, given: given.supplierWarrantyUntil }, { mark: mark.id });
	}
	const lot = l.lot && !l.lot.fresh && l.lot !== mark ? l.lot : null;
	if (lot?.expires_on && given.expiresOn && given.expiresOn !== lot.expires_on && mark.fresh)
		p.out.push(
			found(
				say.otherExpiry,
				{ recorded: lot.expires_on, given: given.expiresOn },
				{ line: l.index, about: { kind: 'lot', number: lot.lot_no! }, mark: lot.id }
			)
		);
	const brings = step === 'receipt' || step === 'production output';
	if (given.madeOn && given.madeOn > today) addFinding(p, l, say.madeAhead, { on: given.madeOn });
	if (given.expiresOn && given.madeOn && given.expiresOn <= given.madeOn)
		addFinding(p, l, say.expiresBeforeMade, { on: given.expiresOn });
	if (!brings || mark.kind === 'unmarked' || !given.expiresOn) return;
	if (given.expiresOn < today)
		addFinding(p, l, say.expiredComes, { on: given.expiresOn }, { level: policy(p, say.expiredComes) });
	const worked = workedOut(
		item,
		given.madeOn ?? null,
		today,
		step === 'receipt',
		(l.run && p.first.get(l.run)) ?? null
	);
	// From a supplier the label is right, unless somebody changed what had been worked out; what is made here has the
	// date that its shelf life gives.
	if (worked && given.expiresOn !== worked.day && (given.expiryChanged || step === 'production output'))
		addFinding(
			p,
			l,
			say.changedExpiry,
			{ worked: worked.day, ground: worked.ground, day: given.expiresOn },
			{ level: policy(p, say.changedExpiry) }
		);
	if (
		step === 'receipt' &&
		item.leastLeft &&
		given.expiresOn >= today &&
		given.expiresOn < addDuration(today, item.leastLeft)
	)
		addFinding(p, l, say.tooShort, { on: given.expiresOn, least: item.leastLeft }, { level: policy(p, say.tooShort) });
}

/** What leaves must be released and not expired: by what is in force, its own or its lot's. */
function checkQuality(p: Pass, l: Line) {
	if (!wantsReleased(l)) return;
	const status = worse(l.mark.status, l.lot?.status);
	if (status !== 'released') addFinding(p, l, say.stopped, { status }, { mark: l.mark.id });
	if (l.to.code === '@customer' && p.world.cameBack.has(l.mark.id))
		addFinding(p, l, say.cameBack, {}, { level: policy(p, say.cameBack), mark: l.mark.id });
	const parts = p.world.stoppedIn.get(l.mark.id);
	if (parts)
		addFinding(p, l, say.containsStopped, { parts }, { level: policy(p, say.containsStopped), mark: parts[0].mark });
	const on = l.mark.expires_on ?? l.lot?.expires_on;
	if (on && on < p.world.day(l.from))
		addFinding(
			p,
			l,
			say.expiredGoes,
			{ on },
			{ level: policy(p, say.expiredGoes), mark: l.mark.fresh ? undefined : l.mark.id }
		);
	else if (on && l.to.code === '@customer') checkLife(p, l, on);
}

/** What a customer gets lives as long as it asks, and is not older than what it got last. */
function checkLife(p: Pass, l: Line, on: Day) {
	const asked = p.world.asked.get(l.item.id);
	if (!asked) return;
	const mark = l.mark.fresh ? undefined : l.mark.id;
	const left = daysBetween(p.world.day(l.from), on);
	if (asked.daysLeft !== null && left < asked.daysLeft)
		addFinding(p, l, say.littleLife, { left, least: asked.daysLeft }, { level: policy(p, say.littleLife), mark });
	if (asked.notBefore && on < asked.notBefore)
		addFinding(p, l, say.olderThanLast, { on, last: asked.notBefore }, { level: policy(p, say.olderThanLast), mark });
}

function checkLineFacts(p: Pass, l: Line, step: Step | null) {
	const given = l.given.facts ?? {};
	const codes = Object.keys(given);
	const asks = (step && l.item.asks?.[step]) || null;
	if (!codes.length && !asks) return;
	if (l.mark.kind === 'unmarked') {
		if (codes.length) addFinding(p, l, say.factWithoutNumber, { item: l.item.code });
		return;
	}
	const asked = [...new Set([...Object.keys(asks ?? {}), ...codes])].flatMap((code): AskedFact[] => {
		const fact = p.world.facts.get(code);
		return fact ? [{ ...fact, how: asks?.[code] ?? 'asked' }] : [];
	});
	// What is recorded is not asked again, nor what another movement of the event says of the same lot or serial.
	const [recorded, beside]: Facts[] = [{}, {}];
	for (const f of asked) {
		const mark = factKeeper(f, l);
		const said = p.said.get(mark.id)?.[f.code];
		// What another movement measures anew counts instead of what is recorded.
		if (said !== undefined) beside[f.code] = said;
		if (mark.facts[f.code] && (said === undefined || given[f.code]?.trim())) recorded[f.code] = mark.facts[f.code];
		const mine = given[f.code]?.trim();
		if (mine && said !== undefined && said !== mine && mark.kind === 'lot')
			addFinding(p, l, say.factsDisagree, {
				name: f.name,
				lot: mark.lot_no!,
				one: showFact(f, said),
				other: showFact(f, mine)
			});
	}
	const { values, findings } = checkFacts(asked, given, recorded, beside);
	l.given.facts = values;
	for (const f of findings) addFinding(p, l, say.fact, { problem: f.message }, { level: f.level, open: f.open });
	for (const f of asked) {
		const file = f.kind === 'file' && values[f.code] ? fileOf(values[f.code]) : null;
		if (file && !p.world.files.has(file.sha256)) addFinding(p, l, say.fileGone, { name: file.name });
	}
}

/** The facts that movements give, gathered by the lot or serial that keeps each. */
function saidIn({ lines, world }: Checking): Map<string, Facts> {
	const said = new Map<string, Facts>();
	for (const l of lines)
		for (const [code, value] of Object.entries(l.given.facts ?? {})) {
			const fact = world.facts.get(code);
			if (!fact || !value.trim()) continue;
			const { id } = factKeeper(fact, l);
			const facts = said.get(id) ?? {};
			said.set(id, facts);
			facts[code] ??= value.trim();
		}
	return said;
}

/** Runs that are declared: each is used, and a unit's run makes its unit, whose item carries serials. */
function checkRuns(p: Pass) {
	const units = new Map<string, Run>();
	const first = new Map<Run, Line>();
	for (const l of p.lines) if (l.run && !first.has(l.run)) first.set(l.run, l);
	for (const run of p.runs) {
		const mine = first.get(run);
		const tellRun = <A>(check: Check<A>, args: A) =>
			void p.out.push(found(check, args, { line: mine?.index ?? -1, about: null }));
		if (!mine && !run.closes) tellRun(say.idleRun, { run: run.code });
		if (!run.unit) continue;
		const number = `Serial ${run.unit.serial_no}`;
		const other = units.get(run.unit.id);
		if (other) tellRun(say.unitTwice, { run: run.code, unit: number, other: other.code });
		units.set(run.unit.id, run);
	}
}

/** Of each run: the first to expire of what went in before, and of what goes in now. */
function firstToExpire({ runs, lines, world }: Checking): Map<Run, Expiring> {
	const first = new Map<Run, Expiring>();
	for (const run of runs) keepEarliest(first, run, run.id ? world.inRuns.get(run.id) : null);
	for (const l of lines)
		if (l.run && l.given.role === 'use')
			keepEarliest(first, l.run, expiring(aboutOf(l), l.mark.expires_on ?? l.lot?.expires_on ?? null));
	return first;
}

/** What is made should not outlive what went into it: the first to expire of all that its run holds. */
function checkOutlives(p: Pass) {
	for (const l of p.lines) {
		const part = l.run && l.given.role === 'make' ? p.first.get(l.run) : undefined;
		const day = l.given.expiresOn ?? l.mark.expires_on ?? l.lot?.expires_on;
		if (!part || !day || day <= part.on) continue;
		const args = { what: l.item.name, part: part.number, on: part.on, days: daysBetween(part.on, day) };
		addFinding(p, l, say.outlives, args, { level: policy(p, say.outlives) });
	}
}

/** A serial that comes in from outside must be outside: new, or gone to just where it comes from. */
function checkArrivals(p: Pass, lines: readonly Line[]) {
	// Where each goes in this event, and by which movement first.
	const goes = new Map<string, number>();
	for (const l of p.lines) {
		const key = `${l.mark.id} ${l.to.code}`;
		if (!goes.has(key)) goes.set(key, l.index);
	}
	for (const l of lines) {
		if (l.mark.kind !== 'serial' || l.mark.fresh || !l.from.virtual || l.given.role === 'detach') continue;
		const last = p.world.last.get(l.mark.id);
		if (!last) {
			if (l.from.code === '@customer') addFinding(p, l, say.neverShipped, {});
			continue;
		}
		if ((goes.get(`${l.mark.id} ${l.from.code}`) ?? l.index) < l.index) continue;
		const there = virtualPlace(last.code);
		if (!there) addFinding(p, l, say.onHand, { at: last.code, on: last.on }, { mark: l.mark.id });
		else if (last.code !== l.from.code || l.given.role === 'make')
			addFinding(
				p,
				l,
				say.gone,
				{ how: there.gone({ ...last, on: showDay(last.on) }), back: last.code === '@customer' },
				{ mark: l.mark.id }
			);
	}
}

/** Too little at a place: the net of the whole event, so that what comes and goes within it balances out. */
function checkStock(p: Pass, lines: readonly Line[]) {
	const net = new Map<string, { line: Line; place: Place; in: string; out: string }>();
	const move = (line: Line, place: Place, qty: string, out: boolean) => {
		if (place.virtual) return;
		const key = `${line.mark.id} ${place.id}`;
		const n = net.get(key);
		if (!n) net.set(key, { line, place, in: out ? '0' : qty, out: out ? qty : '0' });
		else if (out) Object.assign(n, { line, out: add(n.out, qty) });
		else n.in = add(n.in, qty);
	};
	// What is only put somewhere cannot fall short there: a receipt of ten thousand has nothing to add up.
	const leaving = new Set(lines.filter((l) => !l.from.virtual).map((l) => l.mark.id));
	for (const l of lines) {
		if (!leaving.has(l.mark.id)) continue;
		move(l, l.from, l.given.qty, true);
		move(l, l.to, l.given.qty, false);
	}
	for (const { line, place, in: comes, out: asked } of net.values()) {
		if (!less(comes, asked)) continue;
		const standing = p.world.standing.get(line.mark.id) ?? [];
		const have = standing.find((s) => s.place === place.id)?.qty ?? '0';
		if (!less(add(comes, have), asked)) continue;
		const others = standing.filter((s) => s.place !== place.id).map((s) => ({ qty: s.qty, at: s.code }));
		addFinding(
			p,
			line,
			say.short,
			{
				serial: line.mark.kind === 'serial',
				at: place.code,
				have,
				asked,
				unit: line.item.unit,
				taker: p.world.takers.get(`${line.mark.id} ${place.id}`) ?? null,
				others
			},
			{ mark: line.mark.fresh ? undefined : line.mark.id }
		);
	}
}
/** What is promised to another order is taken over only with a reason. */
function checkPromises(p: Pass, lines: readonly Line[]) {
	for (const { line, of } of takenOver(lines, p.world.standing, p.world.promised))
		addFinding(
			p,
			line,
			say.promisedAway,
			{ of, unit: line.item.unit, serial: line.mark.kind === 'serial' },
			{ level: policy(p, say.promisedAway), mark: line.mark.id }
		);
}

/** What leaves a place where picked goods wait, of what was picked for other orders. */
function checkStaged(p: Pass, lines: readonly Line[]) {
	for (const [at, { of, qty }] of p.world.staged) {
		const moves = lines.filter((l) => `${l.mark.id} ${l.from.id}` === at);
		if (!moves.length) continue;
		const there = (p.world.standing.get(moves[0].mark.id) ?? []).find((s) => s.place === moves[0].from.id)?.qty ?? '0';
		const stays = rest(there, total(moves.map((l) => l.given.qty)));
		if (!less(stays, qty)) continue;
		const [line] = moves.slice(-1);
		const args = { of, qty: amount(sub(qty, stays), line.item.unit) };
		addFinding(p, line, say.stagedFor, args, { level: policy(p, say.stagedFor), mark: line.mark.id });
	}
}

/** What comes back from a customer or goes back to a supplier: of those that it was with, and nothing else with it. */
function checkReturns(p: Pass, lines: readonly Line[]) {
	const { partner } = p.world;
	const came = new Map<string, { line: Line; qty: string }>();
	for (const l of lines) {
		if (l.from.code === '@customer')
			came.set(l.mark.id, { line: l, qty: add(came.get(l.mark.id)?.qty ?? '0', l.given.qty) });
		const from = l.to.code === '@supplier' && partner ? (p.world.cameFrom.get(l.mark.id) ?? []) : [];
		if (partner && from.length && !from.includes(partner))
			addFinding(p, l, say.notFromThem, { partner, from }, { level: policy(p, say.notFromThem), mark: l.mark.id });
	}
	if (partner)
		for (const [mark, { line, qty }] of came) {
			const there = p.world.withThem.get(mark);
			// Of a serial that is not with a customer at all it is said already where it is.
			const away = line.mark.kind !== 'serial' || p.world.last.get(mark)?.code === '@customer';
			if (!there || !away || !less(there.has, qty)) continue;
			const args = { partner, has: there.has, asked: qty, unit: line.item.unit, others: there.others };
			addFinding(p, line, say.notWithThem, args, { level: policy(p, say.notWithThem), mark });
		}
	if (p.kind !== 'return') return;
	const scrapped = new Map<string, string>();
	for (const l of lines) {
		if (l.from.code === '@customer') continue;
		const qty = add(scrapped.get(l.mark.id) ?? '0', l.given.qty);
		scrapped.set(l.mark.id, qty);
		if (less(came.get(l.mark.id)?.qty ?? '0', qty)) addFinding(p, l, say.notReturned, { from: l.from.code });
	}
}

/** What is noted of a receipt: a lot that is known, and one that came before under the supplier's number. */
export function notesOfReceipt(lines: readonly Line[], again: Again): Finding[] {
	const out: Finding[] = [];
	const seen = new Set<string>();
	for (const l of lines) {
		const lot = l.mark.kind === 'lot' ? l.mark : l.lot;
		if (l.from.code !== '@supplier' || !lot) continue;
		const about: About = { kind: 'lot', number: lot.lot_no! };
		const known = again.known.get(lot.id);
		if (known && !seen.has(lot.id))
			out.push(found(say.knownLot, { onHand: known.onHand }, { line: l.index, about, mark: lot.id }));
		seen.add(lot.id);
		const typed = l.given.supplierLot || lot.lot_no!;
		const theirs = again.theirs.get(`${l.item.id} ${typed.toLowerCase()}`);
		if (!theirs || theirs.number === lot.lot_no || seen.has(`${theirs.mark} ${typed}`)) continue;
		seen.add(`${theirs.mark} ${typed}`);
		out.push(
			found(
				say.supplierLotKnown,
				{
					theirs: typed,
					ours: theirs.number,
					on: theirs.on,
					expires: theirs.expires,
					given: l.given.expiresOn ?? null
				},
				{ line: l.index, about, mark: theirs.mark, use: theirs.number }
			)
		);
	}
	return out;
}
