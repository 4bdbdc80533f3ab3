import { expiredGoes, littleLife, olderThanLast, stopped } from '../../core/checks/catalogue.ts';
import type { SheetFinding } from './lines.ts';

const codes = (...checks: { code: string }[]): ReadonlySet<string> => new Set(checks.map((c) => c.code));
/** What is asked of goods as they are picked to wait, though only what is shipped has to answer it: who picks can take others. */
const AHEAD = codes(stopped, expiredGoes, littleLife, olderThanLast);
/** Of that, what is not asked again as it goes. What has expired since is. */
const ANSWERED = codes(littleLife, olderThanLast);

/** Of what was found about the next step of some goods, what is said now. */
export const saidAhead = (found: readonly SheetFinding[]): SheetFinding[] =>
	found.filter((s) => AHEAD.has(s.found.code));

/**
 * What asks a reason that was given before is only noted.
 * @param answers the reasons, by the mark
 * @returns what is said, and the reasons that answered some of it
 */
export function answeredBefore(
	said: readonly SheetFinding[],
	answers: ReadonlyMap<string, string> | undefined
): { said: SheetFinding[]; reasons: string[] } {
	const reasons = new Set<string>();
	const noted = said.map((s) => {
		const answer = s.found.level === 'reason' && ANSWERED.has(s.found.code) && answers?.get(s.found.mark ?? '');
		if (!answer) return s;
		reasons.add(answer);
		return { ...s, found: { ...s.found, level: 'note' as const } };
	});
	return { said: noted, reasons: [...reasons] };
}
