import fc from 'fast-check';
import { PNG } from 'pngjs';
import { readFileSync } from 'node:fs';
import { prepareZXingModule, readBarcodes } from 'zxing-wasm/reader';
import { beforeAll, describe, expect, it } from 'vitest';
import { items } from '../../../../demo/firm.ts';
import { codesIn } from '../../core/codes/camera.ts';
import { gs1Valid } from '../../core/codes/check.ts';
import { readScan } from '../../core/codes/scan.ts';
import {
	dotsPerModule,
	labelOf,
	resolutions,
	SIZES,
	symbols,
	type LabelSize,
	type Subject
} from '../../core/labels/label.ts';
import { drawCode, fitCode, labelsPdf } from './draw.ts';

// An independent decoder (ZXing) reads every kind of label, at the printer's own dots: ISO/IEC 16022 (Data Matrix),
// 18004 (QR Code), 15417 (Code 128), with GS1 element strings and Digital Links in them.
beforeAll(
	() =>
		void prepareZXingModule({
			overrides: { wasmBinary: readFileSync('node_modules/zxing-wasm/dist/reader/zxing_reader.wasm') as never }
		})
);

const gtin = items[8].gtin!;
const base: Subject = {
	subject: 'mark 1',
	kind: 'lot',
	number: 'C-26W48',
	lot: null,
	name: 'Battery cell BC',
	item: 'CELL',
	gtin,
	expiresOn: null,
	qty: '60'
};
const cases: Subject[] = [
	base,
	{ ...base, number: 'QR-26-0417', expiresOn: '2027-12-31' },
	{ ...base, kind: 'serial', number: 'VB-7731', lot: '26W46-A' },
	{ ...base, kind: 'serial', number: 'WM-0207', gtin: null },
	{ ...base, kind: 'serial', number: 'ABCDEFGHIJ0123456789', lot: 'LOT/OF(20)CHARS-1234', expiresOn: '2049-12-31' },
	{ ...base, kind: 'place', subject: 'place QS/A1', number: 'QS/A1', item: null, gtin: null, qty: null },
	// The SSCC of GS1 General Specifications, 7.9.
	{
		...base,
		kind: 'pallet',
		subject: 'pallet 376104250021234569',
		number: '376104250021234569',
		item: null,
		gtin: null,
		qty: null
	}
];
const read = async (s: Subject, symbol: (typeof symbols)[number], dpi: (typeof resolutions)[number]) => {
	const label = labelOf(s, symbol);
	const drawn = await drawCode(label, dpi);
	const look = (png: Buffer) => readBarcodes(new Uint8Array(png), { textMode: 'Plain', tryHarder: true });
	let found = await look(drawn);
	// A code that a reader does not find at one distance is held nearer (common practice): of thousands one is not found at first.
	if (!codesIn(found).length) found = await look(nearer(drawn));
	return {
		label,
		text: codesIn(found),
		format: found.map((f) => f.format)
	};
};

/** A picture as it is seen from a little nearer. */
function nearer(png: Buffer): Buffer {
	const { data, width, height } = PNG.sync.read(png);
	const by = 1.3;
	const out = new PNG({ width: Math.round(width * by), height: Math.round(height * by) });
	for (let y = 0; y < out.height; y++)
		for (let x = 0; x < out.width; x++) {
			const from = (Math.min(height - 1, Math.floor(y / by)) * width + Math.min(width - 1, Math.floor(x / by))) * 4;
			data.copy(out.data, (y * out.width + x) * 4, from, from + 4);
		}
	return PNG.sync.write(out);
}

describe('every label is read back to the same text', () => {
	for (const symbol of symbols)
		for (const dpi of resolutions)
			it.each(cases.map((s) => [s.number, s] as const))(`${symbol} at ${dpi} dpi: %s`, async (_n, s) => {
				const { label, text } = await read(s, symbol, dpi);
				expect(text).toEqual([label.reads]);
			});
	it('random lots and serials, at 203 dpi too', async () => {
		const number = fc.stringMatching(/^[A-Z0-9][A-Za-z0-9./-]{0,19}$/);
		await fc.assert(
			fc.asyncProperty(number, number, fc.constantFrom(...symbols), async (serial, lot, symbol) => {
				const { label, text } = await read({ ...base, kind: 'serial', number: serial, lot }, symbol, 203);
				expect(text).toEqual([label.reads]);
			}),
			{ numRuns: 40 }
		);
	});
	it('one that is not found at first is found from nearer', async () => {
		const { label, text } = await read(
			{ ...base, kind: 'serial', number: '40A1F', lot: '0A/q.e/' },
			'GS1 DataMatrix',
			203
		);
		expect(text).toEqual([label.reads]);
	});
	it('a short code that bars of another seem to make is none', async () => {
		// Both were found in one picture of a label.
		const { text } = await read({ ...base, kind: 'serial', number: '2.E/Y1', lot: '6key' }, 'QR code', 203);
		expect(text).toEqual(['https://id.gs1.org/01/09506000100098/10/6key/21/2.E%2FY1']);
		const itf = (text: string) => ({ format: 'ITF', text, symbologyIdentifier: ']I0', isValid: true });
		expect(codesIn([itf('0690'), itf('10614141999993')])).toEqual(['10614141999993']);
	});
	it('what a GS1 label says is what a scan of it understands', () => {
		const label = labelOf(
			{ ...base, kind: 'serial', number: 'VB-7731', lot: '26W46-A', expiresOn: '2027-12-31' },
			'GS1 DataMatrix'
		);
		const want = { gtin, lot: '26W46-A', serial: 'VB-7731', expiresOn: '2027-12-31' };
		expect(readScan(label.reads, 2026)).toMatchObject(want);
		expect(
			readScan(
				labelOf({ ...base, kind: 'serial', number: 'VB-7731', lot: '26W46-A', expiresOn: '2027-12-31' }, 'QR code')
					.reads,
				2026
			)
		).toMatchObject(want);
	});
});

/** Where black turns to white or back along one line of a picture, at a share of its height. */
function edgesOf(png: Buffer, share: number): number[] {
	const { data, width, height } = PNG.sync.read(png);
	const row = Math.round(height * share);
	const dark = (x: number) => data[(row * width + x) * 4] < 128;
	return Array.from({ length: width - 1 }, (_, x) => x + 1).filter((x) => dark(x) !== dark(x - 1));
}

describe('a label', () => {
	it('is drawn to the printer’s grid: every edge of its code lies on a whole number of dots', async () => {
		for (const dpi of resolutions)
			for (const symbol of symbols) {
				const label = labelOf(base, symbol);
				const dots = dotsPerModule(label.bcid, dpi);
				expect(Number.isInteger(dots)).toBe(true);
				// Bars at half their height, a matrix in its middle: what is black begins and ends on the grid.
				const edges = edgesOf(await drawCode(label, dpi), label.bcid === 'code128' ? 0.3 : 0.45);
				expect([symbol, dpi, edges.filter((e) => (e - edges[0]) % dots)]).toEqual([symbol, dpi, []]);
				expect(edges.length).toBeGreaterThan(8);
			}
	});
	it('fits on its label with its text, in every size that it is printed on; what does not fit is not printed', async () => {
		for (const size of Object.keys(SIZES) as LabelSize[])
			for (const symbol of symbols)
				for (const dpi of resolutions) {
					const png = await fitCode(
						labelOf({ ...base, kind: 'serial', number: 'VB-7731', lot: '26W46-A' }, symbol),
						dpi,
						size
					);
					if (!png) expect([size, symbol]).toEqual(['50 × 25', 'QR code']);
					else expect(png.readUInt32BE(16) / (dpi / 25.4)).toBeLessThanOrEqual(SIZES[size].width);
					if (png) expect((await readBarcodes(new Uint8Array(png), { tryHarder: true }))[0].text).toContain('VB-7731');
				}
		const long = labelOf({ ...base, number: 'A'.repeat(45), gtin: null }, 'Code 128');
		expect(await fitCode(long, 203, '50 × 25')).toBeNull();
		expect(await fitCode(long, 600, '148 × 105')).not.toBeNull();
	});
	it('of a pallet carries its SSCC, whatever its kind', () => {
		const pallet = cases.find((c) => c.kind === 'pallet')!;
		for (const symbol of symbols)
			expect(readScan(labelOf(pallet, symbol).reads, 2026)).toMatchObject({ sscc: pallet.number });
	});
	it('carries the supplier’s numbers where they are printed', () => {
		expect(labelOf({ ...base, theirs: 'lot 88-1302' }, 'QR code').lines).toContain('Supplier’s lot 88-1302');
	});
	it('of every item of the demo has a GTIN whose check digit is right', () => {
		for (const i of items) expect([i.code, gs1Valid(i.gtin!)]).toEqual([i.code, true]);
	});
	it('one or a thousand make a PDF', async () => {
		const label = labelOf(base, 'Code 128');
		for (const n of [1, 1000]) {
			const pdf = await labelsPdf(
				Array.from({ length: n }, () => label),
				203,
				'70 × 35'
			);
			expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
			expect(pdf.toString('latin1').match(/\/Type \/Page\b/g)).toHaveLength(n);
		}
	});
});
