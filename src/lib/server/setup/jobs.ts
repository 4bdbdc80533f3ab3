import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { faultFrom } from '../../core/checks/check.ts';
import { noSuch } from '../../core/checks/catalogue.ts';
import { Problem } from '../../core/problem/problem.ts';
import { isSeen, line, UNSEEN } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';

/** What a job is: work for a customer, a department of the firm, or own use. */
export const JOB_KINDS = ['project', 'department', 'own use'] as const;
/** What a job is. */
export type JobKind = (typeof JOB_KINDS)[number];
/** A job, as parsed. */
export const jobInput = z.strictObject({
	code: line(60, 1, 'Type a code.')
		.refine((t) => /^[^\s/?#%]+$/u.test(t), 'A job’s code has no blanks and none of / ? # %.')
		.refine(isSeen, UNSEEN),
	name: line(200, 1, 'Type what it is.'),
	kind: z.enum(JOB_KINDS, 'Choose project, department or own use.'),
	/** code of the customer that a project is for */
	partner: line(60, 0).nullish()
});
/** A job as the list shows it. */
export interface JobRow {
	code: string;
	name: string;
	kind: JobKind;
	partner: string | null;
	partnerName: string | null;
	closedOn: string | null;
	/** events that issued something to it */
	issues: number;
}
/** Jobs, open ones first. */
export const listJobs = (sql: Db) => sql<JobRow[]>`
	SELECT j.code, j.name, j.kind, p.code AS partner, p.name AS "partnerName", j.closed_on AS "closedOn",
		(SELECT count(*)::int FROM event e WHERE e.job_id = j.id AND e.kind <> 'undo' AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id)) AS issues
	FROM job j LEFT JOIN partner p ON p.id = j.partner_id ORDER BY j.closed_on NULLS FIRST, j.code COLLATE natural_order`;

/** Makes a job. @throws Problem when its code is taken, or a project names no customer that is known */
export async function addJob(sql: Sql, by: string, input: unknown): Promise<void> {
	const job = parse(jobInput, input);
	if (job.kind === 'project' && !job.partner)
		throw new Problem([{ message: 'A project is for a customer: choose the customer.', at: 'partner' }]);
	await transaction(sql, async (tx) => {
		const [partner] = job.partner ? await tx<{ id: string }[]>`SELECT id FROM partner WHERE code = ${job.partner}` : [];
		if (job.partner && !partner)
			throw new Problem([faultFrom(noSuch, { what: 'partner', code: job.partner }, 'partner')]);
		const made = await tx`INSERT INTO job (code, name, kind, partner_id, created_by)
			VALUES (${job.code}, ${job.name}, ${job.kind}, ${partner?.id ?? null}, ${by}) ON CONFLICT DO NOTHING`;
		if (!made.count)
			throw new Problem([{ message: `There is a job ${job.code} already. Take another code.`, at: 'code' }]);
		const { code, ...settings } = job;
		await keepHistory(tx, by, 'job', code, null, { ...settings, partner: job.partner || null, closed: false });
	});
}

/** A job by its code; null where there is none. */
export const readJob = async (sql: Db, code: string) =>
	(
		await sql<{ name: string; kind: JobKind; partner: string | null; closed: boolean }[]>`
			SELECT j.name, j.kind, p.code AS partner, j.closed_on IS NOT NULL AS closed FROM job j LEFT JOIN partner p ON p.id = j.partner_id WHERE j.code = ${code}`
	)[0] ?? null;
/** Makes a job; one that is there stays what it is. @throws Problem 409 when another one has its code, and as addJob does */
export async function saveJob(sql: Sql, by: string, input: unknown, fresh: boolean): Promise<void> {
	if (fresh) return addJob(sql, by, input);
	const job = parse(jobInput, input);
	const was = await readJob(sql, job.code);
	if (was && (was.name !== job.name || was.kind !== job.kind || (was.partner ?? '') !== (job.partner ?? '')))
		throw new Problem(`There is a job ${job.code} already, as “${was.name}”. Take another code.`, 409);
}

/** Closes a job: nothing is issued to it any more; or opens it again. */
export async function setJobClosed(sql: Sql, by: string, code: string, closed: boolean): Promise<void> {
	await transaction(sql, async (tx) => {
		const done =
			await tx`UPDATE job SET closed_on = CASE WHEN ${closed} THEN shown_day(now())::date END WHERE code = ${code} AND (closed_on IS NOT NULL) <> ${closed}`;
		const [there] = await tx`SELECT 1 FROM job WHERE code = ${code}`;
		if (!there) throw new Problem([faultFrom(noSuch, { what: 'job', code: code.slice(0, 60) }, 'code')], 404);
		if (done.count) await keepHistory(tx, by, 'job', code, { closed: !closed }, { closed });
	});
}
