import type { ItemInput } from '../src/lib/server/setup/items.ts';
import type { Role } from '../src/lib/core/people/can.ts';
import { gs1CheckDigit } from '../src/lib/core/codes/check.ts';
import { nothing, STEPS, type Rule, type Step } from '../src/lib/core/marking/rule.ts';
import type { FactInput } from '../src/lib/server/setup/facts.ts';
import type { KindInput } from '../src/lib/server/setup/kinds.ts';
import type { Block } from '../src/lib/core/numbering/pattern.ts';

/** Pellwater Instruments: invented, like everyone in it. */
export const PASSWORD = 'pellwater-2026';
export const people: { login: string; name: string; role: Role }[] = [
	{ login: 'ines', name: 'Ines Falk', role: 'coordinator' },
	{ login: 'tobi', name: 'Tobi Marsh', role: 'receiving and shipping' },
	{ login: 'rhea', name: 'Rhea Sandoval', role: 'assembly' },
	{ login: 'oskar', name: 'Oskar Lind', role: 'quality' },
	{ login: 'mina', name: 'Mina Abara', role: 'service' },
	{ login: 'auditor', name: 'An auditor', role: 'auditor' },
	{ login: 'admin', name: 'The administrator', role: 'administrator' }
];

export const places: [string, string][] = [
	['QS', 'Quay Street works'],
	['QS/DOCK', 'Dock'],
	['QS/QC', 'Inspection'],
	...[1, 2, 3, 4, 5, 6].map((n): [string, string] => [`QS/A${n}`, `Shelf A${n}`]),
	['QS/COLD', 'Cold store'],
	...[1, 2, 3].map((n): [string, string] => [`QS/TANK${n}`, `Tank ${n}`]),
	...[1, 2].map((n): [string, string] => [`QS/LINE${n}`, `Line ${n}`]),
	['ND', 'Northgate depot'],
	['ND/DOCK', 'Dock'],
	['ND/OUT', 'Ready to go'],
	...[1, 2, 3, 4, 5, 6, 7, 8].map((n): [string, string] => [`ND/B${n}`, `Bay B${n}`])
];

export const partners: [string, string, 'supplier' | 'customer'][] = [
	['QUILLMERE', 'Quillmere Reagents', 'supplier'],
	['OSTREL', 'Ostrel Glassworks', 'supplier'],
	['VARNHOLT', 'Varnholt Electronics', 'supplier'],
	['DUNMARROW', 'Dunmarrow Packaging', 'supplier'],
	['THORNMERE', 'Thornmere Utilities', 'customer'],
	['SKEN', 'Sken Island Fisheries', 'customer'],
	['BRANDLEMOUTH', 'Brandlemouth Harbour Office', 'customer'],
	['LINDOW', 'Upper Lindow Schools Pool', 'customer'],
	['CARRAWAY', 'Carraway Pools', 'customer']
];

export const jobs = [
	{ code: 'HARBOUR', name: 'Water survey of the harbour', kind: 'project', partner: 'BRANDLEMOUTH' },
	{ code: 'LAB', name: 'Our own laboratory', kind: 'department' },
	{ code: 'FAIR', name: 'Trade fair', kind: 'own use' }
];

const running = (head: string): Block[] => [
	{ kind: 'text', text: head },
	{ kind: 'sequence', digits: 4, reset: 'never' }
];
const weekly = (head: string): Block[] => [
	...([
		{ kind: 'text', text: head },
		{ kind: 'year', digits: 2 },
		{ kind: 'text', text: 'W' },
		{ kind: 'week' }
	] as const),
	...([
		{ kind: 'text', text: '-' },
		{ kind: 'sequence', digits: 1, reset: 'week' }
	] as const)
];
/** How the firm makes up its numbers. */
export const patterns: { code: string; name: string; blocks: Block[] }[] = [
	{ code: 'PE', name: 'Probes, running', blocks: running('PE-') },
	{ code: 'WM', name: 'Meters, running', blocks: running('WM-') },
	{ code: 'FK', name: 'Field kits, running', blocks: running('FK-') },
	{ code: 'CB-WEEK', name: 'Chlorine reagent bulk, by week', blocks: weekly('CB-') },
	{ code: 'CR-WEEK', name: 'Chlorine reagent bottled, by week', blocks: weekly('CR-') }
];
/** GTINs under the prefix that GS1 keeps for examples (950 6000). */
const gtin = (n: number) => {
	const digits = `09506000${String(10_000 + n)}`;
	return digits + gs1CheckDigit(digits);
};

/** What the firm wants to know of what it buys, besides numbers and dates. */
export const facts: FactInput[] = [
	{ code: 'CERT', name: 'Certificate no.', kind: 'text' },
	{ code: 'COA', name: 'Certificate of analysis', kind: 'file' },
	{ code: 'TEMP', name: 'Temperature on arrival', kind: 'number', unit: '°C', decimals: 1, low: '2', high: '25' },
	{ code: 'PACK', name: 'Packaging', kind: 'choice', choices: ['sound', 'dented', 'wet', 'open'] },
	{ code: 'CALIBRATED', name: 'Calibrated on', kind: 'date', per: 'piece' }
];
const rule = (step: Step): Rule => ({ ...nothing(step), lot: 'required' });
/** Items that share a rule: chemicals by lot, with expiry and certificate when they arrive. */
export const kinds: KindInput[] = [
	{
		code: 'CHEMICAL',
		name: 'Chemicals',
		rules: STEPS.map((step) =>
			step === 'receipt'
				? { ...rule(step), expiry: 'required', facts: { CERT: 'required', TEMP: 'required', COA: 'asked' } }
				: rule(step)
		)
	}
];

const lot = { tracking: 'lot' as const };
const dated = { ...lot, expiry: 'required' as const };
const chemical = { ...lot, kind: 'CHEMICAL' };
const made = { ...lot, expiry: 'asked' as const, shelfLife: 'P12M' };
const unit = { unit: 'each', tracking: 'serial' as const, runMode: 'unit' as const };
/** In the order in which they can be made: parts first. */
const catalogue: ItemInput[] = [
	{ code: 'DPD', name: 'DPD powder', unit: 'g', decimals: 1, ...chemical },
	{
		code: 'BUFFER-SALT',
		name: 'Buffer salt',
		unit: 'kg',
		decimals: 3,
		...chemical,
		contentQty: '1',
		contentUnit: 'kg'
	},
	{ code: 'KI', name: 'Potassium iodide', unit: 'kg', decimals: 3, ...chemical },
	{ code: 'BOTTLE-30', name: 'Amber bottle 30 mL', unit: 'each', ...lot },
	{ code: 'BOTTLE-50', name: 'Bottle 50 mL', unit: 'each', ...lot },
	{ code: 'CAP', name: 'Caps', unit: 'each', tracking: 'none' },
	{ code: 'MEMBRANE', name: 'Glass membrane', unit: 'each', ...lot },
	{ code: 'GEL', name: 'Reference gel', unit: 'g', decimals: 1, earlyNotice: 60, ...chemical },
	{ code: 'BOARD', name: 'Sensor board VB', unit: 'each', tracking: 'lot and serial', supplierNumber: 'printed' },
	{ code: 'CELL', name: 'Battery cell BC', unit: 'each', ...lot },
	{ code: 'CASE', name: 'Case shell', unit: 'each', ...lot },
	{
		code: 'CR-BULK',
		name: 'Chlorine reagent bulk',
		unit: 'L',
		decimals: 3,
		...made,
		contentQty: '1',
		contentUnit: 'L',
		lotPattern: 'CB-WEEK',
		parts: [
			{ item: 'DPD', qty: '20' },
			{ item: 'KI', qty: '0.15' }
		]
	},
	{
		code: 'PH7-BULK',
		name: 'pH 7 buffer bulk',
		unit: 'L',
		decimals: 3,
		...made,
		parts: [{ item: 'BUFFER-SALT', qty: '0.5' }]
	},
	{
		code: 'PE',
		name: 'Probe PE',
		...unit,
		serialPattern: 'PE',
		parts: [
			{ item: 'MEMBRANE', qty: '1' },
			{ item: 'GEL', qty: '2.5' }
		]
	},
	{
		code: 'CR-30',
		name: 'Chlorine reagent 30 mL',
		unit: 'each',
		...made,
		contentQty: '0.03',
		contentUnit: 'L',
		lotPattern: 'CR-WEEK',
		parts: [
			{ item: 'CR-BULK', qty: '0.03' },
			{ item: 'BOTTLE-30', qty: '1' },
			{ item: 'CAP', qty: '1' }
		]
	},
	{
		code: 'PH7-50',
		name: 'pH 7 buffer 50 mL',
		unit: 'each',
		...made,
		endOfMonth: true,
		parts: [
			{ item: 'PH7-BULK', qty: '0.05' },
			{ item: 'BOTTLE-50', qty: '1' },
			{ item: 'CAP', qty: '1' }
		]
	},
	{
		code: 'WM',
		name: 'Meter WM',
		...unit,
		warranty: 'P24M',
		serialPattern: 'WM',
		parts: [
			{ item: 'PE', qty: '1' },
			{ item: 'BOARD', qty: '1' },
			{ item: 'CELL', qty: '2' }
		]
	},
	{
		code: 'FK',
		name: 'Field kit FK',
		...unit,
		warranty: 'P24M',
		serialPattern: 'FK',
		parts: [
			{ item: 'WM', qty: '1' },
			{ item: 'CR-30', qty: '6' },
			{ item: 'PH7-50', qty: '2' },
			{ item: 'CASE', qty: '1' }
		]
	},
	{ code: 'SALT-1', name: 'Buffer salt jar 1 kg', unit: 'each', ...dated, contentQty: '1', contentUnit: 'kg' },
	{ code: 'SALT-2', name: 'Buffer salt jar 2 kg', unit: 'each', ...dated, contentQty: '2', contentUnit: 'kg' },
	{
		code: 'CR-CARTON',
		name: 'Chlorine reagent, carton of 12',
		unit: 'each',
		...made,
		contentQty: '0.36',
		contentUnit: 'L'
	}
];
/** Kilograms and centimetres of one piece: net, gross, length, width, height. */
const sizes: Record<string, [string, string, string, string, string]> = {
	WM: ['0.31', '0.42', '22', '12', '8'],
	FK: ['1.9', '2.4', '40', '30', '18'],
	'CR-30': ['0.034', '0.048', '4', '4', '8'],
	'PH7-50': ['0.052', '0.07', '4.5', '4.5', '9'],
	'CR-CARTON': ['0.41', '0.62', '17', '13', '9'],
	'SALT-1': ['1', '1.15', '11', '11', '14'],
	'SALT-2': ['2', '2.22', '14', '14', '17'],
	PE: ['0.06', '0.09', '18', '4', '4'],
	BOARD: ['0.03', '0.05', '12', '9', '3']
};
const measuresOf = (code: string) => {
	if (!Object.hasOwn(sizes, code)) return undefined;
	const [net, gross, length, width, height] = sizes[code];
	return { net, gross, length, width, height };
};
export const items: ItemInput[] = catalogue.map((item, n) => ({
	...item,
	gtin: gtin(n + 1),
	measures: measuresOf(item.code)
}));
/** How goods go out; what is asked for it is invented. */
export const ways = [
	{ code: 'ROAD', name: 'Road, two days', divisor: '', rate: '1.2', minimum: '9.5', currency: 'GBP' },
	{ code: 'AIR', name: 'Air', divisor: '6000', rate: '4.8', minimum: '38', currency: 'GBP' },
	{ code: 'VAN', name: 'Our own van', divisor: '', rate: '', minimum: '', currency: 'GBP' }
];
/** What people check by eye, drawn for the demo. */
export const pictures: Record<string, string> = {
	WM: 'meter.png',
	PE: 'probe.png',
	BOARD: 'board.png',
	CELL: 'cell.png'
};
