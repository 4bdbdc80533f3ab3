import type { Db } from '../database/connect.ts';

/** What does not hold in one table by one rule: the first place, and how many there are. */
export interface LedgerFinding {
	rule: string;
	table: string;
	what: string;
	count: number;
}
/** Rows that a check found, with how many there are in all. */
export type Rows = Promise<readonly { what: string; count?: string }[]>;

/** Gathers what is found: of each rule and table the first, and how many. */
export class Findings {
	private readonly found = new Map<string, LedgerFinding>();
	add(rule: string, table: string, what: string, count = 1): void {
		const there = this.found.get(`${rule} ${table}`);
		if (there) there.count += count;
		else this.found.set(`${rule} ${table}`, { rule, table, what, count });
	}
	async rows(rule: string, table: string, rows: Rows): Promise<void> {
		const [first] = await rows;
		if (first) this.add(rule, table, first.what, Number(first.count ?? 1));
	}
	/** Takes what others found after its own. */
	take(others: Findings): void {
		for (const f of others.list()) this.add(f.rule, f.table, f.what, f.count);
	}
	list = (): LedgerFinding[] => [...this.found.values()];
}

/** One thing that is looked at, on the connection that it is given. */
export type Check = (sql: Db, found: Findings) => Promise<void>;
/** Told of each step, and how far it is where it is long. */
export type Progress = (step: string, done?: number, of?: number) => void;

/** The first of some rows, and how many there are. */
export const first = (sql: Db, rows: ReturnType<Db>): Rows =>
	sql<{ what: string; count: string }[]>`SELECT r.what, count(*) OVER () AS count FROM (${rows}) r LIMIT 1`;
