import type { Line, Run } from '../ledger/line.ts';
import { virtualPlace } from '../ledger/places.ts';
import type { Step } from '../ledger/steps.ts';
import * as say from './catalogue.ts';
import { aboutOf, found, type Finding } from './check.ts';

/*
 * Whose something is: ours, or a partner's. It lies at a real place and is counted like everything; it leaves only to its
 * owner, unless somebody says why, and under one number there is one owner's.
 */

/** The event as far as owners care. */
interface Checking {
	kind: string;
	lines: readonly Line[];
	world: {
		policy: say.Policy;
		/** names of the partners that own something of it, by their codes */
		owners: ReadonlyMap<string, string>;
		/** with whom the event is, by code */
		partnerCode: string | null;
	};
}

/** Code of the partner that something belongs to: what it says itself, else its lot; null where it is ours. */
const ownerOf = (l: Pick<Line, 'mark' | 'lot'>): string | null => l.mark.owner ?? l.lot?.owner ?? null;
const nameOf = (code: string | null, { world }: Checking) => code && (world.owners.get(code) ?? code);

/** Whose it is that goes into each run of an event; null for ours. */
function ownersOfRuns(lines: readonly Line[]): Map<Run, Set<string | null>> {
	const owners = new Map<Run, Set<string | null>>();
	for (const l of lines)
		if (l.run && l.given.role === 'use') owners.set(l.run, (owners.get(l.run) ?? new Set()).add(ownerOf(l)));
	return owners;
}
/** What is repacked stays whose it was: packs are given to the owner of what goes into them, before they are checked. */
export function keepOwners(kind: string, lines: readonly Line[]): void {
	if (kind !== 'repack') return;
	const owners = ownersOfRuns(lines);
	for (const l of lines) {
		const [owner] = (l.run && l.given.role === 'make' && owners.get(l.run)) || [];
		if (owner && l.mark.kind !== 'unmarked') l.given.owner ??= owner;
	}
}

const NOTHING: readonly Finding[] = [];
/** What is to be said of whose a movement's goods are. */
export function findOwner(l: Line, step: Step | null, checking: Checking): readonly Finding[] {
	const owner = ownerOf(l);
	const given = l.given.owner ?? null;
	if (!owner && !given) return NOTHING;
	const out: Finding[] = [];
	const where = { line: l.index, about: aboutOf(l) };
	// A new serial of a known lot is the lot's owner's.
	const known = l.mark.fresh && l.lot && !l.lot.fresh ? l.lot : l.mark;
	const brings = step === 'receipt' || (step === 'repack' && l.given.role === 'make') || !!given;
	if (brings && !known.fresh && known.kind !== 'unmarked' && given !== owner) {
		const args = { recorded: nameOf(owner, checking), given: nameOf(given, checking) };
		out.push(found(say.otherOwner, args, { ...where, mark: known.id }));
	}
	if (given && l.mark.kind === 'unmarked') {
		const { tracking } = l.item;
		const carries = tracking !== 'none';
		out.push(
			found(say.ownerWithoutNumber, { item: l.item.code, carries }, { ...where, ...(carries ? { open: true } : {}) })
		);
	}
	const end = l.from.virtual || checking.kind === 'repack' || l.to.code === '@adjust' ? null : virtualPlace(l.to.code);
	const goesHome = end?.apart === 'partner' && owner === checking.world.partnerCode;
	if (owner && end && !goesHome) {
		const level = checking.world.policy[say.notOurs.code] ?? 'stop';
		out.push(found(say.notOurs, { owner: nameOf(owner, checking)! }, { ...where, level, mark: l.mark.id }));
	}
	return out;
}

/** Runs of a repacking into which things of different owners go. */
export const findOwnersMix = (checking: Checking): Finding[] =>
	[...ownersOfRuns(checking.lines)].flatMap(([run, owners]) => {
		if (owners.size < 2) return [];
		const names = [...owners].map((o) => nameOf(o, checking) ?? 'us').sort();
		return [found(say.ownersMix, { run: run.code, owners: names.join(' and to ') }, { line: -1, about: null })];
	});
