import { sayDuration, showDay, type Day } from '../dates/dates.ts';
import { sayStatus } from '../ledger/status.ts';
import { readBack, type Block } from '../numbering/pattern.ts';
import { show } from '../quantity/quantity.ts';
import type { Check, Level, Strength } from './check.ts';

/*
 * Every check there is, once: its code, how strong it is, when the firm may set that, the sentence and the way out.
 * Whatever refuses a row, a press of the button or a call of a program says it in these words.
 */

const all: Check<never>[] = [];
function define<A>(code: string, level: Level | null, say: Check<A>['say'], policy: string | null = null): Check<A> {
	const check = { code, level, policy, say };
	all.push(check);
	return check;
}
/** What a finding asks, by how strong it is. */
const ask = (level: Level, reason: string, note = '') =>
	level === 'stop' ? ' It cannot be booked so.' : level === 'reason' ? ` ${reason}` : note;

// Form ------------------------------------------------------------------------------------------

/** A quantity or a number that cannot be read: the reader of it says why and how to type it. */
export const unread = define<{ problem: string }>('form', 'stop', (_s, a) => a.problem);
export const quantity = define<{ problem: string }>('quantity', 'stop', (_s, a) => a.problem);
export const onePiece = define<{ qty: string }>(
	'one piece',
	'stop',
	(s, a) => `${s.text} ${s.is} one piece; ${a.qty} were given. Give each piece a serial of its own.`
);
export const twice = define<object>('twice', 'stop', (s) => `${s.text} stand${s.s} here twice. Take one out.`);
export const tooMany = define<{ count: number; most: number }>(
	'too many',
	'stop',
	(_s, a) =>
		`${a.count.toLocaleString('en')} numbers are more than one document takes (${a.most.toLocaleString('en')}). Split it.`
);

// Places, runs and roles ------------------------------------------------------------------------

export const samePlace = define<{ place: string }>(
	'same place',
	'stop',
	(s, a) => `${s.text} ${s.is} moved from ${a.place} to itself. Give another place.`
);
export const noPlaceBetween = define<{ from: string; to: string }>(
	'no place between',
	'stop',
	(s, a) =>
		`${s.text} go${s.many ? '' : 'es'} from ${a.from} to ${a.to} without having been at a place. Book the arrival first, then where it goes.`
);
export const direction = define<{ role: string | null; from: string; to: string }>(
	'direction',
	'stop',
	(s, a) =>
		`${s.text}: ${a.role ? `a ${a.role} goes ${a.role === 'use' ? 'to @process' : 'from @process'}, this one goes from ${a.from} to ${a.to}` : `what goes through @process needs a run and a role`}. Correct the places or the role.`
);
export const runAndRole = define<object>(
	'run and role',
	'stop',
	(s) => `${s.text}: a run and a role go together. Give both or none.`
);
export const orderInRun = define<{ run: string }>(
	'order in run',
	'stop',
	(s, a) =>
		`${s.text} go${s.many ? '' : 'es'} into run ${a.run} after something came out in the same event. List what goes in first.`
);
export const closedRun = define<{ run: string }>(
	'closed run',
	'stop',
	(_s, a) => `Run ${a.run} is closed. Start another run.`
);
export const pooledDetach = define<{ run: string }>(
	'pooled run',
	'stop',
	(_s, a) => `Only a finished unit gives a component back; run ${a.run} is pooled. Undo the use instead.`
);
export const otherUnit = define<{ run: string; unit: string }>(
	'other unit',
	'stop',
	(s, a) => `Run ${a.run} makes ${a.unit}, not ${s.text}. Give each unit a run of its own.`
);
export const notContained = define<{ run: string; unit: string; have: string; asked: string; of: string }>(
	'contained',
	'stop',
	(s, a) => `${s.text}: ${show(a.have)} ${a.of} are in ${a.unit}, ${show(a.asked)} are to come out. Check the unit.`
);
export const unitWithoutSerials = define<{ run: string; item: string }>(
	'unit without serials',
	'stop',
	(_s, a) =>
		`Run ${a.run} is to make a serial of ${a.item}, which carries no serials. Leave the unit out, or name another item.`
);
export const idleRun = define<{ run: string }>(
	'idle run',
	'stop',
	(_s, a) => `Run ${a.run} is declared, and nothing goes into it or comes out. Leave it out, or give its movements.`
);
export const unitTwice = define<{ run: string; unit: string; other: string }>(
	'unit twice',
	'stop',
	(_s, a) =>
		`${a.unit} is the unit of run ${a.other} already. A unit keeps its own run for its whole life: name that run, not ${a.run}.`
);
export const otherRun = define<{ run: string }>(
	'other run',
	'stop',
	(_s, a) => `Run ${a.run} is already another run. Give this one a code of its own.`
);
export const runTwice = define<{ run: string }>(
	'run twice',
	'stop',
	(_s, a) => `Run ${a.run} is declared twice. Take one out.`
);
export const noSuchRun = define<{ run: string }>(
	'no such run',
	'stop',
	(_s, a) => `There is no run ${a.run}. Declare it in runs, or correct the code.`
);

// Names -----------------------------------------------------------------------------------------

export const noSuch = define<{ what: 'item' | 'place' | 'partner' | 'job' | 'fact'; code: string }>(
	'no such name',
	'stop',
	(_s, a) =>
		`There is no ${a.what} ${a.code}. ${a.what === 'fact' ? 'Define' : 'Add'} it in Setup, or correct the code.`
);
export const noSuchMark = define<{ item: string }>(
	'no such number',
	'stop',
	(_s, a) => `This lot or serial of ${a.item} is not known any more. Reload the page.`
);
export const jobMissing = define<object>('job missing', 'stop', () => 'It goes to a job: name the job.');
export const closedJob = define<{ job: string }>(
	'closed job',
	'stop',
	(_s, a) => `Job ${a.job} is closed. Open it again in Setup, or name another.`
);

// Numbers ---------------------------------------------------------------------------------------

export const carriesNo = define<{ item: string; what: 'lot' | 'serial'; number: string }>(
	'carries none',
	'stop',
	(_s, a) => `${a.item} carries no ${a.what}; take ${a.what} ${a.number} out.`
);
export const numberMissing = define<{ item: string; what: 'lot' | 'serial'; step: string }>(
	'number missing',
	null,
	(_s, a, level) =>
		`${a.item} needs a ${a.what} at ${a.step}.${level === 'stop' ? ` Scan or type it from the label.` : ' Type it, or say why there is none.'}`
);
export const unknown = define<{ item: string }>(
	'unknown',
	'stop',
	(s, a) => `${s.text} of ${a.item} ${s.is} not known here. Check the number, or receive it first.`
);
export const otherLot = define<{ lot: string }>(
	'other lot',
	'stop',
	(s, a) => `${s.text} do${s.many ? '' : 'es'} not belong to lot ${a.lot}. Check which of the two is wrong.`
);
/** A number that does not fit its item's pattern; of several the first is told, and how many more. */
export const misfit = define<{ pattern: Block[] }>('misfit', null, (_s, a, _level, numbers) => {
	const problems = numbers.flatMap((n) => {
		const read = readBack(a.pattern, n.number);
		return 'problem' in read ? [read.problem] : [];
	});
	return `${problems[0] ?? ''}${problems.length > 1 ? ` So do ${problems.length - 1} more.` : ''}`;
});
export const sharedSerial = define<{ item: string }>(
	'shared serial',
	'stop',
	(s, a) => `${s.text} ${s.is} used by item ${a.item} already, and must be unique over all items. Give another.`
);
export const anotherItem = define<{ name: string }>(
	'another item',
	'reason',
	(s, a, level) =>
		`${s.text} ${s.is} known as ${s.many ? 'serials' : 'a serial'} of ${a.name}.${ask(level, 'Check the label, or say why it is right.')}`,
	'a serial belongs to another item'
);
export const looksAlike = define<{ known: string }>(
	'looks alike',
	'reason',
	(s, a, level) =>
		`${s.text} look${s.s} like ${a.known}, which is known here.${ask(level, 'Check the label, or say why it is another.', ' Check the label.')}`,
	'a new number looks like one that is known'
);
export const sheetLotTwice = define<{ bin: string }>(
	'lot twice',
	'stop',
	(s, a) =>
		`${s.text} stand${s.s} in this sheet already${a.bin ? ` for ${a.bin}` : ''}. Put its whole quantity in one row, or name another bin.`
);
export const supplierRun = define<{ first: string }>(
	'supplier run',
	'stop',
	(_s, a) => `The supplier’s serial ${a.first} has no digits to count on from. Enter its pieces one by one.`
);
export const knownLot = define<{ onHand: string }>(
	'known lot',
	'note',
	(s, a) => `${s.text} ${s.is} known: ${a.onHand} on hand. This adds to it.`
);
export const supplierLotKnown = define<{
	theirs: string;
	ours: string;
	on: Day | null;
	expires: Day | null;
	given: Day | null;
}>('supplier lot known', 'note', (_s, a) => {
	const dates =
		a.expires && a.given && a.expires !== a.given
			? `; it expires ${showDay(a.expires)}, here ${showDay(a.given)} is given`
			: a.expires
				? `, expires ${showDay(a.expires)}`
				: '';
	return `The supplier’s lot ${a.theirs} came${a.on ? ` on ${showDay(a.on)}` : ''} as ${a.ours}${dates}.`;
});

// Where things are ------------------------------------------------------------------------------

export const onHand = define<{ at: string; on: Day }>(
	'on hand',
	'stop',
	(s, a) => `${s.text} ${s.is} already on hand at ${a.at} since ${showDay(a.on)}. Scan another, or open it.`
);
export const gone = define<{ how: string; back: boolean }>(
	'gone',
	'stop',
	(s, a) => `${s.text} ${a.how}.${a.back ? ' Enter it as a return.' : ' Check the number.'}`
);
export const neverShipped = define<object>(
	'never shipped',
	'stop',
	(s) => `${s.text} ${s.was} never shipped, so it cannot come back. Check the number.`
);
export interface Shortage {
	serial: boolean;
	at: string;
	have: string;
	asked: string;
	unit: string;
	/** who took from it last, when, and for what */
	taker: { by: string; at: string; how: string } | null;
	/** where else it is */
	others: { qty: string; at: string }[];
}
export const short = define<Shortage>('short', 'stop', (s, a) => {
	const there = a.serial
		? `${s.text} ${s.is} not at ${a.at}.`
		: `${s.text}: ${show(a.have)} ${a.unit} at ${a.at}, ${show(a.asked)} asked for.`;
	const taken = a.taker ? ` ${a.taker.by} took ${a.serial ? 'it' : 'from it'} on ${a.taker.at} (${a.taker.how}).` : '';
	const else_ = a.others.length
		? ` There is ${a.others.map((o) => `${show(o.qty)} at ${o.at}`).join(', ')}.`
		: ' Take another, or check the number.';
	return there + taken + else_;
});
export const promised = define<{ qty: string }>(
	'promised',
	'note',
	(s, a) => `${s.text}: another open sheet holds ${show(a.qty)} of it.`
);
export const binElsewhere = define<{ place: string; site: string }>(
	'bin elsewhere',
	'stop',
	(_s, a) => `${a.place} is not at ${a.site}, where this arrives. Choose a bin of ${a.site}, and transfer it later.`
);

// Quality and dates -----------------------------------------------------------------------------

export const stopped = define<{ status: string }>(
	'status',
	'stop',
	(s, a) => `${s.text} ${s.is} ${sayStatus(a.status)} and stay${s.s} here. Take another, or have it released.`
);
export const expiredGoes = define<{ on: Day }>(
	'expired goes',
	'reason',
	(s, a, level) =>
		`${s.text} expired on ${showDay(a.on)}.${ask(level, 'Take another, or say why it goes.', ' Take another if there is one.')}`,
	'what is taken has expired'
);
export const expiredComes = define<{ on: Day }>(
	'expired',
	'reason',
	(s, a, level) => `${s.text} expired on ${showDay(a.on)}.${ask(level, 'Say why it is taken in, or send it back.')}`,
	'what arrives has expired already'
);
export const tooShort = define<{ on: Day; least: string }>(
	'too short',
	'reason',
	(s, a, level) =>
		`${s.text} expire${s.s} on ${showDay(a.on)}; ${sayDuration(a.least)} must be left at receipt.${ask(level, 'Say why it is taken in, or send it back.')}`,
	'less of its life is left at receipt than the item asks'
);
export const changedExpiry = define<{ worked: Day; ground: string; day: Day }>(
	'changed expiry',
	'reason',
	(_s, a, level) =>
		`Expiry changed from ${showDay(a.worked)} (${a.ground}) to ${showDay(a.day)}.${ask(level, 'Say why.')}`,
	'an expiry date that was worked out is changed'
);
export const outlives = define<{ what: string; part: string; on: Day; days: number }>(
	'outlives',
	'note',
	(s, a, level) =>
		`${s.text || a.what} would outlive ${a.part}, which expires ${showDay(a.on)}, by ${a.days.toLocaleString('en')} ${a.days === 1 ? 'day' : 'days'}.${ask(level, 'Type an earlier date, or say why.')}`,
	'what is made would outlive something that goes into it'
);
export const badDate = define<{ what: string; problem: string }>(
	'date',
	'stop',
	(s, a) => `${s.text}, ${a.what}: ${a.problem}`
);
export const madeAhead = define<{ on: Day }>(
	'made ahead',
	'stop',
	(_s, a) => `Made on ${showDay(a.on)} lies ahead. Check the date.`
);
export const expiresBeforeMade = define<{ on: Day }>(
	'expires before made',
	'stop',
	(_s, a) => `It expires on ${showDay(a.on)}, before it was made. Check the dates.`
);
export const expiryMissing = define<{ step: string }>(
	'expiry missing',
	null,
	(s, a, level) =>
		`${s.text} need${s.s} an expiry date at ${a.step}. ${level === 'stop' ? 'Type it from the label.' : 'Type it, or say why there is none.'}`
);
export const otherExpiry = define<{ recorded: Day; given: Day }>(
	'other expiry',
	'stop',
	(s, a) =>
		`${s.text} ${s.is} recorded to expire ${showDay(a.recorded)}, not ${showDay(a.given)}. Take the recorded date, or another number.`
);
export const otherMadeOn = define<{ recorded: Day; given: Day }>(
	'other made on',
	'stop',
	(s, a) =>
		`${s.text} ${s.is} recorded as made on ${showDay(a.recorded)}, not ${showDay(a.given)}. Take the recorded date, or another number.`
);

// Facts -----------------------------------------------------------------------------------------

/** What the reader of facts says of one: missing, wrong, outside its limits, replacing another. */
export const fact = define<{ problem: string }>('fact', null, (s, a) => `${s.text}: ${a.problem}`);
export const factsDisagree = define<{ name: string; lot: string; one: string; other: string }>(
	'facts disagree',
	'stop',
	(_s, a) => `${a.name} of lot ${a.lot} is ${a.one} in one row and ${a.other} here. Make them the same.`
);
export const factWithoutNumber = define<{ item: string }>(
	'fact without number',
	'stop',
	(_s, a) =>
		`${a.item} has no lot or serial here that a fact could be kept with. Give its number, or leave the fact out.`
);
export const fileGone = define<{ name: string }>(
	'file gone',
	'stop',
	(_s, a) => `The file ${a.name} is not here. Add it once more.`
);

// Documents -------------------------------------------------------------------------------------

export const notAnnounced = define<object>(
	'not announced',
	'note',
	(s, _a, level) =>
		`${s.text} ${s.was} not announced. Check the label${{ stop: ', or put it aside', reason: ', or say why it is taken in', note: '', missing: '' }[level]}.`,
	'a number arrives that the supplier’s notice does not name'
);
export const notReleased = define<object>(
	'not released',
	'note',
	(s, _a, level) =>
		`${s.text} ${s.was} not drawn when the order was released${{ stop: '. Take one that was', reason: ': say why it is used', note: '', missing: '' }[level]}.`,
	'a number is given that was not drawn when the order was released'
);
export const moreThanOrdered = define<{ what: string; out: string }>(
	'more than ordered',
	'reason',
	(_s, a, level) => `${a.what}: ${level === 'reason' ? `say why, or ${a.out}` : a.out}`,
	'more comes, is made or goes than was ordered'
);
export const stillOpen = define<{ what: string }>('still open', 'missing', (_s, a) => a.what);
export const tooFewSerials = define<{ count: string }>(
	'too few serials',
	null,
	(_s, a) => `${show(a.count)} serials missing: they are given at shipment`
);
export const tooManySerials = define<{ count: string }>(
	'too many serials',
	'stop',
	(_s, a) => `${show(a.count)} more serials than pieces that go. Take them out`
);
export const partShort = define<{ name: string; amount: string }>(
	'part short',
	'reason',
	(_s, a) => `${a.amount} of ${a.name} less than the parts list asks: say why`
);
export const unitShort = define<{ name: string; unit: string; more: number }>(
	'unit short',
	'stop',
	(_s, a) => `${a.name} is missing in ${a.unit}${a.more ? ` and ${a.more} more` : ''}. Scan or choose what goes in`
);
export const unitNotStarted = define<{ unit: string }>(
	'unit not started',
	'stop',
	(_s, a) => `${a.unit} has no parts recorded. Choose “Use and output”, or record its parts first`
);
export const unitStarted = define<{ unit: string }>(
	'unit started',
	'stop',
	(_s, a) => `the parts of ${a.unit} are recorded. Choose “Output only” to finish it`
);

/** Every check, by its code. */
export const CHECKS: ReadonlyMap<string, Check<never>> = new Map(all.map((c) => [c.code, c]));

/** The checks whose strength a firm may set, as delivered: what would break the ledger is no matter of policy. */
export const POLICY_CHECKS = all.flatMap((c) =>
	c.policy && c.level && c.level !== 'missing' ? [{ code: c.code, says: c.policy, strength: c.level as Strength }] : []
);
/** How strongly the firm takes what each of them finds. */
export type Policy = Record<string, Strength>;
/** The policy of a firm that set nothing. A new object each time. */
export const asDelivered = (): Policy => Object.fromEntries(POLICY_CHECKS.map((c) => [c.code, c.strength]));
