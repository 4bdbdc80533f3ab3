import { describe, expect, it } from 'vitest';
import { epcisFaults, noticeDocument } from '../../../../tests/epcis.ts';
import { readCells } from '../tables/table.ts';
import { readEpc, readEpcis, readTable } from './notice.ts';

describe('an EPC', () => {
	it.each([
		// GS1 EPC Tag Data Standard: the item reference's first digit is the GTIN's indicator (its worked example 0614141.812345.6789).
		['urn:epc:id:sgtin:0614141.812345.6789', { gtin: '80614141123458', serial: '6789' }],
		['urn:epc:id:sscc:0614141.1234567890', { sscc: '106141412345678908' }],
		['urn:epc:class:lgtin:0614141.812345.998877', { gtin: '80614141123458', lot: '998877' }],
		['urn:epc:idpat:sgtin:0614141.812345.*', { gtin: '80614141123458' }],
		['https://id.gs1.org/01/09506000134352/10/L-1/21/S-1', { gtin: '09506000134352', lot: 'L-1', serial: 'S-1' }],
		['https://id.gs1.org/00/376104250021234569', { sscc: '376104250021234569' }]
	])('%s', (epc, want) => expect(readEpc(epc)).toMatchObject(want));
	it.each(['urn:epc:id:gid:1.2.3', 'nonsense', 'https://example.com/x'])('%s is none that can be received', (epc) =>
		expect(readEpc(epc)).toBe(null)
	);
});

const gtin = '09506000134352';
describe('an EPCIS document', () => {
	it('says pallets, lots, serials, quantities and dates; what two events name counts once', () => {
		const document = noticeDocument({
			gtin,
			serials: ['S-1', 'S-2', 'S-3', 'S-5'],
			lot: 'L-1',
			expires: '2028-01-31',
			bulk: { gtin, lot: 'L-9', quantity: 12.5, uom: 'KGM' },
			pallet: '376104250021234569',
			packed: 2
		});
		// GS1 EPCIS 2.0: what is read here is a document by the standard's own JSON Schema.
		expect(epcisFaults(document)).toEqual([]);
		const { rows, faults } = readEpcis(document);
		expect(faults).toEqual([]);
		expect(rows).toMatchObject([
			{ serial: 'S-1', count: 2, lot: 'L-1', expiresOn: '2028-01-31', pallet: '376104250021234569' },
			{ serial: 'S-3', count: 1, lot: 'L-1', pallet: undefined },
			{ serial: 'S-5', count: 1 },
			{ lot: 'L-9', qty: '12.5', pallet: '376104250021234569' }
		]);
	});
	it('that is none, or names what is no item, is said', () => {
		expect(readEpcis({}).faults[0].message).toContain('no EPCIS events');
		expect(
			readEpcis({ epcisBody: { eventList: [{ epcList: ['urn:epc:id:gid:1.2.3'] }] } }).faults[0].message
		).toContain('which is no item');
	});
});

describe('a table', () => {
	it('is read by its headings', () => {
		const { rows, faults } = readTable(
			readCells(
				'GTIN,SSCC,Batch,Serial no,Qty,Expiry\n9506000134352,376104250021234569,L-1,S-1,,2028-01-31\n9506000134352,376104250021234569,L-1,S-2,,31 Jan 2028\nSALT,,B-1,,25,\n'
			)
		);
		expect(faults).toEqual([]);
		expect(rows).toMatchObject([
			{
				item: '09506000134352',
				pallet: '376104250021234569',
				lot: 'L-1',
				serial: 'S-1',
				count: 2,
				expiresOn: '2028-01-31'
			},
			{ item: 'SALT', lot: 'B-1', qty: '25' }
		]);
	});
	it('names each faulty row', () => {
		expect(readTable(readCells('a,b\n1,2\n')).faults[0].message).toContain('no heading “item”');
		expect(readTable(readCells('item,sscc,expiry\n,1,2028-02-30\n')).faults.map((f) => f.at)).toEqual([
			'row 2',
			'row 2',
			'row 2'
		]);
	});
});
