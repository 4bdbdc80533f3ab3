import { showDay } from '../dates/dates.ts';
import { showFact, type Fact, type Facts } from '../facts/fact.ts';
import { FIELD_LABELS, type Field } from './corrections.ts';
import { sayStatus } from './status.ts';

/** A value as a history says it: a day as people read it. */
const shown = (field: Field, value: string | null) =>
	value === null ? (field === 'owner' ? 'nobody else' : 'none') : /_on$|_until$/.test(field) ? showDay(value) : value;

/**
 * A change of what is recorded, in words: "expires: none → 3 Mar 2027"; of facts only those that changed.
 * @param old and `now` as the ledger has them: days as 2027-03-03, facts as JSON, a lot by its number; null for nothing
 * @param defined the firm's facts, to say their names and values
 */
export function sayChange(field: Field, old: string | null, now: string | null, defined: readonly Fact[]): string {
	if (field === 'status') return `status: ${sayStatus(old ?? '')} → ${sayStatus(now ?? '')}`;
	if (field !== 'facts') return `${FIELD_LABELS[field]}: ${shown(field, old)} → ${shown(field, now)}`;
	const [a, b] = [old, now].map((t) => JSON.parse(t ?? '{}') as Facts);
	return [...new Set([...Object.keys(a), ...Object.keys(b)])]
		.filter((code) => a[code] !== b[code])
		.map((code) => {
			const fact = defined.find((f) => f.code === code) ?? { name: code, kind: 'text' as const, unit: null };
			return `${fact.name}: ${a[code] ? showFact(fact, a[code]) : 'none'} → ${b[code] ? showFact(fact, b[code]) : 'none'}`;
		})
		.join(', ');
}
