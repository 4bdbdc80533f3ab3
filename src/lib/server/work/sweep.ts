import { getHeapStatistics, setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';

/** From so much on it is worth the while, in bytes: below, a thread holds little more than its code. */
const MUCH = 40e6;
let gc: (() => void) | null = null;

/**
 * Gives back what a large piece of work has thrown away, before the next piece makes more of it: left to itself the memory
 * grows by each of them. Takes a tenth of a second where there is much, so it is for threads alone, and for work that is large.
 */
export function sweep(): void {
	if (getHeapStatistics().used_heap_size < MUCH) return;
	if (!gc) {
		setFlagsFromString('--expose-gc');
		gc = runInNewContext('gc') as () => void;
	}
	gc();
}
