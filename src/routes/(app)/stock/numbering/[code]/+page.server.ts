import { pool } from '$lib/server/database/pool';
import { documentPage } from '$lib/server/sheet/page';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) => documentPage(pool(), event, event.params.code, 'numbering');
