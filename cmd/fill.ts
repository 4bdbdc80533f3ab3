import { fillFirm } from './firm.ts';

/*
 * Fills an empty database in a process of its own, which goes with all that it needs for that: the application does not hold
 * it as long as it runs. What is to be said goes to whoever started it.
 */
process.send?.(await fillFirm(process.env.DATABASE_URL!));
process.disconnect?.();
