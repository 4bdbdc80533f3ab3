import { pool } from '$lib/server/database/pool';
import { documentListPage } from '$lib/server/document/pages';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) => documentListPage(pool(), event, 'numbering');
