// Reads codes from pictures of the camera, away from the page's own thread.
import { prepareZXingModule, readBarcodes } from 'zxing-wasm/reader';
import wasm from 'zxing-wasm/reader/zxing_reader.wasm?url';

void prepareZXingModule({ overrides: { locateFile: () => wasm }, fireImmediately: true });

addEventListener('message', async ({ data }: MessageEvent<ImageData>) => {
	const found = await readBarcodes(data, { textMode: 'Plain', tryHarder: true, maxNumberOfSymbols: 1 }).catch(() => []);
	const [code] = found.filter((f) => f.isValid);
	// A scanner sends the identifier of a GS1 code first; so do we.
	const id = code && /^\](d2|C1|Q3|e\d)$/.test(code.symbologyIdentifier) ? code.symbologyIdentifier : '';
	postMessage(code ? id + code.text : null);
});
