import type { Db } from '../database/connect.ts';
import type { Built, BuildInput } from '../sheet/build.ts';
import { buildTaken } from '../sheet/taken.ts';

const WORDS = { are: 'are issued', asked: 'are asked for', less: 'issue less', can: 'can be issued' };
/** An issue to a job: suggested or chosen stock for each line, which leaves the shelves for that job. */
export const buildIssue = (sql: Db, given: BuildInput): Promise<Built> =>
	buildTaken(sql, given, { kind: 'issue', to: '@job', purpose: 'use', words: WORDS });
