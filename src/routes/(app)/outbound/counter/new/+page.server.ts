import { pool } from '$lib/server/database/pool';
import { createFromForm, newDocumentPage } from '$lib/server/document/pages';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) => newDocumentPage(pool(), event, 'counter');
export const actions: Actions = { default: (event) => createFromForm(pool(), event, 'counter') };
