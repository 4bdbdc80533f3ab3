import { can } from '$lib/core/people/can';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = ({ locals }) => {
	const role = locals.person?.role;
	const items = can(role, 'write items');
	const places = can(role, 'write places and partners');
	return {
		tabs: [
			...(items
				? [
						{ url: '/setup/items', name: 'Items' },
						{ url: '/setup/kinds', name: 'Kinds' },
						{ url: '/setup/facts', name: 'Extra fields' },
						{ url: '/setup/checks', name: 'Checks' },
						{ url: '/setup/patterns', name: 'Number patterns' },
						{ url: '/setup/drawn', name: 'Drawn numbers' }
					]
				: []),
			...(places
				? [
						{ url: '/setup/places', name: 'Places' },
						{ url: '/setup/partners', name: 'Partners' },
						{ url: '/setup/jobs', name: 'Jobs' },
						{ url: '/setup/stations', name: 'Stations' },
						{ url: '/setup/ways', name: 'Ways of delivery' },
						{ url: '/setup/reasons', name: 'Reasons' },
						{ url: '/setup/terms', name: 'Terms of sale' }
					]
				: []),
			...(can(role, 'write orders') ? [{ url: '/setup/orders', name: 'Orders from CSV' }] : []),
			...(can(role, 'manage people') ? [{ url: '/setup/people', name: 'People' }] : []),
			...(can(role, 'manage tokens') ? [{ url: '/setup/tokens', name: 'Access' }] : []),
			...(can(role, 'see the ledger') ? [{ url: '/setup/ledger', name: 'Ledger' }] : [])
		]
	};
};
