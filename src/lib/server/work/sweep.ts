import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';

let gc: (() => void) | null = null;

/**
 * Gives back what a large piece of work has thrown away, before the next piece makes more of it: left to itself the memory
 * grows by each of them. Takes a tenth of a second where there is much, so it is for threads alone, and for work that is large.
 */
export function sweep(): void {
	if (!gc) {
		setFlagsFromString('--expose-gc');
		gc = runInNewContext('gc') as () => void;
	}
	gc();
}
