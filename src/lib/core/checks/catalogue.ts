import { grouped } from '../quantity/sign.ts';
import { sayDuration, showDay, type Day } from '../dates/dates.ts';
import { HOW_KNOWN, type Enough, type Evidence } from '../ledger/evidence.ts';
import { sayStatus } from '../ledger/status.ts';
import { readBack, type Block } from '../numbering/pattern.ts';
import { amount, show } from '../quantity/quantity.ts';
import { subjectOf, type About, type Check, type Level, type Strength } from './check.ts';

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
	level === 'stop' ? ' It cannot be booked like this.' : level === 'reason' ? ` ${reason}` : note;

// Form ------------------------------------------------------------------------------------------

/** A quantity or a number that cannot be read: the reader of it says why and how to type it. */
export const unread = define<{ problem: string }>('form', 'stop', (_s, a) => a.problem);
/** A quantity that can be read and still is none: zero, negative, finer than the item’s decimals. */
export const quantity = define<{ problem: string }>('quantity', 'stop', (_s, a) => a.problem);
/** More or less than one piece was given under one serial. */
export const onePiece = define<{ qty: string }>(
	'one piece',
	'stop',
	(s, a) => `${s.text} ${s.is} one piece; ${a.qty} were given. Give each piece a serial of its own.`
);
/** The same number stands in one document twice. */
export const twice = define<object>('twice', 'stop', (s) => `${s.text} stand${s.s} here twice. Remove one.`);
/** One document would carry more numbers than it may: said before they are counted out. */
export const tooMany = define<{ count: number; most: number }>(
	'too many',
	'stop',
	(_s, a) => `${grouped(a.count)} numbers are more than one document takes (${grouped(a.most)}). Split it.`
);

// Places, runs and roles ------------------------------------------------------------------------

/** A movement from a place to itself. */
export const samePlace = define<{ place: string }>(
	'same place',
	'stop',
	(s, a) => `${s.text} ${s.is} moved from ${a.place} to itself. Give another place.`
);
/** A movement from one end of the ledger straight to another, which no place of the firm saw. */
export const noPlaceBetween = define<{ from: string; to: string }>(
	'no place between',
	'stop',
	(s, a) =>
		`${s.text} go${s.many ? '' : 'es'} from ${a.from} to ${a.to} without having been at a place. Book the arrival first, then where it goes.`
);
/** A role against its movement: a use that does not go into @process, an output that does not come from it. */
export const direction = define<{ role: string | null; from: string; to: string }>(
	'direction',
	'stop',
	(s, a) =>
		`${s.text}: ${a.role ? `a ${a.role} goes ${a.role === 'use' ? 'to @process' : 'from @process'}, this one goes from ${a.from} to ${a.to}` : `what goes through @process needs a run and a role`}. Correct the places or the role.`
);
/** A movement that its kind of event is not for: a service that scraps a shelf, a receipt that moves stock. */
export const notOfKind = define<{ kind: string; from: string; to: string; role: string | null; other: string | null }>(
	'not of kind',
	'stop',
	(s, a) =>
		`${s.text}: an event of kind ${a.kind} moves nothing from ${a.from} to ${a.to}${a.role ? ` as ${a.role}` : ''}. ${a.other ? `Book it as ${a.other}.` : 'Correct the places, the role or the run.'}`
);
/** A service scraps something that is neither the unit it is of, nor came out of it. */
export const notServiced = define<object>(
	'not serviced',
	'stop',
	(s) => `${s.text} is not the unit that is serviced, and did not come out of it. Scrap it by an adjustment.`
);
/** A repacking without what goes in, or what comes out. */
export const packsNothing = define<{ run: string; what: 'goes in' | 'comes out' }>(
	'packs nothing',
	'stop',
	(_s, a) => `Nothing ${a.what} in run ${a.run}. A repacking has what goes in and the packs that come out.`
);
/** A run without a role, or a role without a run. */
export const runAndRole = define<object>(
	'run and role',
	'stop',
	(s) => `${s.text}: a run and a role go together. Give both or none.`
);
/** Something goes into a run after something came out in the same event: a trace could not tell what was in it. */
export const orderInRun = define<{ run: string }>(
	'order in run',
	'stop',
	(s, a) =>
		`${s.text} go${s.many ? '' : 'es'} into run ${a.run} after something came out in the same event. List what goes in first.`
);
/** A movement of a run that is closed. */
export const closedRun = define<{ run: string }>(
	'closed run',
	'stop',
	(_s, a) => `Run ${a.run} is closed. Start another run.`
);
/** A component taken back from a pooled run, where nobody can say which finished lot it was in. */
export const pooledDetach = define<{ run: string }>(
	'pooled run',
	'stop',
	(_s, a) =>
		`Only a finished unit gives a component back; ${a.run} was made as one batch. What was not used of it is given back as part of its use.`
);
/** A run of one unit is to give another number. */
export const otherUnit = define<{ run: string; unit: string }>(
	'other unit',
	'stop',
	(s, a) => `Run ${a.run} makes ${a.unit}, not ${s.text}. Give each unit a run of its own.`
);
/** More of a component is to come out of a unit than went in. */
export const notContained = define<{ run: string; unit: string | null; have: string; asked: string; of: string }>(
	'contained',
	'stop',
	(s, a) =>
		`${s.text}: ${show(a.have)} ${a.of} are in ${a.unit ?? a.run}, ${show(a.asked)} are to come out. Check the ${a.unit ? 'unit' : 'quantity'}.`
);
/** A run of one unit for an item that has no serials to name the unit by. */
export const unitWithoutSerials = define<{ run: string; item: string }>(
	'unit without serials',
	'stop',
	(_s, a) =>
		`Run ${a.run} is to make a serial of ${a.item}, which carries no serials. Leave the unit out, or name another item.`
);
/** A run is declared and has no movement. */
export const idleRun = define<{ run: string }>(
	'idle run',
	'stop',
	(_s, a) => `Run ${a.run} is declared, and nothing goes into it or comes out. Remove it, or give its movements.`
);
/** A unit that has a run already gets a second. */
export const unitTwice = define<{ run: string; unit: string; other: string }>(
	'unit twice',
	'stop',
	(_s, a) =>
		`${a.unit} is the unit of run ${a.other} already. A unit keeps its own run for its whole life: name that run, not ${a.run}.`
);
/** A run is declared again as another run than it is. */
export const otherRun = define<{ run: string }>(
	'other run',
	'stop',
	(_s, a) => `Run ${a.run} is already another run. Give this one a code of its own.`
);
/** One event declares the same run twice. */
export const runTwice = define<{ run: string }>(
	'run twice',
	'stop',
	(_s, a) => `Run ${a.run} is declared twice. Remove one.`
);
/** A movement names a run that is neither known nor declared. */
export const noSuchRun = define<{ run: string }>(
	'no such run',
	'stop',
	(_s, a) => `There is no run ${a.run}. Declare it in runs, or correct the code.`
);

// Names -----------------------------------------------------------------------------------------

/** A code that is not set up. */
export const noSuch = define<{ what: 'item' | 'place' | 'partner' | 'job' | 'fact'; code: string }>(
	'no such name',
	'stop',
	(_s, a) =>
		`There is no ${a.what} ${a.code}. ${a.what === 'fact' ? 'Define' : 'Add'} it in Setup, or correct the code.`
);
/** A number that a draft points to by id is no longer there. */
export const noSuchMark = define<{ item: string }>(
	'no such number',
	'stop',
	(_s, a) => `This lot or serial of ${a.item} is not known any more. Reload the page.`
);
/** What goes to a job does not say to which. */
export const jobMissing = define<object>('job missing', 'stop', () => 'It goes to a job: name the job.');
/** It goes to a job that is closed. */
export const closedJob = define<{ job: string }>(
	'closed job',
	'stop',
	(_s, a) => `Job ${a.job} is closed. Open it again in Setup, or name another.`
);

// Numbers ---------------------------------------------------------------------------------------

/** A number was given that the item does not carry. */
export const carriesNo = define<{ item: string; what: 'lot' | 'serial'; number: string }>(
	'carries none',
	'stop',
	(_s, a) => `${a.item} carries no ${a.what}; take ${a.what} ${a.number} out.`
);
/** A number that the marking rule asks at this step is missing; the rule says how strongly. */
export const numberMissing = define<{ item: string; what: 'lot' | 'serial'; step: string }>(
	'number missing',
	null,
	(_s, a, level) =>
		`${a.item} needs a ${a.what} at ${a.step}.${level === 'stop' ? ` Scan or type it from the label.` : ' Type it, or say why there is none.'}`
);
/** A number is taken that never came in. */
export const unknown = define<{ item: string }>(
	'unknown',
	'stop',
	(s, a) => `${s.text} of ${a.item} ${s.is} not known here. Check the number, or receive it first.`
);
/** It is identified less reliably than the marking rule requires at this step. */
export const knownTooLittle = define<{ known: Evidence; enough: Enough; step: string }>(
	'evidence',
	'reason',
	(s, a, level) =>
		`${s.text} ${s.was} ${HOW_KNOWN[a.known]}; at ${a.step} ${s.many ? 'they are' : 'it is'} to be scanned${a.enough === 'entered' ? ' or typed' : ''}.${ask(level, 'Scan the label, or say why it cannot be.')}`,
	'it is identified less reliably than its rule requires'
);
/** A serial is named under a lot that it does not belong to. */
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
/** A new number with a sign that no label shows: it would look like another one and be none. */
export const unseenSign = define<object>(
	'unseen sign',
	'stop',
	(s) => `${s.text} hold${s.s} a sign that cannot be seen. Type the number by hand, as it is printed.`
);
/** A serial that another item has, where the firm wants them unique over all items. */
export const sharedSerial = define<{ item: string }>(
	'shared serial',
	'stop',
	(s, a) => `${s.text} ${s.is} used by item ${a.item} already, and must be unique over all items. Give another.`
);
/** A serial that another item has: most often the wrong label was scanned. */
export const anotherItem = define<{ name: string }>(
	'another item',
	'reason',
	(s, a, level) =>
		`${s.text} ${s.is} known as ${s.many ? 'serials' : 'a serial'} of ${a.name}.${ask(level, 'Check the label, or say why it is right.')}`,
	'a serial belongs to another item'
);
/** What was found is given to a lot that nobody knows, beside one that is written nearly so. */
export const unknownFound = define<{ near: readonly string[] }>(
	'unknown found',
	'reason',
	(s, a, level) =>
		`${s.text} ${s.is} not known, and ${a.near.join(', ')} ${a.near.length === 1 ? 'is' : 'are'}.${ask(level, 'Correct it, or say why a new lot was found.', ' Look at the label again.')}`,
	'something is found under a lot that nobody knows, and a known one is written nearly so'
);
/** A new number that is not written as the others of its item in the same act. */
export const leavesForm = define<{ form: string }>(
	'leaves form',
	'note',
	(s, a) => `${s.text} ${s.is} written otherwise than the others, as ${a.form}. Look at the label again.`
);
/** A new number that differs from a known one only in signs that look alike (Unicode Technical Standard 39), case, 0 and O, or 1, I and l. */
export const looksAlike = define<{ known: string }>(
	'looks alike',
	'reason',
	(s, a, level) =>
		`${s.text} look${s.s} like ${a.known}, which is known here.${ask(level, 'Check the label, or say why it is another.', ' Check the label.')}`,
	'a new number looks like one that is known'
);
/** A new number that another one had before it was corrected, and that labels or papers still carry. */
export const formerNumber = define<{ now: string }>(
	'former number',
	'stop',
	(s, a) =>
		`${s.text} ${s.was} the number of ${a.now} before it was corrected, and what was printed then still carries it. Give another.`
);
/** A lot stands in one sheet twice for the same bin. */
export const sheetLotTwice = define<{ bin: string }>(
	'lot twice',
	'stop',
	(s, a) =>
		`${s.text} stand${s.s} in this sheet already${a.bin ? ` for ${a.bin}` : ''}. Put its whole quantity in one row, or name another bin.`
);
/** A run of numbers whose supplier’s serial cannot be counted on from. */
export const supplierRun = define<{ first: string }>(
	'supplier run',
	'stop',
	(_s, a) => `The supplier’s serial ${a.first} has no digits to count on from. Enter its pieces one by one.`
);
/** More of a lot that is known comes in: right most of the time, and worth a look. */
export const knownLot = define<{ onHand: string }>(
	'known lot',
	'note',
	(s, a) => `${s.text} ${s.is} known: ${a.onHand} on hand. This adds to it.`
);
/** The supplier’s lot came before under a number of ours, which can be taken again. */
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

/** A serial comes in that is here already. */
export const onHand = define<{ at: string; on: Day }>(
	'on hand',
	'stop',
	(s, a) => `${s.text} ${s.is} already on hand at ${a.at} since ${showDay(a.on)}. Scan another, or open it.`
);
/** A serial comes in that left for good, or that left and may only come back as a return. */
export const gone = define<{ how: string; back: boolean }>(
	'gone',
	'stop',
	(s, a) => `${s.text} ${a.how}.${a.back ? ' Enter it as a return.' : ' Check the number.'}`
);
/** A number comes back from a customer without ever having been shipped. */
export const neverShipped = define<object>(
	'never shipped',
	'stop',
	(s) => `${s.text} ${s.was} never shipped, so it cannot come back. Check the number.`
);
/** What belongs to somebody else leaves the firm's places other than to its owner. */
export const notOurs = define<{ owner: string }>(
	'not ours',
	'reason',
	(s, a, level) =>
		`${s.text} belong${s.s} to ${a.owner}.${ask(level, 'Take another, or say why it goes.', ' It is not ours.')}`,
	'what belongs to somebody else is used, goes to another or is scrapped'
);
/** An owner is said of stock without a number: it could not be told from ours. */
export const ownerWithoutNumber = define<{ item: string; carries: boolean }>(
	'owner without number',
	'stop',
	(_s, a) =>
		`What is not ours of ${a.item} cannot be told from what is without a number. ${a.carries ? 'Give it one.' : 'Leave the owner out, or have the item carry lots (Setup, Items).'}`
);
/** What is repacked together belongs to different owners: nobody could say whose the packs are. */
export const ownersMix = define<{ run: string; owners: string }>(
	'owners mix',
	'stop',
	(_s, a) => `What goes into ${a.run} belongs to ${a.owners}. Repack what is each one’s by itself.`
);
/** What arrives belongs to somebody else than what is here under the same number: one number has one owner. */
export const otherOwner = define<{ recorded: string | null; given: string | null }>(
	'other owner',
	'stop',
	(s, a) =>
		`${s.text} ${a.recorded ? `belong${s.s} to ${a.recorded}` : `${s.is} ours`}, and what comes ${a.given ? `belongs to ${a.given}` : 'is ours'}. Give it a number of its own, or correct whose it is on the page of the number.`
);
/** What comes back is not with that customer by the ledger, or not so much of it. */
export const notWithThem = define<{
	partner: string;
	has: string;
	asked: string;
	unit: string;
	others: readonly string[];
}>(
	'not with them',
	'reason',
	(s, a, level) => {
		const elsewhere = a.others.length ? ` It went to ${a.others.join(', ')}.` : '';
		const said =
			a.has === '0'
				? `By the ledger ${a.partner} has nothing of ${s.text}.${elsewhere}`
				: `By the ledger ${a.partner} has ${amount(a.has, a.unit)} of ${s.text}, and ${amount(a.asked, a.unit)} come back.`;
		return said + ask(level, 'Check the number, or say why it comes from them.', ' Check the number.');
	},
	'what comes back was never shipped to that customer'
);
/** What goes back to a supplier came from another one. */
export const notFromThem = define<{ partner: string; from: readonly string[] }>(
	'not from them',
	'reason',
	(s, a, level) =>
		`${s.text} came from ${a.from.join(', ')}, not from ${a.partner}.${ask(level, 'Check the number, or say why it goes to them.', ' Check the number.')}`,
	'what is sent back came from another supplier'
);
/** A return that takes something which did not come back with it. */
export const notReturned = define<{ from: string }>(
	'not returned',
	'stop',
	(s, a) =>
		`${s.text} ${s.is} taken from ${a.from} by a return, and did not come back with it. Book what is scrapped of the stock as an adjustment.`
);
/** It came back, and nobody said yet what becomes of it. */
export const notLookedOver = define<object>(
	'not looked over',
	'stop',
	(s) => `${s.text}: say what becomes of ${s.many ? 'them' : 'it'}: into stock, on hold or scrapped.`
);
/** Part of a lot goes on hold: all of the lot does. */
export const holdsAll = define<{ onHand: string }>(
	'holds all',
	'reason',
	(s, a) =>
		`${s.text}: a lot is one thing wherever it lies, so all ${a.onHand} of it on hand go on hold too. Say why, or put what came back into stock or scrap it.`
);
/** What is said of too little at a place. */
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
/** More is taken from a place than is there. */
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
/** Others hold what is taken here: it is picked in another open sheet, or promised to another order. */
export const promised = define<{ qty: string; to: string }>(
	'promised',
	'note',
	(s, a) => `${s.text}: ${show(a.qty)} of it ${a.qty === '1' ? 'is' : 'are'} ${a.to}.`
);
/** What is taken is promised to another order; with a reason it is taken over, and that order shows it. */
export const promisedAway = define<{ of: readonly { order: string; qty: string }[]; unit: string; serial: boolean }>(
	'promise',
	'reason',
	(s, a, level) => {
		const to = a.of.map((o) => (a.serial ? o.order : `${o.order} (${amount(o.qty, a.unit)})`)).join(', ');
		const what = a.serial ? `${s.text} ${s.is} promised to ${to}.` : `${s.text}: this takes what is promised to ${to}.`;
		return what + ask(level, 'Take another, or say why it is taken over.', ' Take another if there is one.');
	},
	'what is taken is promised to another order'
);
/** What is in transit arrives before anything else is done with it. */
export const inTransit = define<{ place: string }>(
	'in transit',
	'stop',
	(s, a) => `${s.text} ${s.is} in transit, at ${a.place}. Receive the transfer first.`
);
/** More arrives than its transfer sent. */
export const moreThanSent = define<{ sent: string; order: string }>(
	'more than sent',
	'stop',
	(s, a) =>
		`${s.text}: ${a.sent} of it ${a.sent.startsWith('1 ') ? 'is' : 'are'} in transit for ${a.order}, and no more can arrive. Receive that much; send the rest with ${a.order} first, if it is here.`
);
/** What is taken from where it waits was picked for another order. */
export const stagedFor = define<{ of: string; qty: string }>(
	'staged',
	'reason',
	(s, a, level) =>
		`${s.text}: this takes ${a.qty} that ${a.qty === '1' ? 'was' : 'were'} picked for ${a.of}.${ask(level, 'Take another, or say why.', ' Take another if there is one.')}`,
	'what was picked for another order is taken from where it waits'
);
/** A bin of another site than the one where it arrives. */
export const binElsewhere = define<{ place: string; site: string }>(
	'bin elsewhere',
	'stop',
	(_s, a) => `${a.place} is not at ${a.site}, where this arrives. Choose a bin of ${a.site}, and transfer it later.`
);

/** Something that is stopped, in what leaves. */
export interface StoppedPart {
	mark: string;
	about: About;
	status: string;
}

// Quality and dates -----------------------------------------------------------------------------

/** What is taken is on hold, quarantined or rejected, itself or by its lot. */
export const stopped = define<{ status: string }>(
	'status',
	'stop',
	(s, a) => `${s.text} ${s.is} ${sayStatus(a.status)} and stay${s.s} here. Take another, or have it released.`
);
/** What leaves holds something that is on hold, quarantined or rejected, on any level. */
export const containsStopped = define<{ parts: readonly StoppedPart[] }>(
	'contains stopped',
	'reason',
	(s, a, level) => {
		const [first] = a.parts;
		const more = a.parts.length - 1;
		const part = `${subjectOf([first.about]).text}, which is ${sayStatus(first.status)}`;
		return `${s.text} contain${s.s} ${part}${more ? `, and ${more} more of the kind` : ''}.${ask(level, 'Take another, or say why it goes.', ' Take another if there is one.')}`;
	},
	'what leaves contains something that is on hold, quarantined or rejected'
);
/** What is used, issued or shipped has expired at the site’s own day. */
export const expiredGoes = define<{ on: Day }>(
	'expired goes',
	'reason',
	(s, a, level) =>
		`${s.text} expired on ${showDay(a.on)}.${ask(level, 'Take another, or say why it goes.', ' Take another if there is one.')}`,
	'what is taken has expired'
);
/** What goes to a customer has less life left than the customer, or the item, asks. */
export const littleLife = define<{ left: number; least: number }>(
	'little life',
	'reason',
	(s, a, level) =>
		`${s.text} ha${s.s ? 's' : 've'} ${a.left} ${a.left === 1 ? 'day' : 'days'} left; ${a.least} are asked at shipment.${ask(level, 'Take another, or say why it goes.', ' Take another if there is one.')}`,
	'less of its life is left at shipment than the customer or the item asks'
);
/** What goes to a customer expires before its last delivery, and the customer asks that it does not. */
export const olderThanLast = define<{ on: Day; last: Day }>(
	'older than last',
	'reason',
	(s, a, level) =>
		`${s.text} expire${s.s} on ${showDay(a.on)}, before what was delivered last (${showDay(a.last)}).${ask(level, 'Take another, or say why it goes.', ' Take another if there is one.')}`,
	'it expires before this customer’s last delivery'
);
/** What goes to a customer that wants new ones only came back from another. */
export const cameBack = define<object>(
	'came back',
	'reason',
	(s, _a, level) =>
		`${s.text} came back from a customer, and this one gets new ones only.${ask(level, 'Take another, or say why it goes.', ' Take another if there is one.')}`,
	'it came back from a customer, and goes to one that gets new ones only'
);
/** What comes in has expired already. */
export const expiredComes = define<{ on: Day }>(
	'expired',
	'reason',
	(s, a, level) => `${s.text} expired on ${showDay(a.on)}.${ask(level, 'Say why it is taken in, or send it back.')}`,
	'what arrives has expired already'
);
/** What comes in has less life left than the item asks at receipt. */
export const tooShort = define<{ on: Day; least: string }>(
	'too short',
	'reason',
	(s, a, level) =>
		`${s.text} expire${s.s} on ${showDay(a.on)}; ${sayDuration(a.least)} must be left at receipt.${ask(level, 'Say why it is taken in, or send it back.')}`,
	'less of its life is left at receipt than the item asks'
);
/** A worked-out expiry date was typed over. */
export const changedExpiry = define<{ worked: Day; ground: string; day: Day }>(
	'changed expiry',
	'reason',
	(_s, a, level) =>
		`Expiry changed from ${showDay(a.worked)} (${a.ground}) to ${showDay(a.day)}.${ask(level, 'Say why.')}`,
	'an expiry date that was worked out is changed'
);
/** The expiry date of what is made lies after that of a part of it. */
export const outlives = define<{ what: string; part: string; on: Day; days: number }>(
	'outlives',
	'note',
	(s, a, level) =>
		`${s.text || a.what} would outlive ${a.part}, which expires ${showDay(a.on)}, by ${grouped(a.days)} ${a.days === 1 ? 'day' : 'days'}.${ask(level, 'Type an earlier date, or say why.')}`,
	'what is made would outlive something that goes into it'
);
/** A date that cannot be read, or that is none. */
export const badDate = define<{ what: string; problem: string }>(
	'date',
	'stop',
	(s, a) => `${s.text}, ${a.what}: ${a.problem}`
);
/** A production date after today. */
export const madeAhead = define<{ on: Day }>(
	'made ahead',
	'stop',
	(_s, a) => `Made on ${showDay(a.on)} lies ahead. Check the date.`
);
/** An expiry date before the production date. */
export const expiresBeforeMade = define<{ on: Day }>(
	'expires before made',
	'stop',
	(_s, a) => `It expires on ${showDay(a.on)}, before it was made. Check the dates.`
);
/** An expiry date that the marking rule asks at this step is missing; the rule says how strongly. */
export const expiryMissing = define<{ step: string }>(
	'expiry missing',
	null,
	(s, a, level) =>
		`${s.text} need${s.s} an expiry date at ${a.step}. ${level === 'stop' ? 'Type it from the label.' : 'Type it, or say why there is none.'}`
);
/** Another expiry date than the one recorded for the number. */
export const otherExpiry = define<{ recorded: Day; given: Day }>(
	'other expiry',
	'stop',
	(s, a) =>
		`${s.text} ${s.is} recorded to expire ${showDay(a.recorded)}, not ${showDay(a.given)}. Take the recorded date, or another number.`
);
/** Another production date than the one recorded for the number. */
export const otherMadeOn = define<{ recorded: Day; given: Day }>(
	'other made on',
	'stop',
	(s, a) =>
		`${s.text} ${s.is} recorded as made on ${showDay(a.recorded)}, not ${showDay(a.given)}. Take the recorded date, or another number.`
);

/** Another end of the supplier's warranty than the one recorded for the number. */
export const otherWarranty = define<{ recorded: Day; given: Day }>(
	'other warranty',
	'stop',
	(s, a) =>
		`${s.text}: the supplier’s warranty is recorded until ${showDay(a.recorded)}, not ${showDay(a.given)}. Leave it out, or correct it on the number’s page.`
);

// Facts -----------------------------------------------------------------------------------------

/** What the reader of facts says of one: missing, wrong, outside its limits, replacing another. */
export const fact = define<{ problem: string }>('fact', null, (s, a) => `${s.text}: ${a.problem}`);
/** One lot gets two values of a fact in the same document. */
export const factsDisagree = define<{ name: string; lot: string; one: string; other: string }>(
	'facts disagree',
	'stop',
	(_s, a) => `${a.name} of lot ${a.lot} is ${a.one} in one row and ${a.other} here. Make them the same.`
);
/** A fact without a lot or serial that it could be kept with. */
export const factWithoutNumber = define<{ item: string }>(
	'fact without number',
	'stop',
	(_s, a) =>
		`${a.item} has no lot or serial here that a detail could be kept with. Give its number, or leave the detail out.`
);
/** A file that a fact names is not kept here. */
export const fileGone = define<{ name: string }>(
	'file gone',
	'stop',
	(_s, a) => `The file ${a.name} is not here. Add it once more.`
);

// Documents -------------------------------------------------------------------------------------

/** A number arrives that the supplier’s notice does not name. */
export const notAnnounced = define<object>(
	'not announced',
	'note',
	(s, _a, level) =>
		`${s.text} ${s.was} not announced. Check the label${{ stop: ', or put it aside', reason: ', or say why it is taken in', note: '', missing: '' }[level]}.`,
	'a number arrives that the supplier’s notice does not name'
);
/** A number is given that was not drawn when the order was released. */
export const notReleased = define<object>(
	'not released',
	'note',
	(s, _a, level) =>
		`${s.text} ${s.was} not drawn when the order was released${{ stop: '. Take one that was', reason: ': say why it is used', note: '', missing: '' }[level]}.`,
	'a number is given that was not drawn when the order was released'
);
/** More comes, is made or goes than the order’s line says. */
export const moreThanOrdered = define<{ what: string; out: string }>(
	'more than ordered',
	'reason',
	(_s, a, level) => `${a.what}: ${level === 'reason' ? `say why, or ${a.out}` : a.out}`,
	'more comes, is made or goes than was ordered'
);
/** Something of a line has not been entered: the foot bar counts it. */
export const stillOpen = define<{ what: string }>('still open', 'missing', (_s, a) => a.what);
/** Fewer serials than pieces that go, where they are given at shipment; the rule says how strongly they are asked. */
export const tooFewSerials = define<{ count: string }>(
	'too few serials',
	null,
	(_s, a) => `${show(a.count)} serials missing: they are given at shipment`
);
/** More serials than pieces that go. */
export const tooManySerials = define<{ count: string }>(
	'too many serials',
	'stop',
	(_s, a) => `${show(a.count)} more serials than pieces that go. Remove them`
);
/** Less of a part goes in than the parts list asks for what is made. */
export const partShort = define<{ name: string; amount: string }>(
	'part short',
	'reason',
	(_s, a) => `${a.amount} of ${a.name} less than the parts list asks: say why`
);
/** A part of a unit that is made exactly has no number yet. */
export const unitShort = define<{ name: string; unit: string; more: number }>(
	'unit short',
	'stop',
	(_s, a) => `${a.name} is missing in ${a.unit}${a.more ? ` and ${a.more} more` : ''}. Scan or choose what goes in`
);
/** A unit is to be finished whose parts are not recorded. */
export const unitNotStarted = define<{ unit: string }>(
	'unit not started',
	'stop',
	(_s, a) => `${a.unit} has no parts recorded. Choose “Use and output”, or record its parts first`
);
/** Parts are to be recorded for a unit that has them. */
export const unitStarted = define<{ unit: string }>(
	'unit started',
	'stop',
	(_s, a) => `the parts of ${a.unit} are recorded. Choose “Output only” to finish it`
);
/** A unit is entered in the sheet while it is put together at a station. */
export const unitAtStation = define<{ unit: string }>(
	'unit at station',
	'stop',
	(_s, a) =>
		`${a.unit} is being put together at a station. Book it in the review, or hand it to the desk there; take it out of this sheet`
);

// Repacking -------------------------------------------------------------------------------------

/** What comes out holds more than what goes in. */
export const contentLacks = define<{ lacks: string }>(
	'content lacks',
	'stop',
	(_s, a) => `${a.lacks} less go in than the packs hold. Take more in, or pack less`
);
/** A lot that goes in is not all in packs, and not written as lost. */
export const contentLeft = define<{ name: string; left: string }>(
	'content left',
	'stop',
	(_s, a) => `${a.name}: ${a.left} still to place. Put it into packs, take less in, or write it as lost`
);
/** Packs that no lot alone has enough left for. */
export const packsMix = define<{ packs: string; name: string; one: boolean }>(
	'packs mix',
	'stop',
	(_s, a) =>
		`${a.packs} of ${a.name} would hold more than one lot. Pack less, take more of one lot in, or choose that ${a.one ? 'it mixes' : 'they mix'}`
);
/** What holds more than one lot needs a number of its own. */
export const mixedNumber = define<{ name: string }>(
	'mixed number',
	'stop',
	(_s, a) => `${a.name} that holds more than one lot needs a new lot number. Type or draw it`
);
/** More is lost than the item’s tolerance allows. */
export const lossAbove = define<{ name: string; lost: string; share: string; most: string }>(
	'loss above',
	'reason',
	(_s, a) =>
		`${a.name}: ${a.lost} lost, ${a.share} %${a.most === '0' ? '' : `, where ${show(a.most)} % are usual`}: say why`
);
/** A loss that is no exact part of a pack. */
export const lossInParts = define<{ name: string; lost: string; pack: string }>(
	'loss in parts',
	'stop',
	(_s, a) => `${a.name}: ${a.lost} is no exact part of a pack of ${a.pack}. Type the loss to another decimal`
);
/** A pack would be opened for two runs, and its parts cannot be written. */
export const packOpened = define<{ name: string; part: string; pack: string }>(
	'pack opened',
	'stop',
	(_s, a) => `${a.name}: ${a.part} that mixes is no exact part of a pack of ${a.pack}. Let everything mix, or pack less`
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
