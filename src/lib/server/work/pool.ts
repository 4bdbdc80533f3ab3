import { join } from 'node:path';
import Piscina from 'piscina';
import { Problem } from '../../core/problem/problem.ts';
import { decimalSign } from '../../core/quantity/sign.ts';
import type { Answer, Tasks } from './tasks.ts';

/*
 * What can take more than a moment of the processor runs here, in threads of its own, so that everybody else is answered
 * meanwhile. A task that takes too long or too much memory is stopped, and only it.
 */

/** In milliseconds. */
const LONGEST = 60_000;
/** In megabytes, for one task. */
const MOST_MEMORY = 1024;

let threads: Piscina | undefined;
const pool = () =>
	(threads ??= new Piscina({
		filename: join(process.cwd(), 'src/lib/server/work/tasks.ts'),
		execArgv: ['--import', 'tsx'],
		// Both from the start: one that begins when it is needed is not there for seconds, and a task waits for it.
		minThreads: 2,
		maxThreads: 2,
		resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY }
	}));

/**
 * Runs a task in a thread of its own.
 * @param longest how long it may take, in milliseconds
 * @throws Problem that the task throws, or 413 when it takes too long or too much memory
 */
export async function inThread<K extends keyof Tasks>(
	name: K,
	input: Parameters<Tasks[K]>[0],
	longest = LONGEST
): Promise<Awaited<ReturnType<Tasks[K]>>> {
	let answer: Answer<Awaited<ReturnType<Tasks[K]>>>;
	try {
		answer = await pool().run({ name, input, sign: decimalSign() }, { signal: AbortSignal.timeout(longest) });
	} catch (e) {
		const { name: kind, code } = e as { name?: string; code?: string };
		if (kind === 'AbortError' || kind === 'TimeoutError')
			throw new Problem('That took too long and was stopped. Ask for less at a time.', 413);
		if (code === 'ERR_WORKER_OUT_OF_MEMORY')
			throw new Problem('That is too large to be worked on. Ask for less at a time, or split the file.', 413);
		throw e;
	}
	if ('refused' in answer) throw new Problem(answer.refused.faults, answer.refused.status);
	return answer.result;
}

/** Starts the threads, so that whoever needs one first does not wait for it. */
export const startThreads = (): void => void pool();

/** Ends the threads, when the application ends. */
export const endThreads = async (): Promise<void> => {
	await threads?.destroy();
	threads = undefined;
};
