import { described } from '$lib/server/api/readable';
import { page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

/** Every call of the interface for programs, for people. */
export const load: PageServerLoad = (event) => page(event, 'read', async () => ({ calls: described() }));
