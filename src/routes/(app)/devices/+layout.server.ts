import { can } from '$lib/core/people/can';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = ({ locals }) => ({
	tabs: [
		{ url: '/devices', name: 'Label printer' },
		{ url: '/devices/tags', name: 'Tag readers' },
		...(can(locals.person?.role, 'see the ledger')
			? [
					{ url: '/devices/mail', name: 'Mailbox' },
					{ url: '/devices/mail/sent', name: 'Mail sent' }
				]
			: [])
	]
});
