import { PREFERENCES } from '$lib/core/allocation/allocate';

/** What is taken first, in words, for a list to choose from. */
export const PREFERENCE_CHOICES = PREFERENCES.map((p) => [p, p === 'by number' ? 'by number' : `what ${p}`] as const);
